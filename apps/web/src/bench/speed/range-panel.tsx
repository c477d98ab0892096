import { InvalidInput } from '@idle-bend/core/foundation';
import { calmerFrame } from '@idle-bend/core/motion';
import { frameOfPosition, positionOfFrame } from '@idle-bend/core/sampling';
import { parseSpeed, percentText } from '@idle-bend/core/time';
import { appearances, positionAt } from '@idle-bend/core/time-map';
import { CornerUpLeft, Footprints, Repeat2, Snowflake, Undo2, X } from 'lucide-react';
import { useMotion } from '../motion.ts';
import {
  bounceTheRange,
  clearRange,
  fitTheRange,
  holdTheRange,
  returnTheRange,
  scaleTheRange,
  setSpeedOfRange,
  stepTheRange,
  turnTheRange,
} from './range-commands.ts';
import { Choice } from '../../ui/choice.tsx';
import { FitField } from './fit-field.tsx';
import { KEEPS, LADDER } from './keeps.ts';
import { Panel } from '../../ui/panel.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { typedNumber } from '../../ui/typed-number.ts';
import { useKept } from '../../ui/use-kept.ts';
import { benchStore, speedMeasure, type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';

/** The stretch between the in and the out point: its speed, its length, backward, there and back. */
export function RangePanel({ bench }: { bench: BenchClip }) {
  const keep = useBench((s) => s.keep);
  const { from, to } = useBench((s) => s.range)!;
  const ramps = useBench((s) => s.rangeRamps);
  const [speeds] = useKept('steps', LADDER);
  const setRamps = (frames: number) => benchStore.setState({ rangeRamps: Math.max(0, Math.min(1000, frames)) });
  const { map } = bench.clip;
  const frames = to - from;
  const [start, end] = [positionAt(map, from), positionAt(map, to)];
  const speed = (end - start) / frames / bench.slope;
  const times = (typed: string) => {
    const match = /^(\d+(?:\.\d+)?)\s*x?$/.exec(typed);
    if (!match || Number(match[1]) === 0)
      throw new InvalidInput('times', `"${typed}" is not a factor such as 4 or 0.5`);
    scaleTheRange(Number(match[1]));
  };
  return (
    <Panel
      title="Range"
      recipe="slow-a-part"
      about={`frames ${from} to ${to - 1} · source ${start.toFixed(1)} to ${end.toFixed(1)}`}
      action={
        <button className="button px-1.5" aria-label="Clear the range" onClick={clearRange}>
          <X size={15} aria-hidden />
        </button>
      }
    >
      <div className="grid grid-cols-2 gap-3">
        <TypedField
          takesTyping
          label="Speed of the range"
          text={percentText(speed)}
          commit={(typed) => setSpeedOfRange(parseSpeed(typed, speedMeasure(bench, frames, speed)))}
        />
        <TypedField label="Times its own speed" text="1" commit={times} />
      </div>
      <FitField bench={bench} frames={frames} content={end - start} fit={fitTheRange} />
      <Choice
        label="A new speed keeps"
        value={keep}
        options={KEEPS}
        choose={(next) => benchStore.setState({ keep: next })}
      />
      <TypedField
        label="Ramps at both ends, frames"
        text={String(ramps)}
        commit={(typed) => setRamps(typedNumber(typed, /f$/, 'frames'))}
        step={(by) => setRamps(ramps + by)}
      />
      <CalmerEnds bench={bench} from={from} to={to} />
      <div className="flex flex-wrap gap-2">
        <button className="button" onClick={turnTheRange}>
          <Undo2 size={15} aria-hidden /> Reverse
        </button>
        <button
          className="button"
          onClick={returnTheRange}
          data-tip="There, and back to where it began; the clip ends there"
        >
          <CornerUpLeft size={15} aria-hidden /> There and back
        </button>
        <button
          className="button"
          onClick={bounceTheRange}
          data-tip="There, back and there again; the clip then goes on"
        >
          <Repeat2 size={15} aria-hidden /> Bounce
        </button>
        <button
          className="button"
          onClick={holdTheRange}
          data-tip="Its first frame stands still for as long as it lasts"
        >
          <Snowflake size={15} aria-hidden /> Hold
        </button>
        <button
          className="button"
          onClick={() => stepTheRange(speeds)}
          data-tip={`${speeds.map((v) => percentText(v)).join(', ')}, as long each; the tab Holds says which`}
        >
          <Footprints size={15} aria-hidden /> Steps
        </button>
      </div>
    </Panel>
  );
}

/** How far from the ends of a range a calmer place is looked for, seconds of source. */
const AROUND_SECONDS = 0.5;

/** Where near its ends the camera is calmer and nothing flashes: better places for a slow part to begin and end. */
function CalmerEnds({ bench, from, to }: { bench: BenchClip; from: number; to: number }) {
  const { clip, source, frames } = bench;
  const { motion } = useMotion(source.id);
  if (!motion) return null;
  const reach = Math.round((source.nativeRate.num / source.nativeRate.den) * AROUND_SECONDS);
  const calmer = (t: number) => {
    const frame = calmerFrame(motion, Math.round(frameOfPosition(source, positionAt(clip.map, t))), reach);
    if (frame === undefined) return undefined;
    const times = appearances(clip.map, positionOfFrame(source, frame)).map((a) => Math.min(Math.max(t, a.from), a.to));
    const nearest = times.reduce<number | undefined>(
      (best, each) => (best === undefined || Math.abs(each - t) < Math.abs(best - t) ? each : best),
      undefined,
    );
    return nearest === undefined ? undefined : { frame, at: Math.max(0, Math.min(frames, Math.round(nearest))) };
  };
  const [start, end] = [calmer(from), calmer(to)];
  const put = (range: { from: number; to: number }) => range.to > range.from && benchStore.setState({ range });
  if (!start && !end) return null;
  return (
    <ul
      className="border-line bg-sheet flex flex-col gap-1 rounded-lg border px-3 py-1.5 text-[13px]"
      aria-label="Calmer places"
    >
      {start && (
        <li>
          The picture is calmer at source {start.frame}.{' '}
          <button className="text-river font-semibold hover:underline" onClick={() => put({ from: start.at, to })}>
            Begin at frame {start.at}
          </button>
        </li>
      )}
      {end && (
        <li>
          It is calmer at source {end.frame}.{' '}
          <button className="text-river font-semibold hover:underline" onClick={() => put({ from, to: end.at })}>
            End at frame {end.at}
          </button>
        </li>
      )}
    </ul>
  );
}
