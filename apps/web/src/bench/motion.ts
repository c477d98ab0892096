import type { Footage } from '@idle-bend/core/api';
import type { SourceMotion } from '@idle-bend/core/motion';
import { roughSpots, type RoughSpot } from '@idle-bend/core/rough';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { api } from '../api.ts';
import { later } from '../in-turns.ts';
import { benchStore, type BenchClip } from '../session/bench-state.ts';
import { current } from '../session/command.ts';
import { useKnown } from '../ui/use-known.ts';
import { useProject } from '../ui/use-session.ts';

/** The project's footage, as the server knows it; nothing before it has answered. */
export function useFootage(): readonly Footage[] | undefined {
  const projectId = useProject((s) => s.id) ?? '';
  return useQuery({ queryKey: ['footage', projectId], queryFn: () => api.footage(projectId) }).data;
}

/** The footage behind a source; none behind a group. */
export const useFootageOf = (sourceId: string): Footage | undefined => useFootage()?.find(({ id }) => id === sourceId);

/** What is known of the motion in a source; nothing before the server has looked at it, which it does first of all unless `isFirst` is false. */
export function useMotion(
  sourceId: string,
  isFirst = true,
): { readonly motion: SourceMotion | undefined; readonly failed: boolean } {
  const media = useFootageOf(sourceId);
  const { data: motion } = useQuery({
    queryKey: ['motion', sourceId, media?.revision],
    queryFn: () => api.motion(sourceId, media!.revision),
    enabled: media?.motion === 'ready',
    staleTime: Infinity,
  });
  // Whoever looks at a clip is told of its motion before that of the others.
  useQuery({
    queryKey: ['motion first', sourceId],
    queryFn: () => api.motionFirst(sourceId),
    enabled: isFirst && media?.motion === 'waiting',
    staleTime: Infinity,
  });
  return { motion, failed: media?.motion === 'failed' };
}

/** The same of several sources: those that are known. */
export function useMotions(sourceIds: readonly string[]): ReadonlyMap<string, SourceMotion> {
  const ready = (useFootage() ?? []).filter(({ id, motion }) => motion === 'ready' && sourceIds.includes(id));
  return useKnown(
    ready.map(({ id, revision }) => ({
      id,
      queryKey: ['motion', id, revision],
      queryFn: () => later(() => api.motion(id, revision)),
    })),
  );
}

const NONE: readonly RoughSpot[] = [];

/** The rough spots of a clip, as far as its source's motion is known. */
export function useRoughSpots({ project, clip }: BenchClip): readonly RoughSpot[] {
  const { motion } = useMotion(clip.sourceId);
  const { method, tuning } = project.reel;
  return useMemo(
    () => (motion ? roughSpots(project, clip, motion) : NONE),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- of the project only what the clip is made by matters
    [motion, clip, method, tuning, project.sources],
  );
}

/** Makes a stretch of the clip ahead: the range, or all of it; while that is under way, stops it. */
export function makeSmooth(): void {
  const bench = current();
  if (!bench) return;
  const { smooth, range } = benchStore.getState();
  if (smooth && smooth.clip === bench.clip && smooth.done < smooth.total)
    return benchStore.setState({ smooth: undefined });
  const [from, to] = range
    ? [Math.max(0, Math.floor(range.from)), Math.min(bench.frames, Math.ceil(range.to)) - 1]
    : [0, bench.frames - 1];
  benchStore.setState({ smooth: { clip: bench.clip, from, to, done: 0, total: to - from + 1 } });
}
