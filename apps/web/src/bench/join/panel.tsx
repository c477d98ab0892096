import { fittingStretches, motionAtJoin, placesMoved, takeStretch, type FittingStretch } from '@idle-bend/core/join';
import {
  DEFAULT_WHOOSH,
  type Clip,
  type RampJoin,
  type JoinChoice,
  type JoinKeeps,
  type Project,
  type Whoosh,
} from '@idle-bend/core/model';
import { cutMotion, waysSentence } from '@idle-bend/core/motion';
import { clipAfter, joinAfter, peakSpeeds, pinnedFrame, placeOf } from '@idle-bend/core/reel';
import { BEND_SHAPES } from '@idle-bend/core/shape';
import { parseSpeed, percentText } from '@idle-bend/core/time';
import { Unlink } from 'lucide-react';
import { useMemo } from 'react';
import { changeJoin, matchJoin, type JoinMotions } from '@idle-bend/core/join';
import { takeOffHere } from './commands.ts';
import { useFilms } from '../films.ts';
import { useMotion, useMotions } from '../motion.ts';
import { BlurFields } from '../blur/blur-fields.tsx';
import { readDecibels } from '../sound/clip-sound.tsx';
import { Choice } from '../../ui/choice.tsx';
import { Note, Panel } from '../../ui/panel.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { typedNumber } from '../../ui/typed-number.ts';
import { edit } from '../../session/session.ts';
import { activate, speedMeasure, type BenchClip } from '../../session/bench-state.ts';
import { attempt } from '../../session/command.ts';
import { Select } from '../../ui/select.tsx';
import { Check } from '../../ui/check.tsx';

const KEEPS: readonly { value: JoinKeeps; text: string; title: string }[] = [
  {
    value: 'slot',
    text: 'lengths',
    title: 'Both clips stay as long as they are, and the cut stays; more of the source is used',
  },
  {
    value: 'content',
    text: 'content',
    title: 'Both clips show the frames they show, in less time; what follows moves up',
  },
];

/** How a clip races into the one after it, as one thing. */
export function JoinPanel({ bench, clipId }: { bench: BenchClip; clipId: string }) {
  const { project } = bench;
  const join = joinAfter(project, clipId);
  const before = placeOf(project, clipId)?.item;
  const after = clipAfter(project, clipId);
  const motionBefore = useMotion(before?.kind === 'clip' ? before.sourceId : '').motion;
  const motionAfter = useMotion(after?.sourceId ?? '').motion;
  if (!join || before?.kind !== 'clip' || !after) return null;
  const motions = { before: motionBefore, after: motionAfter };
  const set = (change: Partial<JoinChoice>) => edit((p) => changeJoin(p, clipId, change, motions));
  const pinned = pinnedFrame(project, after) !== undefined;
  return (
    <Panel
      title="Ramp join"
      recipe="race-into-next"
      about={`${before.name} → ${after.name}`}
      action={
        <button className="button" onClick={() => takeOffHere(join.id)}>
          <Unlink size={15} aria-hidden /> Remove
        </button>
      }
    >
      <AtTheCut project={project} join={join} before={before} after={after} motions={motions} />
      <Lengths bench={bench} join={join} set={set} />
      <div className="grid grid-cols-2 gap-3">
        <Choice
          label="Speeds at the cut"
          value={join.matched === null ? 'equal' : 'matched'}
          options={[
            { value: 'equal', text: 'equal', title: 'The same speed on both sides' },
            {
              value: 'matched',
              text: 'by motion',
              title: 'So that both pictures go equally far on the screen from frame to frame, as measured',
            },
          ]}
          choose={(next) =>
            attempt(() => (next === 'equal' ? set({ matched: null }) : edit((p) => matchJoin(p, clipId, motions))))
          }
        />
        <Choice
          label={pinned ? 'Keeps (the cut is pinned)' : 'Keeps'}
          value={join.keeps}
          options={KEEPS}
          choose={(keeps) => attempt(() => set({ keeps }))}
        />
      </div>
      <BlurFields
        label="Motion blur of the ramps"
        blur={join.blur}
        inherits={{ text: 'the clips’', title: 'As the clips have it' }}
        set={(blur) => set({ blur })}
      />
      <WhooshFields whoosh={join.whoosh} set={(whoosh) => set({ whoosh })} />
      <Fits project={project} before={before} after={after} motions={motions} />
    </Panel>
  );
}

/** Rushing air to the join's measure. */
function WhooshFields({ whoosh, set }: { whoosh: Whoosh | null; set: (whoosh: Whoosh | null) => void }) {
  return (
    <div className="grid grid-cols-[auto_1fr_1fr] items-end gap-3">
      <Check
        label="Whoosh"
        className="h-8"
        checked={whoosh !== null}
        set={(on) => attempt(() => set(on ? DEFAULT_WHOOSH : null))}
      />
      {whoosh && (
        <>
          <TypedField
            label="Strength"
            text={`${whoosh.gainDb} dB`}
            commit={(typed) => set({ ...whoosh, gainDb: readDecibels(typed) })}
            step={(by) => set({ ...whoosh, gainDb: Math.max(-60, Math.min(6, whoosh.gainDb + by)) })}
          />
          <TypedField
            label="Tone, dark 0 to bright 100"
            text={String(Math.round(whoosh.tone * 100))}
            commit={(typed) => set({ ...whoosh, tone: typedNumber(typed, /%$/, 'per cent') / 100 })}
            step={(by) => set({ ...whoosh, tone: Math.max(0, Math.min(1, whoosh.tone + by / 20)) })}
          />
        </>
      )}
    </div>
  );
}

function Lengths({
  bench,
  join,
  set,
}: {
  bench: BenchClip;
  join: RampJoin;
  set: (change: Partial<JoinChoice>) => void;
}) {
  const frames = (name: 'into' | 'outOf' | 'hold' | 'spare') => ({
    text: String(Math.round(join[name] * 100) / 100),
    commit: (typed: string) => set({ [name]: typedNumber(typed, /f$/, 'frames') }),
    step: (by: 1 | -1) => set({ [name]: Math.max(0, Math.round(join[name]) + by) }),
  });
  const shape = BEND_SHAPES.find(({ ease }) => String(ease) === String(join.ease));
  return (
    <div className="grid grid-cols-3 gap-3">
      <TypedField
        label="Peak"
        text={percentText(join.peak)}
        commit={(typed) => set({ peak: Math.abs(parseSpeed(typed, speedMeasure(bench, join.into, join.peak))) })}
        step={(by) => set({ peak: (Math.round(join.peak * 100) + 10 * by) / 100 })}
      />
      <TypedField label="In, frames" {...frames('into')} />
      <TypedField label="Out, frames" {...frames('outOf')} />
      <Select
        label="Shape"
        value={shape?.id ?? ''}
        none="its own"
        options={BEND_SHAPES.map(({ id, name }) => ({ value: id, text: name }))}
        choose={(value) => attempt(() => set({ ease: BEND_SHAPES.find(({ id }) => id === value)!.ease }))}
      />
      <TypedField label="At the peak, frames" {...frames('hold')} />
      <TypedField label="Spare source left" {...frames('spare')} />
    </div>
  );
}

/** What the cut is like, in sentences: the speeds, how far the pictures go, what the rest of the clips gave for it. */
/** What a ramp made of the rest of a clip. */
function spareSentence(name: string, slowed: number, moved: number): string[] {
  if (slowed < 1) return [`the rest of “${name}” is slowed to ${percentText(slowed)} of its speed`];
  if (moved < 0.005) return [];
  return [`“${name}” keeps its speeds, and where they change moved by up to ${Number(moved.toFixed(2))} frames`];
}

function AtTheCut({
  project,
  join,
  before,
  after,
  motions,
}: {
  project: Project;
  join: RampJoin;
  before: Clip;
  after: Clip;
  motions: JoinMotions;
}) {
  const [first, second] = peakSpeeds(join);
  const found = useMemo(() => {
    if (!motions.before || !motions.after) return undefined;
    const cut = cutMotion(project, before, motions.before, after, motions.after);
    return cut && { cut, at: motionAtJoin(project, before.id, motions.before, motions.after) };
  }, [project, before, after, motions.before, motions.after]);
  const { width } = project.reel;
  const pixels = (side: { kind: string; perFrame: number }) =>
    side.kind === 'shift' ? `${Math.round(side.perFrame * width)} px` : undefined;
  const ways = found?.at && [pixels(found.at.before), pixels(found.at.after)];
  const spared = [
    ...spareSentence(before.name, join.undo.before.slowed, placesMoved(join.undo.before, 'last')),
    ...spareSentence(after.name, join.undo.after.slowed, placesMoved(join.undo.after, 'first')),
  ];
  return (
    <>
      <Note tone={found && found.cut.relation === 'against' ? 'missed' : 'landed'}>
        {first === second
          ? `${percentText(first)} on both sides of the cut`
          : `${percentText(first)} into the cut, ${percentText(second)} out of it`}
        {ways?.every(Boolean) ? `; the pictures go ${ways[0]} and ${ways[1]} a frame there.` : '.'}{' '}
        {found && waysSentence(found.cut)}
      </Note>
      {spared.length > 0 && (
        <p className="text-faint text-xs">To leave source for the ramp, {spared.join(', and ')}.</p>
      )}
    </>
  );
}

/** Stretches of the footage that move as the other side does; a press puts one there. */
function Fits({
  project,
  before,
  after,
  motions,
}: {
  project: Project;
  before: Clip;
  after: Clip;
  motions: JoinMotions;
}) {
  const films = useFilms();
  const whole = useMemo(() => films.whole(project), [films, project]);
  const all = useMotions(whole.sources.map(({ id }) => id));
  const found = useMemo(() => {
    const cut =
      motions.before && motions.after ? cutMotion(project, before, motions.before, after, motions.after) : undefined;
    if (!cut) return [];
    const list = (side: 'before' | 'after', clip: Clip, other: typeof cut.before) =>
      fittingStretches(whole, other, all)
        .slice(0, 3)
        .map((stretch) => ({ side, clip, stretch }));
    return [...list('after', after, cut.before), ...list('before', before, cut.after)];
  }, [project, whole, before, after, motions.before, motions.after, all]);
  if (found.length === 0) return null;
  return (
    <div>
      <span className="label">Stretches that move the same way</span>
      <ul className="flex flex-col gap-1" aria-label="Stretches that move the same way">
        {found.map(({ side, clip, stretch }) => (
          <li key={`${side} ${stretch.sourceId} ${stretch.from}`}>
            <button
              className="hover:bg-sheet flex w-full items-baseline gap-2 rounded-md px-1.5 py-0.5 text-left text-xs"
              data-tip={`Shows it ${side === 'after' ? 'right after' : 'right before'} the cut; the join stays`}
              onClick={() =>
                attempt(() => {
                  edit((p) => takeStretch(films.known(p, stretch.sourceId), clip.id, side, stretch, all));
                  activate(clip.id);
                })
              }
            >
              <span className="text-faint w-10">{side === 'after' ? 'second' : 'first'}</span>
              <span className="min-w-0 flex-1 truncate">{stretch.name}</span>
              <span className="font-mono">{stretchWords(stretch)}</span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

const stretchWords = ({ from, to, apart, pace }: FittingStretch) =>
  `${from}–${to} · ${Math.round(apart)}° · ${pace >= 10 ? Math.round(pace) : pace.toFixed(1)}×`;
