import { InvalidInput, parseSpeed, percentText, positionAt } from '@idle-bend/core';
import { Repeat2, Undo2, X } from 'lucide-react';
import { speedMeasure, useBench, type BenchClip } from '../bench-store.ts';
import { bounceTheRange, clearRange, fitTheRange, scaleTheRange, setSpeedOfRange, turnTheRange } from '../ranges.ts';
import { Choice } from './choice.tsx';
import { FitField } from './fit-field.tsx';
import { KEEPS } from './keeps.ts';
import { Panel } from './panel.tsx';
import { TypedField } from './typed-field.tsx';

/** The stretch between the in and the out point: its speed, its length, backward, there and back. */
export function RangePanel({ bench }: { bench: BenchClip }) {
  const keep = useBench((s) => s.keep);
  const { from, to } = useBench((s) => s.range)!;
  const { map } = bench.clip;
  const frames = to - from;
  const [start, end] = [positionAt(map, from), positionAt(map, to)];
  const speed = (end - start) / frames / bench.slope;
  const times = (typed: string) => {
    const match = /^(\d+(?:\.\d+)?)\s*x?$/.exec(typed);
    if (!match || Number(match[1]) === 0) throw new InvalidInput('times', `"${typed}" is not a factor such as 4 or 0.5`);
    scaleTheRange(Number(match[1]));
  };
  return (
    <Panel
      title="Range"
      about={`frames ${from} to ${to - 1} · source ${start.toFixed(1)} to ${end.toFixed(1)}`}
      action={
        <button className="button px-1.5" aria-label="Clear the range" onClick={clearRange}>
          <X size={15} aria-hidden />
        </button>
      }
    >
      <div className="grid grid-cols-2 gap-3">
        <TypedField
          label="Speed of the range"
          text={percentText(speed)}
          commit={(typed) => setSpeedOfRange(parseSpeed(typed, speedMeasure(bench, frames, speed)))}
        />
        <TypedField label="Times its own speed" text="1" commit={times} />
      </div>
      <FitField bench={bench} frames={frames} content={end - start} fit={fitTheRange} />
      <Choice label="A new speed keeps" value={keep} options={KEEPS} choose={(next) => useBench.setState({ keep: next })} />
      <div className="flex gap-2">
        <button className="button" onClick={turnTheRange}>
          <Undo2 size={15} aria-hidden /> Turn round
        </button>
        <button className="button" onClick={bounceTheRange}>
          <Repeat2 size={15} aria-hidden /> Bounce
        </button>
      </div>
    </Panel>
  );
}
