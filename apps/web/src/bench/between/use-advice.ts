import { adviseClip, type Advice } from '@idle-bend/core/advice';
import type { Clip, Project } from '@idle-bend/core/model';
import { type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';

const known = new WeakMap<Clip, { readonly project: Project; readonly advice: readonly Advice[] }>();

/** The key a piece of advice is dismissed by. */
export const adviceKey = (clip: Clip, { id }: Advice) => `${clip.id} ${id}`;

/** What there is to say of a clip and was not dismissed; computed once for all who show it. */
export function useAdvice({ project, clip }: BenchClip): readonly Advice[] {
  const dismissed = useBench((s) => s.dismissed);
  let found = known.get(clip);
  if (found?.project !== project) known.set(clip, (found = { project, advice: adviseClip(project, clip) }));
  return found.advice.filter((a) => !dismissed.includes(adviceKey(clip, a)));
}
