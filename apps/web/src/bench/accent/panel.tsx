import {
  type AccentTime,
  accentTimes,
  accentsName,
  clipsAfterCuts,
  flickerSpots,
  HIT_WORDS,
  isTransition,
  leaveOut,
  newAccents,
  putAccents,
  removeAccents,
} from '@idle-bend/core/accent';
import type { HeardSound } from '@idle-bend/core/api';
import { barAt } from '@idle-bend/core/beats';
import { InvalidInput } from '@idle-bend/core/foundation';
import { ACCENT_KINDS, fieldsOf, LOOKS, type AccentKind, type AccentLook, type LookField } from '@idle-bend/core/look';
import {
  ACCENT_HITS,
  type AccentHits,
  type AccentPlaces,
  type AccentSet,
  type Project,
  type Sound,
} from '@idle-bend/core/model';
import { coveredLandings } from '@idle-bend/core/landing';
import { secondOfFrame } from '@idle-bend/core/reel';
import { formatTimecode, parseTimecode } from '@idle-bend/core/time';
import { Plus, Trash2, X } from 'lucide-react';
import { useHeard } from '../sound/use-sounds.ts';
import { Choice } from '../../ui/choice.tsx';
import { Note, Panel } from '../../ui/panel.tsx';
import { SlideField } from '../../ui/slide-field.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { typedNumber } from '../../ui/typed-number.ts';
import { edit, editDuringGesture } from '../../session/session.ts';
import { goToReelFrame, reelFrameOf, select, type BenchClip } from '../../session/bench-state.ts';
import { attempt, current, newId } from '../../session/command.ts';
import { Select } from '../../ui/select.tsx';
import { Check } from '../../ui/check.tsx';

/** Flashes, punches and the like: sets of them, each by its pattern; every one listed. */
export function AccentsPanel({ bench, chosen }: { bench: BenchClip; chosen: string | undefined }) {
  const { project } = bench;
  const { accents } = project.reel;
  const open = accents.find(({ id }) => id === chosen) ?? accents[0];
  const spots = flickerSpots(project);
  const { rate } = project.reel;
  return (
    <Panel
      title="Accents"
      recipe="accents"
      about={accents.length === 0 ? 'none yet' : `${accentTimes(project).length} on the reel`}
      action={
        <button className="button px-1.5" aria-label="Close" onClick={() => select({ kind: 'clip' })}>
          <X size={15} aria-hidden />
        </button>
      }
    >
      <div className="flex flex-wrap gap-1.5">
        {accents.map(({ id, name }) => (
          <button
            key={id}
            className="button px-2 text-xs"
            aria-pressed={id === open?.id}
            onClick={() => select({ kind: 'accents', id })}
          >
            {name}
          </button>
        ))}
      </div>
      {spots.map(({ from, to, flashes }) => (
        <Note key={from} tone="missed">
          {flashes} flashes of the whole picture within a second, {formatTimecode(from, rate)} to{' '}
          {formatTimecode(to, rate)}: more than three may harm viewers and is refused by broadcasters.
        </Note>
      ))}
      <Covered project={project} />
      {open && <OneSet project={project} set={open} />}
      {[
        { label: 'On the music, cues or cuts', kinds: ACCENT_KINDS.filter((kind) => !goesOn(kind)) },
        { label: 'Transitions, at every cut', kinds: ACCENT_KINDS.filter((kind) => LOOKS[kind].acrossCuts) },
        {
          label: 'Over a stretch: the reel’s range, or this clip',
          kinds: ACCENT_KINDS.filter((kind) => LOOKS[kind].sustained),
        },
      ].map(({ label, kinds }) => (
        <div key={label} role="group" aria-label={label}>
          <span className="label">{label}</span>
          <div className="flex flex-wrap gap-1.5">
            {kinds.map((kind) => (
              <button
                key={kind}
                className="button px-2 text-xs"
                data-tip={LOOKS[kind].title}
                onClick={() => attempt(() => begin(bench, kind))}
              >
                <Plus size={13} aria-hidden /> {kind}
              </button>
            ))}
          </div>
        </div>
      ))}
    </Panel>
  );
}

const goesOn = (kind: AccentKind) => Boolean(LOOKS[kind].acrossCuts ?? LOOKS[kind].sustained);

function begin({ project, start, frames }: BenchClip, kind: AccentKind): void {
  const made = newAccents(project, kind, newId('accents'));
  const onClip = LOOKS[kind].sustained && !project.reel.range;
  const set: AccentSet = onClip ? { ...made, on: { kind: 'range', from: start, to: start + frames } } : made;
  edit((before) => putAccents(before, set));
  select({ kind: 'accents', id: set.id });
  // Its settings are at the top.
  document.querySelector('section[aria-label=Accents]')?.scrollIntoView({ block: 'start' });
}

function OneSet({ project, set }: { project: Project; set: AccentSet }) {
  const sound =
    set.on.kind === 'music'
      ? project.reel.sounds.find(({ id }) => set.on.kind === 'music' && id === set.on.soundId)
      : project.reel.sounds[0];
  const heard = useHeard(sound?.footageId ?? '');
  const changed = (change: Partial<AccentSet>): AccentSet => {
    const next = { ...set, ...change };
    return { ...next, name: accentsName(next) };
  };
  const put = (change: Partial<AccentSet>) => edit((before) => putAccents(before, changed(change)));
  return (
    <>
      <LookFields look={set.look} put={(look) => put({ look })} />
      {hasStrength(set.look) && (
        <SlideField
          label="Strength"
          value={Math.round(set.strength * 100)}
          low={0}
          high={100}
          ends={['none', 'full']}
          shown={`${Math.round(set.strength * 100)} %`}
          slide={(value) => editDuringGesture((before) => putAccents(before, changed({ strength: value / 100 })))}
        />
      )}
      {set.on.kind === 'range' && <RangeFields project={project} range={set.on} put={(on) => put({ on })} />}
      {!goesOn(set.look.kind) && (
        <PlaceFields project={project} set={set} sound={sound} heard={heard} put={(on) => put({ on })} />
      )}
      {set.on.kind !== 'range' && <Marks project={project} set={set} />}
      <button
        className="button self-start"
        onClick={() => {
          edit((before) => removeAccents(before, set.id));
          select({ kind: 'accents', id: undefined });
        }}
      >
        <Trash2 size={15} aria-hidden /> Take “{set.name}” off
      </button>
    </>
  );
}

/** Most transitions go from one clip to the other, wholly. */
const hasStrength = ({ kind }: AccentLook) => !LOOKS[kind].acrossCuts || kind === 'push' || kind === 'whip';

function LookFields({ look, put }: { look: AccentLook; put: (look: AccentLook) => void }) {
  return (
    <div className="grid grid-cols-3 items-end gap-3">
      <TypedField
        label={LOOKS[look.kind].sustained ? 'Comes and goes, frames' : 'Frames'}
        text={String(look.frames)}
        commit={(typed) => put({ ...look, frames: typedNumber(typed, /f$/, 'frames') })}
        step={(by) => put({ ...look, frames: Math.max(1, look.frames + by) })}
      />
      {fieldsOf(look).map(([name, definition, value]) => (
        <OneField
          key={name}
          definition={definition}
          value={value}
          // What is typed is checked with the whole set.
          put={(next) => put({ ...look, [name]: next })}
        />
      ))}
    </div>
  );
}

interface FieldProps<Definition extends LookField = LookField> {
  readonly definition: Definition;
  readonly value: unknown;
  readonly put: (value: unknown) => void;
}

/** A setting of a look, by its kind. */
function OneField({ definition, value, put }: FieldProps) {
  switch (definition.kind) {
    case 'colour':
      return <ColourField definition={definition} value={value} put={put} />;
    case 'flag':
      return <Check label={definition.label} className="h-8" checked={value === true} set={put} />;
    case 'degrees':
      return (
        <TypedField
          label={definition.label}
          text={`${Number(value)}°`}
          commit={(typed) => put(typedNumber(typed, /°$/, 'degrees'))}
          step={(by) => put(Math.max(definition.min, Math.min(definition.max, Number(value) + 5 * by)))}
        />
      );
    case 'choice':
      return (
        <div className="col-span-2">
          <Choice
            label={definition.label}
            value={String(value)}
            options={definition.options.map((option) => ({ value: option, text: option }))}
            choose={put}
          />
        </div>
      );
    case 'share': {
      const { label, min, max, from, step } = definition;
      const steps = Math.round((Number(value) - from) / step);
      return (
        <TypedField
          label={label}
          text={`${Math.round((Number(value) - from) * 1000) / 10} %`}
          commit={(typed) => put(from + typedNumber(typed, /%$/, 'per cent') / 100)}
          step={(by) => put(Math.max(min, Math.min(max, Number((from + (steps + by) * step).toFixed(6)))))}
        />
      );
    }
  }
}

/** What a flash begins with when any colour may be chosen: the copper of the bell. */
const ANY_COLOUR = '#c8902a';

function ColourField({ definition, value, put }: FieldProps<Extract<LookField, { kind: 'colour' }>>) {
  const colour = String(value);
  const isTyped = colour.startsWith('#');
  return (
    <>
      <Select
        label={definition.label}
        value={isTyped ? '#' : colour}
        options={[
          ...['white', 'black', 'inverted'].map((each) => ({ value: each, text: each })),
          { value: '#', text: 'a colour' },
        ]}
        choose={(value) => attempt(() => put(value === '#' ? ANY_COLOUR : value))}
      />
      {isTyped && <TypedField label="Colour" text={colour} commit={put} />}
    </>
  );
}

/** The stretch of the reel something goes on over. */
function RangeFields({
  project,
  range,
  put,
}: {
  project: Project;
  range: Extract<AccentPlaces, { kind: 'range' }>;
  put: (on: AccentPlaces) => void;
}) {
  const { rate, range: own } = project.reel;
  const read = (typed: string) =>
    typed.includes(':') ? parseTimecode(typed, rate) : typedNumber(typed, /f$/, 'frames');
  return (
    <div className="grid grid-cols-[1fr_1fr_auto] items-end gap-3">
      <TypedField
        label="From"
        text={formatTimecode(range.from, rate)}
        commit={(typed) => put({ ...range, from: read(typed) })}
        step={(by) => put({ ...range, from: Math.max(0, range.from + by) })}
      />
      <TypedField
        label="To"
        text={formatTimecode(range.to, rate)}
        commit={(typed) => put({ ...range, to: read(typed) })}
        step={(by) => put({ ...range, to: range.to + by })}
      />
      {own && (
        <button className="button h-8" onClick={() => attempt(() => put({ kind: 'range', ...own }))}>
          The reel’s range
        </button>
      )}
    </div>
  );
}

interface PlaceProps {
  readonly project: Project;
  readonly set: AccentSet;
  readonly sound: Sound | undefined;
  readonly heard: HeardSound | undefined;
  readonly put: (on: AccentPlaces) => void;
}

/** Where they fall: on what of the music, every how many; or on the cues. */
function PlaceFields({ project, set: { on }, sound, heard, put }: PlaceProps) {
  const music = on.kind === 'music' ? on : undefined;
  const hits = (of: AccentHits, least: number) =>
    (heard?.onsets ?? []).filter(({ band, strength }) => band === of && strength >= least).map(({ time }) => time);
  const choose = (value: string) => {
    if (value === 'cues') return put({ kind: 'cues', cueIds: project.reel.cues.map(({ id }) => id) });
    if (value === 'cuts') return put({ kind: 'cuts', clipIds: clipsAfterCuts(project) });
    const of = value as AccentHits;
    const plain = {
      kind: 'music' as const,
      soundId: sound!.id,
      every: 1,
      first: 0,
      least: 0,
      from: null,
      to: null,
      without: [],
    };
    put({ ...plain, ...music, of, hits: hits(of, music?.least ?? 0), without: [] });
  };
  return (
    <div className="grid grid-cols-3 gap-3">
      <Select
        label="On"
        value={music?.of ?? on.kind}
        options={[
          ...(sound ? ACCENT_HITS.map((of) => ({ value: of, text: HIT_WORDS[of] })) : []),
          { value: 'cues', text: 'the cues' },
          { value: 'cuts', text: 'the cuts' },
        ]}
        choose={(value) => attempt(() => choose(value))}
      />
      {music && (
        <TypedField
          label="One in"
          text={music.every === 1 ? '1' : `${music.every}, from ${music.first + 1}`}
          commit={(typed) => put({ ...music, ...pattern(typed) })}
          step={(by) =>
            put({
              ...music,
              every: Math.max(1, music.every + by),
              first: Math.min(music.first, Math.max(0, music.every + by - 1)),
            })
          }
        />
      )}
      {music && sound && <Within project={project} sound={sound} music={music} put={put} />}
      {music && !['beats', 'bars'].includes(music.of) && (
        <TypedField
          label="Weakest, %"
          text={String(Math.round(music.least * 100))}
          commit={(typed) =>
            put({
              ...music,
              least: typedNumber(typed, /%$/, 'per cent') / 100,
              hits: hits(music.of, typedNumber(typed, /%$/, 'per cent') / 100),
            })
          }
          step={(by) => {
            const least = Math.max(0, Math.min(1, music.least + by / 20));
            put({ ...music, least, hits: hits(music.of, least) });
          }}
        />
      )}
    </div>
  );
}

/** The part of the sound accents are looked for in: all of it, the reel's range, or the bar at the playhead. */
function Within({
  project,
  sound,
  music,
  put,
}: {
  project: Project;
  sound: Sound;
  music: Extract<AccentPlaces, { kind: 'music' }>;
  put: (on: AccentPlaces) => void;
}) {
  const { range } = project.reel;
  const choose = (value: string) => {
    if (value === 'all') return put({ ...music, from: null, to: null });
    if (value === 'range' && range)
      return put({
        ...music,
        from: secondOfFrame(project, sound, range.from),
        to: secondOfFrame(project, sound, range.to - 1),
      });
    const bench = current();
    const bar =
      bench && sound.beats ? barAt(sound.beats, secondOfFrame(project, sound, reelFrameOf(bench))) : undefined;
    if (!bar) throw new InvalidInput('accents', 'no bar of the music is at the playhead');
    put({ ...music, ...bar });
  };
  const { from, to } = music;
  return (
    <Select
      label="Within"
      value={from === null && to === null ? 'all' : 'part'}
      none={`${(from ?? 0).toFixed(1)} to ${(to ?? sound.toSeconds).toFixed(1)} s`}
      options={[
        { value: 'all', text: 'all of it' },
        ...(range ? [{ value: 'range', text: 'the reel’s range' }] : []),
        { value: 'bar', text: 'the bar at the playhead' },
      ]}
      choose={(value) => attempt(() => choose(value))}
    />
  );
}

/** "2" is every second; "2, from 2" begins with the second of them. */
function pattern(typed: string): { every: number; first: number } {
  const match = /^(\d+)(?:\s*,?\s*from\s+(\d+))?$/.exec(typed.trim());
  if (!match) throw new InvalidInput('accents', `"${typed}" is not a pattern; type 2, or 2, from 2`);
  return { every: Number(match[1]), first: match[2] ? Number(match[2]) - 1 : 0 };
}

/** Landings that are hardly seen, for a transition lies over them; a press goes there. */
function Covered({ project }: { project: Project }) {
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
function Marks({ project, set }: { project: Project; set: AccentSet }) {
  const marks = accentTimes(project).filter((mark) => mark.set.id === set.id);
  if (marks.length === 0) return <p className="text-faint text-xs">None falls on the reel.</p>;
  return (
    <div>
      <span className="label">{marks.length === 1 ? 'One' : marks.length} of them</span>
      <ul className="flex flex-wrap gap-1" aria-label="Accents">
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
