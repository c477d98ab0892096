import { footageOnReel } from '@idle-bend/core/group';
import { useQueries, useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useRef } from 'react';
import { later } from '../../in-turns.ts';
import { api } from '../../api.ts';
import { useTheme } from '../../shell/use-theme.ts';
import { useStrips } from '../strips.ts';
import { useFrameThumbs, useThumbsThere } from '../picture/thumbs.ts';
import { landedFrames } from './draw-pictures.ts';
import { coloursOf, drawReel } from './draw-reel.ts';
import type { X } from './reel-view.ts';
import { type BenchClip } from '../../session/bench-state.ts';
import { useProject } from '../../ui/use-session.ts';

/** The waveforms of all sounds of the reel that have been listened to. */
function useAllPeaks(footageIds: readonly string[]): ReadonlyMap<string, Int8Array> {
  const projectId = useProject((s) => s.id) ?? '';
  const { data: footage } = useQuery({ queryKey: ['footage', projectId], queryFn: () => api.footage(projectId) });
  const byId = useMemo(() => new Map(footage?.map((f) => [f.id, f])), [footage]);
  const media = footageIds.map((id) => byId.get(id));
  return useQueries({
    queries: footageIds.map((id, i) => ({
      queryKey: ['peaks', id, media[i]?.revision],
      queryFn: () => later(() => api.peaks(id, media[i]!.revision)),
      enabled: media[i]?.sound === 'ready',
      staleTime: Infinity,
    })),
    combine: (results) => new Map(results.flatMap(({ data }, i) => (data ? [[footageIds[i]!, data] as const] : []))),
  });
}

/** What of the reel is drawn: under the parts one can press. */
export function ReelCanvas({
  bench,
  clips,
  x,
  width,
  height,
}: {
  bench: BenchClip;
  clips: readonly BenchClip[];
  x: X;
  width: number;
  height: number;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { project } = bench;
  const { sounds } = project.reel;
  const { sources } = project;
  const ids = useMemo(
    () => [...new Set([...sounds.map(({ footageId }) => footageId), ...sources.map(({ id }) => id)])],
    [sounds, sources],
  );
  const peaks = useAllPeaks(ids);
  const onReel = useMemo(() => [...footageOnReel(project)], [project]);
  const { footage, strips } = useStrips(onReel);
  const landed = useMemo(() => landedFrames(bench), [bench]);
  useFrameThumbs(bench.source.id, landed);
  const thumb = useThumbsThere();
  const theme = useTheme();
  const active = bench.clip.id;
  useEffect(() => {
    const element = canvas.current!;
    const handle = requestAnimationFrame(() => {
      const ratio = devicePixelRatio || 1;
      const [w, h] = [Math.round(width * ratio), Math.round(height * ratio)];
      if (element.width !== w || element.height !== h) [element.width, element.height] = [w, h];
      const context = element.getContext('2d')!;
      context.setTransform(ratio, 0, 0, ratio, 0, 0);
      context.clearRect(0, 0, width, height);
      drawReel(context, { project, clips, active, x, peaks, footage, strips, thumb, colours: coloursOf(element) });
    });
    return () => cancelAnimationFrame(handle);
  }, [project, clips, active, x, width, height, peaks, footage, strips, thumb, theme]);
  return <canvas ref={canvas} className="absolute inset-0" style={{ width, height }} aria-hidden />;
}
