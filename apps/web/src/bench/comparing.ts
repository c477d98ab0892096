import { plainMap, usableFrames, type TimeMap } from '@idle-bend/core';
import { useBench, type BenchClip, type Compare } from './bench-store.ts';
import { current } from './edits.ts';

const HOWS = ['side', 'wipe', 'blink'] as const;

/** The curve a clip is compared with; none when it is gone. */
export function comparedMap({ clip, source, project }: BenchClip, compare: Compare | undefined): TimeMap | undefined {
  if (!compare) return undefined;
  const { other } = compare;
  if (other.kind === 'version') return clip.versions.find((v) => v.id === other.id)?.map;
  if (other.kind === 'plain') return plainMap(source, project.reel.rate, 0, usableFrames(source) - 1);
  const before = useBench.getState().opened?.reel.items.find((item) => item.id === clip.id);
  return before?.kind === 'clip' ? before.map : undefined;
}

/** Compares with the last version that was kept, else with the clip at 100 %. */
export function toggleCompare(): void {
  const bench = current();
  if (!bench) return;
  if (useBench.getState().compare) return useBench.setState({ compare: undefined });
  const last = bench.clip.versions.at(-1);
  compareWith(last ? { kind: 'version', id: last.id } : { kind: 'plain' });
}

export function compareWith(other: Compare['other']): void {
  useBench.setState(({ compare }) => ({ original: undefined, compare: { how: 'wipe', by: 'time', edge: 0.5, ...compare, other } }));
}

export const setCompare = (change: Partial<Compare>) => useBench.setState(({ compare }) => ({ compare: compare && { ...compare, ...change } }));
export const nextHow = () => setCompare({ how: HOWS[(HOWS.indexOf(useBench.getState().compare?.how ?? 'side') + 1) % HOWS.length]! });
export const nextInStep = () => setCompare({ by: useBench.getState().compare?.by === 'time' ? 'source' : 'time' });
