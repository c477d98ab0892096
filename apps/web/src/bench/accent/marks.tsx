import { type AccentTime, accentTimes, isTransition, leaveOut } from '@idle-bend/core/accent';
import { coveredLandings } from '@idle-bend/core/landing';
import type { AccentSet, Project } from '@idle-bend/core/model';
import { formatTimecode } from '@idle-bend/core/time';
import { X } from 'lucide-react';
import { Note } from '../../ui/panel.tsx';
import { goToReelFrame } from '../../session/bench-state.ts';
import { attempt } from '../../session/command.ts';
import { edit } from '../../session/session.ts';

/** Landings that are hardly seen, for a transition lies over them; a press goes there. */
export function Covered({ project }: { project: Project }) {
  return coveredLandings(project).map(({ clipId, clipName, moment, shownAt }) => (
    <Note key={`${clipId} ${moment.id}`} tone="missed">
      <button className="text-left hover:underline" onClick={() => goToReelFrame(project, shownAt)}>
        {moment.name ? `“${moment.name}”` : 'A moment'} of {clipName} lands where less than half of it is seen; put less
        of the transition there.
      </button>
    </Note>
  ));
}

/** Where there is no room for a transition as long as it should be, and why. */
function Shortened({ project, set, marks }: { project: Project; set: AccentSet; marks: readonly AccentTime[] }) {
  const short = marks.filter(({ frames }) => frames < set.look.frames);
  if (!isTransition(set) || short.length === 0) return null;
  const at = short.slice(0, 3).map(({ frame, frames }) => {
    const place = formatTimecode(frame, project.reel.rate);
    return frames === 0 ? `none at ${place}` : `${frames} frames at ${place}`;
  });
  const more = short.length > 3 ? ` and at ${short.length - 3} more` : '';
  return (
    <Note tone="missed">
      Shorter than {set.look.frames} frames: {at.join(', ')}
      {more}. The clips there have no more source frames beyond the cut, or are too short; trim or slip them to make
      room.
    </Note>
  );
}

const MAX_LISTED = 60;

/** Every accent of the set: a press goes there, its cross leaves it out. */
export function Marks({ project, set }: { project: Project; set: AccentSet }) {
  const marks = accentTimes(project).filter((mark) => mark.set.id === set.id);
  if (marks.length === 0) return <p className="text-faint text-xs">None falls on the reel.</p>;
  return (
    <div>
      <span className="label">{marks.length === 1 ? 'Placed once' : `Placed ${marks.length} times`}</span>
      <ul className="mb-2 flex flex-wrap gap-1" aria-label="Accents">
        {marks.slice(0, MAX_LISTED).map((mark) => (
          <li key={mark.at} className="border-line flex items-center rounded-md border font-mono text-[11px]">
            <button className="px-1.5 py-0.5" onClick={() => goToReelFrame(project, mark.frame)}>
              {formatTimecode(mark.frame, project.reel.rate)}
            </button>
            <button
              className="text-faint hover:text-vermilion pr-1"
              aria-label={`Leave out ${formatTimecode(mark.frame, project.reel.rate)}`}
              onClick={() => attempt(() => edit((before) => leaveOut(before, mark)))}
            >
              <X size={11} aria-hidden />
            </button>
          </li>
        ))}
        {marks.length > MAX_LISTED && <li className="text-faint text-xs">and {marks.length - MAX_LISTED} more</li>}
      </ul>
      <Shortened project={project} set={set} marks={marks} />
    </div>
  );
}
