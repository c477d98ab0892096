import { clipsAfterCuts, HIT_WORDS } from '@idle-bend/core/accent';
import type { HeardSound } from '@idle-bend/core/api';
import { barAt } from '@idle-bend/core/beats';
import { InvalidInput } from '@idle-bend/core/foundation';
import {
  ACCENT_HITS,
  type AccentHits,
  type AccentPlaces,
  type AccentSet,
  type Project,
  type Sound,
} from '@idle-bend/core/model';
import { secondOfFrame } from '@idle-bend/core/reel';
import { formatTimecode, parseTimecode } from '@idle-bend/core/time';
import { Select } from '../../ui/select.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { typedNumber } from '../../ui/typed-number.ts';
import { reelFrameOf } from '../../session/bench-state.ts';
import { attempt, current } from '../../session/command.ts';

/** The stretch of the reel something goes on over. */
export function RangeFields({
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
export function PlaceFields({ project, set: { on }, sound, heard, put }: PlaceProps) {
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
