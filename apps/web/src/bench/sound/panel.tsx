import {
  barFrom,
  barsOf,
  doubled,
  evenBeats,
  fixedFrom,
  halved,
  isDownbeat,
  nearestBeat,
  shifted,
  tappedBeats,
  tempoOf,
  threeForTwo,
  twoForThree,
} from '@idle-bend/core/beats';
import { removeSound, setBeats, updateSound } from '@idle-bend/core/edit';
import { InvalidInput } from '@idle-bend/core/foundation';
import { MIN_GAIN, MAX_GAIN, type BeatGrid, type Sound } from '@idle-bend/core/model';
import { frameOfSecond, secondOfFrame } from '@idle-bend/core/reel';
import { Trash2 } from 'lucide-react';
import { useEffect } from 'react';
import { api } from '../../api.ts';
import { useProgress } from '../../shell/use-server-events.ts';
import { Bar } from '../../shell/bar.tsx';
import { OtherHalf, Sureness } from './sureness.tsx';
import { clearTaps, tapBeat, useTaps } from './taps.ts';
import { tickAlong, useTicks } from './ticks.ts';
import { gridOf, useHeard, useSoundFootage } from './use-sounds.ts';
import { Check } from '../../ui/check.tsx';
import { Choice } from '../../ui/choice.tsx';
import { Panel } from '../../ui/panel.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { edit } from '../../session/session.ts';
import { reelFrameOf, select, type BenchClip } from '../../session/bench-state.ts';
import { attempt } from '../../session/command.ts';
import { useBench } from '../../ui/use-session.ts';

export { hearOtherHalf } from './other-half.ts';

const number = (typed: string, unit: RegExp, field: string): number => {
  const value = Number(typed.replace(unit, '').replace('−', '-').trim());
  if (typed.trim() === '' || !Number.isFinite(value)) throw new InvalidInput(field, `"${typed}" is not a number`);
  return value;
};

/** A sound under the reel: how loud, where, and its beats put right. */
export function SoundPanel({ bench, sound }: { bench: BenchClip; sound: Sound }) {
  const change = (to: Partial<Omit<Sound, 'id'>>) => edit((project) => updateSound(project, sound.id, to));
  const remove = () => {
    edit((project) => removeSound(project, sound.id));
    select({ kind: 'clip' });
  };
  const seconds = (value: number) => value.toFixed(3).replace(/\.?0+$/, '');
  return (
    <Panel
      title="Sound"
      recipe="reel-on-music"
      about={sound.name}
      action={
        <button className="button px-1.5" aria-label="Remove this sound from the reel" onClick={remove}>
          <Trash2 size={15} aria-hidden />
        </button>
      }
    >
      <Beats bench={bench} sound={sound} />
      <div className="grid grid-cols-4 gap-2">
        <TypedField
          label="Starts, s"
          text={seconds(sound.startSeconds)}
          commit={(t) => change({ startSeconds: number(t, /s$/, 'start') })}
          step={(by) =>
            change({
              startSeconds: sound.startSeconds + (by * bench.project.reel.rate.den) / bench.project.reel.rate.num,
            })
          }
        />
        <TypedField
          label="Loudness"
          text={`${seconds(sound.gainDb)} dB`}
          commit={(t) => change({ gainDb: number(t, /dB$/i, 'loudness') })}
          step={(by) => change({ gainDb: Math.max(MIN_GAIN, Math.min(MAX_GAIN, sound.gainDb + by)) })}
        />
        <TypedField
          label="Fade in, s"
          text={seconds(sound.fadeInSeconds)}
          commit={(t) => change({ fadeInSeconds: number(t, /s$/, 'fade') })}
        />
        <TypedField
          label="Fade out, s"
          text={seconds(sound.fadeOutSeconds)}
          commit={(t) => change({ fadeOutSeconds: number(t, /s$/, 'fade') })}
        />
      </div>
    </Panel>
  );
}

function Beats({ bench, sound }: { bench: BenchClip; sound: Sound }) {
  const media = useSoundFootage(sound.footageId);
  const progress = useProgress((s) => s.of[`sound ${sound.footageId}`]);
  if (media?.sound === 'waiting')
    return (
      <div>
        <Bar done={progress?.done ?? 0} total={progress?.total ?? 100} label={`Listening to ${sound.name}`} />
        <p className="text-faint mt-1 flex text-xs">
          Listening for beats…
          <button className="ml-auto underline" onClick={() => void api.stopListening(sound.footageId)}>
            stop
          </button>
        </p>
      </div>
    );
  if (media?.sound === 'failed')
    return (
      <p className="text-sm">
        It was not listened to.{' '}
        <button className="underline" onClick={() => void api.listenAgain(sound.footageId)}>
          Listen now
        </button>
      </p>
    );
  return <Grid bench={bench} sound={sound} grid={sound.beats ?? { times: [], bar: { beats: 4, first: 0 } }} />;
}

const NO_TAPS: readonly number[] = [];
const BARS = ['2', '3', '4', '5', '6', '7'].map((value) => ({ value, text: value }));

function Grid({ bench, sound, grid }: { bench: BenchClip; sound: Sound; grid: BeatGrid }) {
  const heard = useHeard(sound.footageId);
  const taps = useTaps((s) => (s.soundId === sound.id ? s.taps : NO_TAPS));
  const frame = useBench((s) => reelFrameOf(bench, s));
  const here = secondOfFrame(bench.project, sound, frame);
  const i = nearestBeat(grid.times, here);
  const put = (make: () => BeatGrid) => attempt(() => edit((project) => setBeats(project, sound.id, make())));
  const ticked = useTicks((s) => s.soundId);
  const clock = useBench((s) => s.clock);
  const tempo = tempoOf(grid.times);
  const off = i >= 0 ? frameOfSecond(bench.project, sound, grid.times[i]!) - frame : undefined;
  useEffect(() => () => clearTaps(), [sound.id]);
  const buttons: readonly [string, string, () => BeatGrid][] = [
    ['× 2', 'Twice as many beats', () => doubled(grid)],
    ['÷ 2', 'Every second beat', () => halved(grid)],
    ['× 3⁄2', 'Three beats for every two', () => threeForTwo(grid)],
    ['× 2⁄3', 'Two beats for every three', () => twoForThree(grid)],
    ['½ later', 'Off-beats become beats', () => shifted(grid, 0.5)],
  ];
  return (
    <>
      <div className="grid grid-cols-[1fr_1fr_1.3fr] gap-3">
        <TypedField
          label="Beats a minute"
          text={tempo ? tempo.toFixed(2) : 'none'}
          commit={(t) =>
            edit((project) =>
              setBeats(
                project,
                sound.id,
                evenBeats(
                  number(t, /bpm$/i, 'tempo'),
                  grid.times[grid.bar.first] ?? sound.fromSeconds,
                  sound.toSeconds,
                  grid.bar,
                ),
              ),
            )
          }
        />
        <TypedField
          label="First bar at, s"
          text={(grid.times[grid.bar.first] ?? 0).toFixed(3)}
          commit={(t) =>
            edit((project) =>
              setBeats(
                project,
                sound.id,
                evenBeats(tempo ?? 120, number(t, /s$/, 'offset'), sound.toSeconds, grid.bar),
              ),
            )
          }
        />
        <Choice
          label="Beats a bar"
          value={String(grid.bar.beats)}
          options={BARS}
          choose={(value) => put(() => barsOf(grid, Number(value)))}
        />
      </div>
      {heard && <OtherHalf sections={heard.sections} />}
      <div className="flex flex-wrap gap-1.5">
        {buttons.map(([text, title, make]) => (
          <button
            key={text}
            className="button px-2 font-mono text-xs"
            data-tip={title}
            disabled={grid.times.length < 4}
            onClick={() => put(make)}
          >
            {text}
          </button>
        ))}
        <button
          className="button px-2 text-xs"
          disabled={i < 0 || isDownbeat(grid, i)}
          onClick={() => put(() => barFrom(grid, i))}
        >
          Bar begins here
        </button>
        <button
          className="button px-2 text-xs"
          disabled={i < 0 || Math.abs(off!) < 0.01}
          data-tip="The beat nearest to the playhead moves to it, and all after it as far"
          onClick={() => put(() => fixedFrom(grid, i, here))}
        >
          Fix from here on
        </button>
        {heard && (
          <button className="button px-2 text-xs" onClick={() => put(() => gridOf(heard))}>
            As heard
          </button>
        )}
      </div>
      <div className="flex flex-wrap gap-1.5">
        <button className="button button-ink px-2 text-xs" onClick={() => select({ kind: 'lay' })}>
          Lay clips on it… <kbd className="font-mono opacity-70">E</kbd>
        </button>
        <button className="button px-2 text-xs" onClick={() => select({ kind: 'landings' })}>
          All landings
        </button>
      </div>
      <div className="flex items-center gap-2 text-sm">
        <button className="button px-2 text-xs" onClick={() => tapBeat(sound, bench)}>
          Tap <kbd className="font-mono opacity-70">N</kbd>
        </button>
        <Check
          label="Ticks"
          tip="A tick on every beat while it plays"
          checked={ticked === sound.id}
          set={(on) => {
            useTicks.setState({ soundId: on ? sound.id : undefined });
            if (clock > 0) tickAlong(bench.project);
          }}
        />
        {taps.length === 0 ? (
          <span className="text-faint text-xs">Play and tap along; four taps make a beat.</span>
        ) : (
          <>
            <span className="font-mono text-xs">
              {taps.length === 1 ? 'one tap' : `${taps.length} taps`}
              {taps.length > 1 && `, ${tempoOf(taps)!.toFixed(1)} a minute`}
            </span>
            <button
              className="button button-ink ml-auto px-2 text-xs"
              disabled={taps.length < 4}
              onClick={() => {
                put(() => tappedBeats(taps, sound.toSeconds, grid.bar));
                clearTaps();
              }}
            >
              Beat as tapped
            </button>
            <button className="underline" onClick={clearTaps}>
              clear
            </button>
          </>
        )}
      </div>
      {heard && <Sureness sections={heard.sections} here={here} />}
    </>
  );
}
