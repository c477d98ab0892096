import { confidence, isCut, noErrorTerms, sideOfCut } from '@idle-bend/kernels';
import { loadFlow } from '@idle-bend/media';
import { FAILURES } from './sequences/failures.mjs';
import { psnr } from './sequences/quality.mjs';
import { grayFrame } from './sequences/gray-frame.mjs';
import { FRAMES, sequence } from './sequences/render.mjs';

export const about = 'Rough spots: are the made frames below 26 dB those that were said to be?';

const [WIDTH, HEIGHT] = [480, 270];
const SEEDS = [51, 52, 53, 54, 55, 56, 61, 62, 63, 64, 65, 66];
/** Frames of a wheel that turns nearly from spoke to spoke look right and are not: nothing in them says so. */
const NAMES = Object.keys(FAILURES).filter((name) => name !== 'wheel');
const CORE = ['crossing', 'occlusion', 'blur', 'flash'];
const ROUGH_DECIBELS = 26;

export async function run() {
  const flow = loadFlow();
  const looked = NAMES.flatMap((name) =>
    SEEDS.flatMap((seed) => [2, 4].flatMap((step) => look(flow, name, seed, step))),
  );
  const rows = [];
  const tell = (what, some) => {
    const rough = some.filter(({ decibels }) => decibels < ROUGH_DECIBELS);
    const flagged = some.filter(({ sure }) => sure < 0.5);
    const both = flagged.filter(({ decibels }) => decibels < ROUGH_DECIBELS);
    const [recall, precision] = [both.length / rough.length, both.length / flagged.length];
    rows.push({
      what: `${what}: ${rough.length} of ${some.length} below ${ROUGH_DECIBELS} dB; found`,
      value: recall.toFixed(3),
      limit: '≥ 0.85',
      holds: recall >= 0.85,
    });
    rows.push({
      what: `${what}: of ${flagged.length} flagged, right`,
      value: precision.toFixed(3),
      limit: '≥ 0.6',
      holds: precision >= 0.6,
    });
  };
  tell(
    'crossing, occlusion, shake, flash',
    looked.filter(({ name }) => CORE.includes(name)),
  );
  tell(
    'all but cuts',
    looked.filter(({ name }) => name !== 'cut'),
  );
  return rows;
}

/** Every frame taken out of a sequence: how it is made, and what was said of it. */
function look(flow, name, seed, step) {
  const frames = sequence(name, { width: WIDTH, height: HEIGHT, seed }).map((data) => grayFrame(data, WIDTH, HEIGHT));
  const pairs = [];
  for (let k = 0; k + step < FRAMES; k += step) pairs.push(flow.pair(frames[k], frames[k + step], 'default'));
  return pairs.flatMap((pair, i) =>
    Array.from({ length: step - 1 }, (_, n) => {
      const fraction = (n + 1) / step;
      const [a, b] = [frames[i * step], frames[(i + 1) * step]];
      const evidence = noErrorTerms();
      const around = { before: pairs[i - 1], after: pairs[i + 1] };
      const made = flow.between(a, b, pair, fraction, new Uint8Array(a.data.length), { around, evidence });
      const shown = !isCut(pair) ? made : [a, b][sideOfCut(fraction, around)].data;
      return { name, decibels: psnr(shown, frames[i * step + n + 1].data), sure: confidence(evidence) };
    }),
  );
}
