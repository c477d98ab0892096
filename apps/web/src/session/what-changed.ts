import type { Project } from '@idle-bend/core/model';

interface Named {
  readonly id: string;
  readonly name?: string;
}

/** What of a project is named when it is different, and what one of them without a name is called. */
const KINDS: readonly { readonly of: (project: Project) => readonly Named[]; readonly one: string }[] = [
  { of: ({ reel }) => reel.items.filter(({ kind }) => kind === 'clip'), one: 'a clip' },
  { of: ({ reel }) => reel.items.filter(({ kind }) => kind === 'gap'), one: 'a gap' },
  { of: ({ sources }) => sources, one: 'footage' },
  { of: ({ reel }) => reel.cues, one: 'a cue' },
  { of: ({ reel }) => reel.sounds, one: 'a sound' },
  { of: ({ reel }) => reel.joins, one: 'a ramp join' },
];

/** More than this is not told one by one. */
const MOST = 3;

/** How a project differs from what it was, in a few words: for where that cannot be seen. */
export function whatChanged(before: Project, after: Project): string {
  const changes = KINDS.flatMap(({ of, one }) => {
    const [was, is] = [of(before), of(after)];
    const name = (item: Named) => (item.name ? `“${item.name}”` : one);
    const other = (list: readonly Named[], { id }: Named) => list.find((each) => each.id === id);
    return [
      ...is.filter((item) => !other(was, item)).map((item) => `${name(item)} is there`),
      ...was.filter((item) => !other(is, item)).map((item) => `${name(item)} is gone`),
      ...is
        .filter((item) => other(was, item) && JSON.stringify(other(was, item)) !== JSON.stringify(item))
        .map((item) => `${name(item)} is changed`),
    ];
  });
  if (changes.length === 0) return 'the reel is changed';
  const left = changes.length - MOST;
  return [...changes.slice(0, MOST), ...(left > 0 ? [`${left} more`] : [])].join(', ');
}
