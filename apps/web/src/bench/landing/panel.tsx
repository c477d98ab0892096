import { missedPins } from '@idle-bend/core/edit';
import { byDrift, reelDrifts } from '@idle-bend/core/landing';
import { Link2, X } from 'lucide-react';
import { landWholeReel } from './commands.ts';
import { Note, Panel } from '../../ui/panel.tsx';
import { benchStore, goToReelFrame, select, type BenchClip } from '../../session/bench-state.ts';

/** Every tied moment of the reel, what misses most first; a press goes there. */
export function LandingsPanel({ bench }: { bench: BenchClip }) {
  const { project } = bench;
  const drifts = byDrift(reelDrifts(project));
  const missing = drifts.filter(({ landed }) => !landed).length;
  const pins = missedPins(project);
  const go = (clipId: string, momentId: string, frame: number) => {
    goToReelFrame(project, frame);
    benchStore.setState({ activeId: clipId });
    select({ kind: 'moment', id: momentId });
  };
  const close = (
    <button className="button px-1.5" aria-label="Close" onClick={() => select({ kind: 'clip' })}>
      <X size={15} aria-hidden />
    </button>
  );
  return (
    <Panel
      title="Landings"
      {...(drifts.length > 0 && { about: `${drifts.length - missing} of ${drifts.length} landed` })}
      action={close}
    >
      {drifts.length === 0 && (
        <Note>No moment is tied yet: mark one (M) and land it (T), or draw its thread to a beat.</Note>
      )}
      {missing > 0 && (
        <button className="button button-ink self-start" onClick={() => void landWholeReel()}>
          <Link2 size={15} aria-hidden /> Land all of them <kbd className="font-mono text-xs opacity-70">Shift T</kbd>
        </button>
      )}
      {pins.length > 0 && (
        <Note tone="missed">
          {pins.length === 1 ? 'One pinned cut is' : `${pins.length} pinned cuts are`} missed: what comes before has no
          room to give.
        </Note>
      )}
      <ol className="divide-line divide-y" aria-label="All landings">
        {drifts.map(({ clipId, clipName, moment, cue, frames, landed, shownAt }) => (
          <li key={`${clipId} ${moment.id}`}>
            <button
              className="flex w-full items-baseline gap-2 py-1 text-left text-sm hover:underline"
              onClick={() => go(clipId, moment.id, shownAt)}
            >
              <span
                className={`w-14 shrink-0 font-mono text-xs font-semibold ${landed ? 'text-moss' : 'text-vermilion'}`}
              >
                {landed ? 'landed' : frames === 0 ? 'between' : `${frames > 0 ? '+' : '−'}${Math.abs(frames)} f`}
              </span>
              <span className="min-w-0 flex-1 truncate">
                {moment.name || `frame ${moment.frame}`} <span className="text-faint">in {clipName}</span>
              </span>
              <span className="text-brass truncate font-mono text-xs">{cue.name}</span>
            </button>
          </li>
        ))}
      </ol>
    </Panel>
  );
}
