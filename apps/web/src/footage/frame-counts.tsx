import type { Footage } from '@idle-bend/core/api';
import { renumberSource } from '@idle-bend/core/edit';
import { speakRate } from '@idle-bend/core/time';
import { useEffect } from 'react';
import { useFootage } from '../bench/motion.ts';
import { tell } from '../session/notices.ts';
import { amend, projectStore } from '../session/session.ts';
import { useProject } from '../ui/use-session.ts';
import { estimates } from './estimates.ts';

/** Brings the project up to date with frames that were estimated when their file was taken in and have been counted since. */
export function FrameCounts() {
  const footage = useFootage();
  const projectId = useProject((s) => s.id);
  const known = (footage ?? []).filter(({ facts }) => facts.picture?.estimate);
  const key = known.map(({ id, facts }) => `${id} ${facts.picture!.estimate!.isCounted}`).join(' ');
  useEffect(() => {
    const open = known.filter(({ facts }) => !facts.picture!.estimate!.isCounted);
    estimates.open = new Map(open.map(({ id, name }) => [id, name]));
    for (const each of known) if (!estimates.open.has(each.id)) renumber(each);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the key says all
  }, [key, projectId]);
  return null;
}

function renumber({ id, name, facts }: Footage): void {
  const picture = facts.picture!;
  const estimate = picture.estimate!;
  const before = projectStore.getState().whole;
  if (!before || renumberSource(before, id, estimate, picture) === before) return;
  amend((project) => renumberSource(project, id, estimate, picture));
  const was = `${estimate.frames} at ${speakRate(estimate.rate)} fps`;
  tell(
    `"${name}" has ${picture.frames} frames at ${speakRate(picture.rate)} fps; ${was} were estimated. What was marked and bent stays at its time.`,
    { durationMs: 15_000 },
  );
}
