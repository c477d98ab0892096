import type { Clip } from '../model/clip.js';
import type { Project } from '../model/project.js';

interface Named {
  readonly id: string;
  readonly name?: string;
}

/** What of a project is named when it is different, what one of them without a name is called, and what comes before its name. */
const KINDS: readonly {
  readonly of: (project: Project) => readonly Named[];
  readonly one: string;
  readonly prefix?: string;
}[] = [
  { of: ({ reel }) => reel.items.filter(({ kind }) => kind === 'clip'), one: 'a clip' },
  { of: ({ reel }) => reel.items.filter(({ kind }) => kind === 'gap'), one: 'a gap' },
  { of: ({ sources }) => sources, one: 'footage', prefix: 'footage ' },
  { of: ({ reel }) => reel.cues, one: 'a cue' },
  { of: ({ reel }) => reel.sounds, one: 'a sound' },
  { of: ({ reel }) => reel.joins, one: 'a ramp join' },
  { of: ({ reel }) => reel.accents, one: 'an accent' },
];

/** What of a clip can differ, as an editor calls it. */
const PARTS: Readonly<Partial<Record<keyof Clip, string>>> = {
  ...{ map: 'speed', method: 'in-betweens', reachMethods: 'in-betweens', mends: 'in-betweens', tuning: 'in-betweens' },
  ...{ sourceId: 'footage', name: 'name', ties: 'landings', locks: 'locks', limits: 'limits', versions: 'versions' },
  ...{ pin: 'pinned cut', framing: 'framing', blur: 'blur', steady: 'steadying', sound: 'sound' },
};

/** More than this is not told one by one. */
const MOST = 3;

/** How a project differs from what it was, in a few words: for where that cannot be seen. */
export function whatChanged(before: Project, after: Project): string {
  const changes = KINDS.flatMap(({ of, one, prefix = '' }) => {
    const [was, is] = [of(before), of(after)];
    const name = (item: Named) => (item.name ? `${prefix}“${item.name}”` : one);
    const other = (list: readonly Named[], { id }: Named) => list.find((each) => each.id === id);
    return [
      ...is.filter((item) => !other(was, item)).map((item) => `${name(item)} is there`),
      ...was.filter((item) => !other(is, item)).map((item) => `${name(item)} is gone`),
      ...is.flatMap((item) => {
        const old = other(was, item);
        return !old || isSame(old, item) ? [] : [`${name(item)} is changed${partsOf(old, item)}`];
      }),
    ];
  });
  if (changes.length === 0) return isSame(before.reel, after.reel) ? 'nothing is changed' : 'the reel is changed';
  const left = changes.length - MOST;
  return [...changes.slice(0, MOST), ...(left > 0 ? [`${left} more`] : [])].join(', ');
}

const isSame = (a: unknown, b: unknown) => a === b || JSON.stringify(a) === JSON.stringify(b);

function partsOf(before: Named, after: Named): string {
  const parts = Object.entries(PARTS).flatMap(([key, part]) =>
    isSame(before[key as keyof Named], after[key as keyof Named]) ? [] : [part],
  );
  return parts.length > 0 ? ` (${[...new Set(parts)].join(', ')})` : '';
}
