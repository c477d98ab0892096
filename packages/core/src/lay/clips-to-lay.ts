import type { Project } from '../model/project.js';

/** The clips that are laid together: those picked, else all from the clip on up to the next gap. In the order of the reel. */
export function clipsToLay(project: Project, clipId: string, picked: readonly string[]): string[] {
  const { items } = project.reel;
  const clips = items.filter(({ kind }) => kind === 'clip').map(({ id }) => id);
  if (picked.length > 0) return clips.filter((id) => id === clipId || picked.includes(id));
  const first = items.findIndex(({ id }) => id === clipId);
  const gap = items.findIndex((item, i) => i > first && item.kind === 'gap');
  return items.slice(first, gap < 0 ? undefined : gap).flatMap(({ kind, id }) => (kind === 'clip' ? [id] : []));
}

/** How long each clip may be. */
export type EachLength = 'choose' | '2' | '4' | 'bar' | 'bars';

/** Those lengths in beats, for bars of so many. */
export function lengthsFor(each: EachLength, barBeats: number): number[] {
  const lengths = {
    choose: [1, 2, barBeats, 2 * barBeats, 4 * barBeats],
    ...{ '2': [2], '4': [4], bar: [barBeats], bars: [2 * barBeats] },
  }[each];
  return [...new Set(lengths)];
}
