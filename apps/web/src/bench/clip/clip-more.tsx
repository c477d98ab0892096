import { InvalidInput } from '@idle-bend/core/foundation';
import { parseSpeed, percentText } from '@idle-bend/core/time';
import { ladder, mapDuration, type Keep } from '@idle-bend/core/time-map';
import { Footprints, Snowflake } from 'lucide-react';
import { Choice } from '../../ui/choice.tsx';
import { KEEPS, LADDER } from '../speed/keeps.ts';
import { TypedField } from '../../ui/typed-field.tsx';
import { benchStore, speedMeasure, type BenchClip } from '../../session/bench-state.ts';
import { applyMap, attempt } from '../../session/command.ts';
import { hold } from './commands.ts';
import { useKept } from '../../ui/use-kept.ts';
import { useBench } from '../../ui/use-session.ts';

const wholeFrames = (typed: string, least: number): number => {
  if (!/^\d+$/.test(typed) || Number(typed) < least)
    throw new InvalidInput('frames', `"${typed}" is not a whole number of frames from ${least} up`);
  return Number(typed);
};

/** What is put in at the playhead: a frame held, with or without ramps, and ladders of speeds. */
export function ClipMore({ bench }: { bench: BenchClip }) {
  return (
    <>
      <Hold />
      <Steps bench={bench} />
    </>
  );
}

function Hold() {
  const frames = useBench((s) => s.holdFrames);
  const ramp = useBench((s) => s.holdRamps);
  const setFrames = (holdFrames: number) => benchStore.setState({ holdFrames });
  const setRamp = (holdRamps: number) => benchStore.setState({ holdRamps });
  return (
    <div className="grid grid-cols-[1fr_1fr_auto] items-end gap-3">
      <TypedField
        label="Hold, still frames"
        text={String(frames)}
        commit={(t) => setFrames(wholeFrames(t, 1))}
        step={(by) => setFrames(Math.max(1, frames + by))}
      />
      <TypedField
        label="Ramps in and out"
        text={String(ramp)}
        commit={(t) => setRamp(wholeFrames(t, 0))}
        step={(by) => setRamp(Math.max(0, ramp + by))}
      />
      <button className="button h-8" onClick={() => attempt(() => hold(frames, ramp))}>
        <Snowflake size={15} aria-hidden /> Hold here
      </button>
    </div>
  );
}

const WAYS = [
  { value: 'in', text: 'In', title: 'Down the ladder from the playhead on' },
  { value: 'out', text: 'Out', title: 'Up the ladder again' },
  { value: 'both', text: 'In and out', title: 'Down, and up again' },
] as const;

function Steps({ bench }: { bench: BenchClip }) {
  const keep = useBench((s) => s.keep);
  const [speeds, setSpeeds] = useKept('steps', LADDER);
  const [framesEach, setFramesEach] = useKept('steps, frames each', 12);
  const [way, setWay] = useKept<(typeof WAYS)[number]['value']>('steps, way', 'in');
  const measure = speedMeasure(bench, framesEach, 1);
  const take = (typed: string) =>
    setSpeeds(
      typed
        .split(/[\s,/]+/)
        .filter(Boolean)
        .map((word) => parseSpeed(word, measure)),
    );
  const up = speeds.toReversed();
  const rungs = way === 'in' ? speeds : way === 'out' ? up : [...speeds, ...up];
  const put = () =>
    attempt(() =>
      applyMap((map) =>
        ladder(
          map,
          Math.min(benchStore.getState().k, mapDuration(map) - 1),
          { speeds: rungs, framesEach },
          bench.slope,
          keep,
        ),
      ),
    );
  return (
    <>
      <div className="grid grid-cols-[1.4fr_1fr] gap-3">
        <TypedField
          label="Steps, % one after another"
          text={speeds.map((v) => percentText(v).replace(/\s*%/, '')).join(' ')}
          commit={take}
        />
        <TypedField
          label="Frames each"
          text={String(framesEach)}
          commit={(t) => setFramesEach(wholeFrames(t, 1))}
          step={(by) => setFramesEach(Math.max(1, framesEach + by))}
        />
      </div>
      <div className="grid grid-cols-2 gap-3">
        <Choice label="Which way" value={way} options={WAYS} choose={setWay} />
        <Choice
          label="What follows keeps its"
          value={keep}
          options={KEEPS}
          choose={(next: Keep) => benchStore.setState({ keep: next })}
        />
      </div>
      <button className="button self-start" onClick={put}>
        <Footprints size={15} aria-hidden /> {rungs.length} steps from here, {rungs.length * framesEach} frames
      </button>
    </>
  );
}
