import { excerptOf } from '@idle-bend/core/group';
import type { Clip } from '@idle-bend/core/model';
import { allClips, plainMap } from '@idle-bend/core/reel';
import { usableFrames } from '@idle-bend/core/sampling';
import type { Level } from '@idle-bend/pipeline';
import type { Compared } from '../../preview/messages.ts';
import { benchStore, type BenchClip, type Compare } from '../../session/bench-state.ts';
import { current } from '../../session/command.ts';

const HOWS = ['side', 'wipe', 'blink', 'difference'] as const;

/** What a clip is compared with: the clip as it would be, in its project; nothing when that is gone. */
export function compared(
  { clip, source, project }: BenchClip,
  { other }: Compare,
): Omit<Compared, 'how' | 'by' | 'edge'> | undefined {
  const as = (change: Partial<Clip>, level?: Level) => ({
    project: excerptOf(project, [clip]),
    clip: { ...clip, ...change },
    level,
  });
  // Made one way throughout, whatever is said of parts of it.
  if (other.kind === 'method') return as({ method: other.method, reachMethods: [], mends: [] }, other.level);
  if (other.kind === 'plain')
    return as({ map: plainMap(source, project.reel.rate, 0, usableFrames(source) - 1), reachMethods: [] });
  if (other.kind === 'version') {
    const map = clip.versions.find((v) => v.id === other.id)?.map;
    return map && as({ map, reachMethods: [] });
  }
  const { opened } = benchStore.getState();
  const before = opened && allClips(opened).find(({ id }) => id === clip.id);
  return before && { project: excerptOf(opened, [before]), clip: before, level: undefined };
}

/** Compares with the last version that was kept, else with the clip at 100 %. */
export function toggleCompare(): void {
  const bench = current();
  if (!bench) return;
  if (benchStore.getState().compare) return benchStore.setState({ compare: undefined });
  const last = bench.clip.versions.at(-1);
  compareWith(last ? { kind: 'version', id: last.id } : { kind: 'plain' });
}

export function compareWith(other: Compare['other']): void {
  benchStore.setState(({ compare }) => ({
    original: undefined,
    look: 'picture',
    compare: { how: 'wipe', by: 'time', edge: 0.5, ...compare, other },
  }));
}

export const setCompare = (change: Partial<Compare>) =>
  benchStore.setState(({ compare }) => ({ compare: compare && { ...compare, ...change } }));
export const nextHow = () =>
  setCompare({ how: HOWS[(HOWS.indexOf(benchStore.getState().compare?.how ?? 'side') + 1) % HOWS.length]! });
export const nextInStep = () => setCompare({ by: benchStore.getState().compare?.by === 'time' ? 'source' : 'time' });
