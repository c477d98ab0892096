import { useEffect, useMemo, useRef, useState, type RefObject } from 'react';
import { framesPerSecond, type TimeMap } from '@idle-bend/core';
import { proxyUrl } from '../api.ts';
import type { FromPreview, ToPreview } from '../preview/messages.ts';
import { useBench, type BenchClip } from './bench-store.ts';

/**
 * The preview thread and the canvas it draws on, put into `holder`. Sends it the clip and the playhead. Returns its
 * last problem, if there is one.
 */
export function usePreview(
  holder: RefObject<HTMLElement | null>,
  { clip, source, frames }: BenchClip,
  other: TimeMap | undefined,
  revision: string,
): string | undefined {
  const worker = useRef<Worker | undefined>(undefined);
  const [problem, setProblem] = useState<string>();

  // A canvas is handed over once in its life, so thread and canvas live and die together.
  useEffect(() => {
    const canvas = document.createElement('canvas');
    canvas.className = 'h-full w-full object-contain';
    canvas.setAttribute('aria-hidden', 'true');
    holder.current!.append(canvas);
    const thread = new Worker(new URL('../preview/preview.worker.ts', import.meta.url), { type: 'module' });
    worker.current = thread;
    thread.addEventListener('message', ({ data }: MessageEvent<FromPreview>) => {
      setProblem(data.kind === 'problem' ? data.message : undefined);
      if (data.kind === 'shown') useBench.setState({ shown: data });
    });
    const offscreen = canvas.transferControlToOffscreen();
    thread.postMessage({ kind: 'canvas', canvas: offscreen } satisfies ToPreview, [offscreen]);
    return () => {
      thread.terminate();
      canvas.remove();
      useBench.setState({ shown: undefined });
    };
  }, [holder]);

  const k = useBench((s) => s.k);
  const clock = useBench((s) => s.clock);
  const { map, method, end } = clip;
  useEffect(() => {
    const preview = {
      footageId: source.id,
      url: proxyUrl(source.id, revision),
      frames: source.frames,
      framesPerSecond: framesPerSecond(source.nativeRate),
      skips: source.skips,
      map,
      method,
      end,
    };
    worker.current?.postMessage({ kind: 'clip', clip: preview } satisfies ToPreview);
  }, [map, method, end, source.id, source.frames, source.nativeRate, source.skips, revision]);
  const compare = useBench((s) => s.compare);
  const compared = useMemo(() => (compare && other ? { map: other, how: compare.how, by: compare.by, edge: compare.edge } : undefined), [compare, other]);
  useEffect(() => {
    worker.current?.postMessage({ kind: 'compare', other: compared } satisfies ToPreview);
  }, [compared]);
  useEffect(() => {
    worker.current?.postMessage({ kind: 'show', k: Math.min(k, frames - 1), direction: clock, settled: clock === 0 } satisfies ToPreview);
  }, [k, clock, frames, map, method, end, source.id, source.skips, compared]);
  return problem;
}
