import { setBend } from '@idle-bend/core/time-map';
import { TypedField } from '../../ui/typed-field.tsx';
import { typedNumber } from '../../ui/typed-number.ts';
import type { BenchClip } from '../../session/bench-state.ts';
import { applyMap } from '../../session/command.ts';
import { movedBend } from '../clip/commands.ts';

interface Props {
  readonly bench: BenchClip;
  /** Of the vertex. */
  readonly index: number;
  readonly label: string;
  readonly isBare?: boolean;
}

export const shortNumber = (n: number) => String(Math.round(n * 1000) / 1000);
export const readFrames = (typed: string) => typedNumber(typed, /f$/, 'frames');

/** Where a bend, or an end, sits. */
export function SitsAt({ bench, index, ...field }: Props) {
  const { t } = bench.clip.map.vertices[index]!;
  return (
    <TypedField
      {...field}
      text={shortNumber(t)}
      commit={(typed) => applyMap((m) => movedBend(m, index, readFrames(typed)))}
      step={(by) => applyMap((m) => movedBend(m, index, Math.round(t) + by))}
    />
  );
}

/** Over how many frames a bend changes the speed. */
export function BendWidth({ bench, index, ...field }: Props) {
  const { widthFrames } = bench.clip.map.bends[index]!;
  const put = (frames: number) => applyMap((m) => setBend(m, index, { widthFrames: frames }));
  return (
    <TypedField
      {...field}
      text={shortNumber(widthFrames)}
      commit={(typed) => put(readFrames(typed))}
      step={(by) => put(Math.max(0, Math.round(widthFrames) + by))}
    />
  );
}
