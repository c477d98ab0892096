import { crc32 } from 'node:zlib';
import { NO_COLOUR_TAGS, parsePixelFormat } from '@idle-bend/core/frame';
import { loadKernels } from '@idle-bend/media';
import { ReelCompositor } from '@idle-bend/pipeline';
import { median, times } from './measure.mjs';

export const about =
  'All that is done to a frame after its in-between is made, at 960 × 540 on one core: steadied and framed, punched, pushed over a cut, flashed, its checksum';

const [WIDTH, HEIGHT, FRAMES] = [960, 540, 400];

export async function run() {
  const format = {
    ...{ width: WIDTH, height: HEIGHT, layout: parsePixelFormat('yuv420p'), pixelAspect: { num: 1, den: 1 } },
    colour: { ...NO_COLOUR_TAGS, matrix: 'bt709', range: 'limited' },
  };
  const data = Uint8Array.from({ length: (WIDTH * HEIGHT * 3) / 2 }, (_, i) => (i * 2654435761) >>> 24);
  const picture = { format, data };
  const kernels = loadKernels();
  const compositor = new ReelCompositor(format, {
    kernels,
    composer: async () => ({ compose: async () => picture }),
  });
  const spans = {};
  for (const [what, effectsAt] of Object.entries({
    'steadied, framed and punched, flashed, its checksum': () => undefined,
    'the same of both sides of a push': (k) => ({ cut: 20, way: 'left', come: (k % 20) / 20, pace: 0.05 }),
  })) {
    const spent = [];
    for (let k = 0; k < FRAMES; k++) {
      const start = performance.now();
      const frame = await compositor.frame(resolved(k, effectsAt(k)));
      kernels.checksum(frame.data);
      if (k >= 40) spent.push(performance.now() - start);
    }
    spans[what] = spent.sort((a, b) => a - b);
  }
  const timed = (work) =>
    median(
      Array.from({ length: 40 }, () => {
        const start = performance.now();
        work();
        return performance.now() - start;
      }),
    );
  const [own, library] = [timed(() => kernels.checksum(data)), timed(() => crc32(data))];
  return [
    ...Object.entries(spans).map(([what, spent]) => {
      const late = spent[Math.floor(0.95 * spent.length)];
      return {
        what,
        value: `${median(spent).toFixed(1)} ms, 95 % within ${late.toFixed(1)} ms`,
        limit: '95 % within 8 ms',
        holds: late <= 8,
      };
    }),
    { what: 'baseline: the same checksum by Node’s own library', value: `${library.toFixed(2)} ms` },
    { what: 'ours takes, against it', value: times(own, library) },
  ];
}

/** Frame k of a clip that is steadied and framed, under a punch and a flash. */
function resolved(k, push) {
  const shake = { scale: 1.05, angle: 0.01 * Math.sin(k), x: 0.01 * Math.sin(k / 2), y: 0.01 * Math.cos(k / 3) };
  const clip = (id) => ({ id, framing: { fit: 'fill', scale: 1.2, x: 0.05, y: -0.02 } });
  const shown = (id) => ({
    ...{ clip: clip(id), source: { id }, sample: { kind: 'source', frame: 0 }, laid: shake, k, position: k },
  });
  return {
    clipFrame: shown('a'),
    effects: { held: undefined, scale: 1.08, x: 0.004, y: 0, flash: { colour: '#ffaa00', amount: 0.6 }, push },
    beside: shown('b'),
    goes: true,
  };
}
