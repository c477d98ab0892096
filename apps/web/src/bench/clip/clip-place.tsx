import {
  conform,
  duplicateClip,
  fillAt,
  framesToFill,
  insertGap,
  leaveGap,
  missedPins,
  pinClip,
  replaceClip,
  setFills,
  setReadAs,
  checkSlip,
  slipClip,
  trimEnd,
} from '@idle-bend/core/edit';
import { InvalidInput } from '@idle-bend/core/foundation';
import { isGroup, type Project } from '@idle-bend/core/model';
import { cutMotion, cutSentence } from '@idle-bend/core/motion';
import { joinAfter, placeItems, placeOf } from '@idle-bend/core/reel';
import { formatTimecode, framesPerSecond, parseLength, parseRate, percentText, speakRate } from '@idle-bend/core/time';
import { ChevronsRightLeft, CopyPlus, Pin, PinOff, Rows3, Scissors, SquareDashed } from 'lucide-react';
import { useMemo } from 'react';
import { joinHere } from '../join/commands.ts';
import { useFilms } from '../films.ts';
import { useMotion } from '../motion.ts';
import { pinHere } from '../reel/commands.ts';
import { Note } from '../../ui/panel.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { typedNumber } from '../../ui/typed-number.ts';
import { edit } from '../../session/session.ts';
import { activate, type BenchClip } from '../../session/bench-state.ts';
import { attempt, newId } from '../../session/command.ts';
import { Select } from '../../ui/select.tsx';
import { READ_AS_RATES } from '../../footage/read-as-rates.ts';
import { Check } from '../../ui/check.tsx';

/** Where the clip is on the reel: how long, what of its source, what before it, and whether its cut stays on a cue. */
export function ClipPlace({ bench }: { bench: BenchClip }) {
  const { clip, project, frames, start } = bench;
  const missed = missedPins(project).find(({ clipId }) => clipId === clip.id);
  const act = (change: (before: Project) => Project) => attempt(() => edit(change));
  const cue = project.reel.cues.find(({ id }) => id === clip.pin);
  const cutTo = (length: number) =>
    edit((p) => {
      const cut = trimEnd(p, clip.id, length);
      const came = placeOf(cut, clip.id)!.frames;
      if (came < length) throw new InvalidInput('length', `its source ends after ${came} frames at this speed`);
      return cut;
    });
  const slip = (by: number) => {
    checkSlip(project, clip.id, by);
    edit((p) => slipClip(p, clip.id, by));
  };
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        <TypedField
          label="Length, cut at its end"
          text={String(frames)}
          commit={(typed) => cutTo(Math.round(parseLength(typed, project.reel.rate)))}
          step={(by) => cutTo(Math.max(1, frames + by))}
        />
        <TypedField
          label="Slip, source frames"
          text="0"
          commit={(typed) => slip(typedNumber(typed, /f$/, 'source frames'))}
          step={slip}
        />
      </div>
      <ToFill bench={bench} />
      <AtTheCut bench={bench} />
      <div className="flex flex-wrap gap-2">
        {cue ? (
          <button className="button" onClick={() => act((p) => pinClip(p, clip.id, null))}>
            <PinOff size={15} aria-hidden /> Unpin from “
            {cue.name || formatTimecode(Math.round(cue.frame), project.reel.rate)}”
          </button>
        ) : (
          <button
            className="button"
            disabled={project.reel.items[0]?.id === clip.id}
            onClick={pinHere}
            data-tip="Its first frame stays there; what comes before gives"
          >
            <Pin size={15} aria-hidden /> Pin its cut to the nearest cue or beat
            <kbd className="font-mono text-xs opacity-70">D</kbd>
          </button>
        )}
        <Check
          label="Fills its room by its speed"
          checked={clip.fills}
          set={(fills) => act((p) => setFills(p, clip.id, fills))}
        />
      </div>
      {missed && (
        <Note tone="missed">
          Its cut comes {missed.frames} frame{missed.frames === 1 ? '' : 's'} late: what comes before keeps one frame at
          least.
        </Note>
      )}
      <p className="text-faint text-xs">
        {start === 0 ? 'First on the reel.' : `Begins at ${formatTimecode(start, project.reel.rate)}.`} Drag its edges
        on the reel to trim (Shift stretches), its name to move it, Alt and its middle to slip.
      </p>
      <div className="flex flex-wrap gap-2">
        <button
          className="button"
          onClick={() => {
            const id = newId('clip');
            act((p) => duplicateClip(p, clip.id, id));
            activate(id);
          }}
        >
          <CopyPlus size={15} aria-hidden /> Duplicate
        </button>
        <button
          className="button"
          onClick={() =>
            act((p) => insertGap(p, placeIndex(p, clip.id), newId('gap'), Math.round(framesPerSecond(p.reel.rate))))
          }
        >
          <SquareDashed size={15} aria-hidden /> A second of black before it
        </button>
        <button
          className="button"
          onClick={() => act((p) => leaveGap(p, clip.id, newId('gap')))}
          data-tip="Takes the clip off and leaves black as long as it was"
        >
          <Scissors size={15} aria-hidden /> Leave a gap for it
        </button>
      </div>
      <ReadAs bench={bench} />
      <Replacing bench={bench} />
    </>
  );
}

/** How many frames the slot needs, and how many the source gives at each even speed; a press plays it at that. */
function ToFill({ bench: { project, clip } }: { bench: BenchClip }) {
  const found = useMemo(() => framesToFill(project, clip.id), [project, clip.id]);
  if (!found || found.fillings.length === 0) return null;
  const { slot, fillings } = found;
  // The fastest that still fill the slot are the most even way to do so; those that do not fall short of it.
  const enough = fillings.filter(({ frames }) => frames >= slot).slice(-5);
  const short = fillings.filter(({ frames }) => frames < slot).slice(0, 3);
  return (
    <div data-testid="to-fill">
      <span className="label">
        The slot needs {slot} frame{slot === 1 ? '' : 's'}; from its in point the source gives
      </span>
      <div className="flex flex-wrap gap-1.5">
        {[...enough, ...short].map(({ speed, frames }) => (
          <button
            key={speed}
            className={`button px-2 py-0.5 font-mono text-xs ${frames < slot ? 'text-vermilion border-dashed' : ''}`}
            data-tip={
              frames < slot
                ? `Play it at ${percentText(speed)}: ${slot - frames} frames too few`
                : `Play it at ${percentText(speed)} throughout; it fills the slot`
            }
            onClick={() => attempt(() => edit((p) => fillAt(p, clip.id, speed)))}
          >
            {frames} at {percentText(speed)}
          </button>
        ))}
      </div>
    </div>
  );
}

/** How this clip's picture and the next one's move at the cut between them. */
function AtTheCut({ bench: { project, clip } }: { bench: BenchClip }) {
  const { items } = project.reel;
  const next = items[items.findIndex(({ id }) => id === clip.id) + 1];
  const other = next?.kind === 'clip' ? next : undefined;
  const before = useMotion(clip.sourceId).motion;
  const after = useMotion(other?.sourceId ?? '').motion;
  const found = useMemo(
    () => (other && before && after ? cutMotion(project, clip, before, other, after) : undefined),
    [project, clip, other, before, after],
  );
  if (!other) return null;
  return (
    <>
      {found && <Note tone={found.relation === 'against' ? 'missed' : 'plain'}>{cutSentence(found)}</Note>}
      <button
        className="button self-start"
        onClick={joinHere}
        data-tip="This clip speeds up into the cut, the next starts as fast and settles"
      >
        <ChevronsRightLeft size={15} aria-hidden /> {joinAfter(project, clip.id) ? 'The ramp join with' : 'Ramp into'} “
        {other.name}”<kbd className="font-mono text-xs opacity-70">Shift J</kbd>
      </button>
    </>
  );
}

const placeIndex = (project: Project, clipId: string) =>
  placeItems(project).findIndex(({ item }) => item.id === clipId);

/** What rate its footage counts as, and a press that shows each of its frames once. Every other clip of it goes on showing what it shows. */
function ReadAs({ bench: { clip, source, project } }: { bench: BenchClip }) {
  if (isGroup(source)) return null;
  const is = speakRate(source.readAs);
  const rates = READ_AS_RATES.includes(is) ? READ_AS_RATES : [is, ...READ_AS_RATES];
  return (
    <div className="grid grid-cols-2 items-end gap-3">
      <Select
        label="Its footage is read as"
        value={is}
        options={rates.map((rate) => ({ value: rate, text: `${rate} fps` }))}
        choose={(rate) => edit((p) => setReadAs(p, clip.sourceId, parseRate(rate)))}
      />
      <button
        className="button h-8"
        data-tip="Every source frame once: the slowest that needs no in-betweens"
        onClick={() => attempt(() => edit((p) => conform(p, clip.id)))}
      >
        <Rows3 size={15} aria-hidden /> Conform to {speakRate(project.reel.rate)} fps
      </button>
    </div>
  );
}

function Replacing({ bench: { clip, project } }: { bench: BenchClip }) {
  const { known, whole } = useFilms();
  const others = whole(project).sources.filter(({ id }) => id !== clip.sourceId);
  if (others.length === 0) return null;
  return (
    <Select
      label="Other footage in its place"
      value=""
      none="choose…"
      options={others.map(({ id, name }) => ({ value: id, text: name }))}
      choose={(id) => attempt(() => edit((p) => replaceClip(known(p, id), clip.id, id)))}
    />
  );
}
