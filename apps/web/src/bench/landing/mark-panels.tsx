import { updateClip, updateCue, updateMoment } from '@idle-bend/core/edit';
import { InvalidInput } from '@idle-bend/core/foundation';
import { targetsIn, type Drift, type LandingFreedom, type Target } from '@idle-bend/core/landing';
import type { Cue, SpeedLimits, Moment, MomentKind } from '@idle-bend/core/model';
import { placeName } from '@idle-bend/core/reel';
import { positionOfFrame } from '@idle-bend/core/sampling';
import { formatTimecode, parseTimecode, parseSpeed, percentText } from '@idle-bend/core/time';
import { MAX_SPEED, framesShowing, MIN_SPEED, type Keep } from '@idle-bend/core/time-map';
import { Crosshair, Link2, Trash2, Unlink2 } from 'lucide-react';
import { driftsOf } from './drifts.ts';
import { landAgain, landHere, landOn, untieMoment } from './commands.ts';
import { Choice } from '../../ui/choice.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { Note, Panel } from '../../ui/panel.tsx';
import { edit } from '../../session/session.ts';
import { benchStore, goTo, speedMeasure, type BenchClip } from '../../session/bench-state.ts';
import { removeSelected } from '../clip/commands.ts';
import { useBench } from '../../ui/use-session.ts';
import { Select } from '../../ui/select.tsx';

const LANDING_KEEPS: readonly { value: Keep; text: string; title: string }[] = [
  { value: 'content', text: 'Content', title: 'The clip ends on the frame it ends on now, earlier or later' },
  { value: 'slot', text: 'Slot', title: 'The clip keeps its length' },
];

const GIVES: readonly { value: LandingFreedom; text: string; title: string }[] = [
  { value: 'places', text: 'Places', title: 'Where speeds change; every speed stays, and frames stay real' },
  { value: 'all', text: 'Speeds', title: 'The speed of every reach that is not locked, as evenly as can be' },
  { value: 'before', text: 'Before', title: 'Speeds before the cue; all after it keeps its speed' },
  { value: 'beside', text: 'Beside', title: 'Speeds of the reaches on either side of the cue' },
  { value: 'start', text: 'In point', title: 'No speed at all: the clip starts on another source frame' },
  {
    value: 'cut',
    text: 'Cut',
    title: 'No speed at all: its cut moves, and what comes before it lasts as much longer or shorter',
  },
];

const MOTIONS: readonly { value: MomentKind | 'on'; text: string; title: string }[] = [
  { value: 'on', text: 'Goes on', title: 'Flow carries motion through this frame' },
  {
    value: 'hit',
    text: 'Hits',
    title: 'Something hits here: Flow goes straight up to the hit and straight on from it',
  },
  { value: 'turn', text: 'Turns', title: 'Something turns back here: Flow does not carry motion through it' },
];

/** How a moment stands to its nearest cue, in a sentence. */
function driftSentence({ moment, cue, frames, landed, remainder }: Drift): string {
  const names = [moment.name || `source frame ${moment.frame}`, cue.name || 'the cue'];
  const apart =
    remainder === 0
      ? ''
      : ` The cue itself is ${Math.abs(remainder).toFixed(2)} of a frame ${remainder > 0 ? 'later' : 'earlier'}.`;
  if (landed) return `“${names[0]}” shows exactly on “${names[1]}”.${apart}`;
  if (frames === 0) return `“${names[0]}” falls between frames at “${names[1]}”: no frame shows it exactly.`;
  const count = Math.abs(frames) === 1 ? '1 frame' : `${Math.abs(frames)} frames`;
  return `“${names[0]}” shows ${count} ${frames > 0 ? 'after' : 'before'} “${names[1]}”.`;
}

function DriftNote({ drift }: { drift: Drift | undefined }) {
  return drift ? <Note tone={drift.landed ? 'landed' : 'missed'}>{driftSentence(drift)}</Note> : null;
}

function RemoveButton({ what }: { what: string }) {
  return (
    <button className="button px-1.5" aria-label={`Remove this ${what}`} onClick={removeSelected}>
      <Trash2 size={15} aria-hidden />
    </button>
  );
}

function GoThere({ k, frames }: { k: number | undefined; frames: number }) {
  return (
    <button
      className="button self-start"
      disabled={k === undefined || k < 0 || k >= frames}
      onClick={() => goTo(k!, frames)}
    >
      <Crosshair size={15} aria-hidden /> Go there
    </button>
  );
}

export function MomentPanel({ bench, moment }: { bench: BenchClip; moment: Moment }) {
  const { source, clip, frames } = bench;
  const shown = framesShowing(clip.map, positionOfFrame(source, moment.frame)).find((k) => k < frames);
  const change = (to: Partial<Omit<Moment, 'id'>>) =>
    edit((project) => updateMoment(project, source.id, moment.id, to));
  const setFrame = (frame: number) => {
    if (!Number.isInteger(frame) || frame < 0 || frame >= source.frames)
      throw new InvalidInput('frame', `the source has frames 0 to ${source.frames - 1}`);
    change({ frame });
  };
  return (
    <Panel recipe="land-a-hit" title="Moment" about={`of ${source.name}`} action={<RemoveButton what="moment" />}>
      <div className="grid grid-cols-2 gap-3">
        <TypedField label="Name" text={moment.name} commit={(name) => change({ name })} />
        <TypedField
          label="Source frame"
          text={String(moment.frame)}
          commit={(typed) => setFrame(Number(typed))}
          step={(by) => setFrame(moment.frame + by)}
        />
      </div>
      {shown === undefined ? (
        <Note tone="missed">The clip does not show this moment.</Note>
      ) : (
        <DriftNote drift={driftsOf(bench).find((d) => d.moment.id === moment.id)} />
      )}
      <Landing bench={bench} moment={moment} />
      <Choice
        label="Motion here"
        value={moment.kind ?? 'on'}
        options={MOTIONS}
        choose={(kind) => change({ kind: kind === 'on' ? undefined : kind })}
      />
      <GoThere k={shown} frames={frames} />
    </Panel>
  );
}

/** Ties the moment to a cue, lands it again after the curve was changed by hand, and unties it. */
function Landing({ bench, moment }: { bench: BenchClip; moment: Moment }) {
  const keep = useBench((s) => s.keep);
  const drift = driftsOf(bench).find((d) => d.moment.id === moment.id);
  const tied = bench.clip.ties.some((t) => t.momentId === moment.id);
  const gives = useBench((s) => s.gives);
  return (
    <>
      <div className="grid grid-cols-2 items-end gap-3">
        <Choice
          label="A landing keeps"
          value={keep}
          options={LANDING_KEEPS}
          choose={(next) => benchStore.setState({ keep: next })}
        />
        <div className="flex gap-2">
          {tied ? (
            <>
              <button
                className={`button ${drift?.landed ? '' : 'button-ink'}`}
                disabled={drift?.landed}
                onClick={landAgain}
              >
                <Link2 size={15} aria-hidden /> Land again
              </button>
              <button
                className="button px-2"
                aria-label="Untie"
                data-tip="Untie"
                onClick={() => untieMoment(moment.id)}
              >
                <Unlink2 size={15} aria-hidden />
              </button>
            </>
          ) : (
            <button className="button button-ink" disabled={bench.project.reel.cues.length === 0} onClick={landHere}>
              <Link2 size={15} aria-hidden /> Land it
              <kbd className="font-mono text-xs opacity-70">T</kbd>
            </button>
          )}
        </div>
      </div>
      <TargetList bench={bench} moment={moment} />
      <Choice
        label="What may change"
        value={gives}
        options={GIVES}
        choose={(next) => benchStore.setState({ gives: next })}
      />
      <Limits bench={bench} />
    </>
  );
}

/** Everything within the clip the moment can be tied to, by name: its landing follows. */
function TargetList({ bench, moment }: { bench: BenchClip; moment: Moment }) {
  const { project, clip } = bench;
  const { rate } = project.reel;
  const tied = clip.ties.find((t) => t.momentId === moment.id);
  const targets = targetsIn(bench.project, bench.clip.id);
  const nameOf = (target: Target): string => {
    if ('cueId' in target) return project.reel.cues.find((c) => c.id === target.cueId)!.name || 'cue';
    return placeName(
      project.reel.sounds.find((s) => s.id === target.soundId)!,
      target.second,
    );
  };
  return (
    <Select
      label="Land it on"
      disabled={targets.length === 0}
      value={String(targets.findIndex((t) => 'cueId' in t && t.cueId === tied?.cueId))}
      none={targets.length === 0 ? 'no cue or beat lies within the clip' : 'a cue or a beat…'}
      options={targets.map((target, i) => ({
        value: String(i),
        text: `${formatTimecode(Math.round(target.frame), rate)} · ${nameOf(target)}`,
      }))}
      choose={(value) => landOn(clip.id, moment.id, targets[Number(value)]!)}
    />
  );
}

/** The slowest and fastest a landing may make a reach; freezes are exempt. */
function Limits({ bench }: { bench: BenchClip }) {
  const { clip } = bench;
  const { slowest, fastest } = clip.limits ?? { slowest: MIN_SPEED, fastest: MAX_SPEED };
  const set = (change: Partial<SpeedLimits>) => {
    const limits = { slowest, fastest, ...change };
    if (!(limits.slowest >= MIN_SPEED && limits.fastest <= MAX_SPEED && limits.slowest <= limits.fastest))
      throw new InvalidInput(
        'limits',
        `${percentText(limits.slowest)} to ${percentText(limits.fastest)} is not a range of speeds within 0.1 % to 10,000 %`,
      );
    edit((project) => updateClip(project, clip.id, (c) => ({ ...c, limits })));
  };
  const measure = speedMeasure(bench, 1, 1);
  return (
    <div className="grid grid-cols-2 gap-3">
      <TypedField
        label="No slower than"
        text={percentText(slowest)}
        commit={(typed) => set({ slowest: parseSpeed(typed, measure) })}
      />
      <TypedField
        label="No faster than"
        text={percentText(fastest)}
        commit={(typed) => set({ fastest: parseSpeed(typed, measure) })}
      />
    </div>
  );
}

export function CuePanel({ bench, cue }: { bench: BenchClip; cue: Cue }) {
  const { project, start, frames } = bench;
  const { rate } = project.reel;
  const change = (to: Partial<Omit<Cue, 'id'>>) => edit((p) => updateCue(p, cue.id, to));
  const setFrame = (frame: number) => {
    if (!Number.isFinite(frame) || frame < 0) throw new InvalidInput('frame', 'a cue sits at frame 0 or later');
    change({ frame });
  };
  return (
    <Panel
      recipe="land-a-hit"
      title="Cue"
      about={formatTimecode(Math.round(cue.frame), rate)}
      action={<RemoveButton what="cue" />}
    >
      <div className="grid grid-cols-2 gap-3">
        <TypedField label="Name" text={cue.name} commit={(name) => change({ name })} />
        <TypedField
          label="Reel frame or timecode"
          text={String(cue.frame)}
          commit={(typed) => setFrame(typed.includes(':') ? parseTimecode(typed, rate) : Number(typed))}
          step={(by) => setFrame(Math.max(0, cue.frame + by))}
        />
      </div>
      {driftsOf(bench)
        .filter((d) => d.cue.id === cue.id)
        .map((d) => (
          <DriftNote key={d.moment.id} drift={d} />
        ))}
      <GoThere k={Math.round(cue.frame) - start} frames={frames} />
    </Panel>
  );
}
