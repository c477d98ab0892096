import { useEffect, useMemo, useState, type RefObject } from 'react';
import { framesPerSecond, makingOf, type Making } from '@idle-bend/core';
import { useQuery } from '@tanstack/react-query';
import { api, proxyUrl } from '../api.ts';
import { useProject } from '../shell/project-store.ts';
import type { Compared, FromPreview } from '../preview/messages.ts';
import { endPreview, startPreview, tellPreview } from '../preview/thread.ts';
import { benchClips, useBench, type BenchClip } from './bench-store.ts';
import { keepThumb } from './thumbs.ts';

function hear(message: FromPreview): void {
  if (message.kind === 'shown') useBench.setState({ shown: message });
  if (message.kind === 'smooth') useBench.setState(({ smooth }) => ({ smooth: smooth && { ...smooth, done: message.done, total: message.total } }));
  if (message.kind === 'thumb') keepThumb(message);
}

/** How the clip's in-betweens are made: the same value while nothing about it changes. */
function useMaking({ project, clip }: BenchClip): Making {
  const { method, temper } = project.reel;
  // eslint-disable-next-line react-hooks/exhaustive-deps -- of the project only the reel's own choices matter
  return useMemo(() => makingOf(project, clip), [clip, method, temper]);
}

/** This many seconds before a cut the clip behind it is made ready. */
const AHEAD_SECONDS = 1;

/** Near a cut, while playing on, the thread is told of the clip that follows. */
function useNextClip({ project, clip, frames }: BenchClip): void {
  const projectId = useProject((s) => s.id) ?? '';
  const { data: footage } = useQuery({ queryKey: ['footage', projectId], queryFn: () => api.footage(projectId) });
  const near = useBench((s) => s.clock > 0 && frames - s.k < AHEAD_SECONDS * framesPerSecond(project.reel.rate));
  useEffect(() => {
    if (!near) return;
    const clips = benchClips(project);
    const next = clips[clips.findIndex((each) => each.clip.id === clip.id) + 1];
    const media = footage?.find(({ id }) => id === next?.source.id);
    if (!next || media?.status !== 'ready') return;
    const { source, clip: item, frames: length } = next;
    const making = makingOf(project, item);
    const film = { footageId: source.id, url: proxyUrl(source.id, media.revision), frames: source.frames, framesPerSecond: framesPerSecond(source.nativeRate) };
    tellPreview({ kind: 'next', k: 0, clip: { ...film, skips: source.skips, map: item.map, making, end: item.end, length } });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for every cut that comes near
  }, [near, clip.id]);
}

/**
 * The preview thread and the canvas it draws on, put into `holder`. Sends it the clip and the playhead. Returns its
 * last problem, if there is one.
 */
export function usePreview(holder: RefObject<HTMLElement | null>, bench: BenchClip, other: Compared | undefined, revision: string): string | undefined {
  const { clip, source, frames } = bench;
  const [problem, setProblem] = useState<string>();

  // A canvas is handed over once in its life, so thread and canvas live and die together.
  useEffect(() => {
    const canvas = document.createElement('canvas');
    canvas.className = 'h-full w-full object-contain';
    canvas.setAttribute('aria-hidden', 'true');
    holder.current!.append(canvas);
    const thread = startPreview();
    thread.addEventListener('message', ({ data }: MessageEvent<FromPreview>) => {
      setProblem(data.kind === 'problem' ? data.message : undefined);
      hear(data);
    });
    const offscreen = canvas.transferControlToOffscreen();
    tellPreview({ kind: 'canvas', canvas: offscreen }, [offscreen]);
    return () => {
      endPreview(thread);
      canvas.remove();
      useBench.setState({ shown: undefined, smooth: undefined });
    };
  }, [holder]);

  const k = useBench((s) => s.k);
  const clock = useBench((s) => s.clock);
  const look = useBench((s) => s.look);
  const making = useMaking(bench);
  const { map, end } = clip;
  useEffect(() => {
    const { id, nativeRate, skips } = source;
    const framesEachSecond = framesPerSecond(nativeRate);
    tellPreview({
      kind: 'clip',
      clip: { footageId: id, url: proxyUrl(id, revision), frames: source.frames, framesPerSecond: framesEachSecond, skips, map, making, end, length: frames },
    });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- names and moments of the source change no picture
  }, [map, making, end, source.id, source.frames, source.nativeRate, source.skips, revision, frames]);
  useEffect(() => tellPreview({ kind: 'compare', other }), [other]);
  useEffect(() => tellPreview({ kind: 'look', look }), [look]);
  useEffect(() => {
    tellPreview({ kind: 'show', k: Math.min(k, frames - 1), direction: clock, settled: clock === 0 });
  }, [k, clock, frames, map, making, end, source.id, source.skips, other, look]);
  useNextClip(bench);
  const smooth = useBench((s) => s.smooth);
  const stretch = smooth?.clip === clip ? `${smooth.from} ${smooth.to}` : '';
  // After the clip itself: a clip that changes stops what was made ahead for the one before.
  useEffect(() => {
    const [from, to] = stretch.split(' ').map(Number);
    tellPreview({ kind: 'smooth', stretch: stretch === '' ? undefined : { from: from!, to: to! } });
  }, [stretch, map, making]);
  return problem;
}
