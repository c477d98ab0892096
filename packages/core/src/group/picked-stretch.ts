import type { Project } from '../model/project.js';

/** Clips that are picked, with the gaps between them: nobody picks a gap. In the order of the reel. */
export function withGapsBetween(project: Project, clipIds: ReadonlySet<string>): string[] {
  const { items } = project.reel;
  const isPicked = ({ id }: { readonly id: string }) => clipIds.has(id);
  const stretch = items.slice(items.findIndex(isPicked), items.findLastIndex(isPicked) + 1);
  return stretch.filter((item) => item.kind === 'gap' || isPicked(item)).map(({ id }) => id);
}
