import { positionsInto, positionAt } from '@idle-bend/core/time-map';
import { millions, seconds, times } from './measure.mjs';

export const about = 'positions of a map of eight bends (a drawn one among them), a million frames long';

const COUNT = 1_000_000;
const EASES = ['soft', 'silk', 'early', 'late', 'straight', [0.3, 0, 0.4, 1], 'soft', 'silk'];
const step = COUNT / 9;
const map = {
  vertices: Array.from({ length: 10 }, (_, i) => ({ t: i * step, s: i * step * (i % 2 ? 0.4 : 1.7) })),
  bends: Array.from({ length: 10 }, (_, i) => ({
    widthFrames: i === 0 || i === 9 ? 0 : step * 0.6,
    ease: EASES[i - 1] ?? 'soft',
  })),
};

export async function run() {
  const out = new Float64Array(COUNT);
  const inRun = seconds(() => positionsInto(map, 0, out));
  const single = seconds(() => {
    for (let k = 0; k < COUNT; k++) out[k] = positionAt(map, k);
  });
  let speed = 0.7;
  const baseline = seconds(() => {
    for (let k = 0, s = 0; k < COUNT; k++, s += speed) out[k] = s;
    speed = out[1];
  });
  return [
    { what: 'a run of positions', value: millions(COUNT / inRun), limit: '≥ 5 million/s', holds: COUNT / inRun >= 5e6 },
    {
      what: 'positions one by one',
      value: millions(COUNT / single),
      limit: '≥ 5 million/s',
      holds: COUNT / single >= 5e6,
    },
    { what: 'baseline: adding one speed up, in the same run', value: millions(COUNT / baseline) },
    { what: 'a run of positions takes, against that baseline', value: times(inRun, baseline) },
  ];
}
