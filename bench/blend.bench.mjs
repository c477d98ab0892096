import { loadKernels } from '@idle-bend/media';
import { NO_COLOUR_TAGS, parsePixelFormat, frameBytes } from '@idle-bend/core/frame';
import { seconds, times } from './measure.mjs';

export const about = 'Mix of two 1920 × 1080 pictures, 8 bit 4:2:0';

export async function run() {
  const layout = parsePixelFormat('yuv420p');
  const format = { width: 1920, height: 1080, layout, colour: NO_COLOUR_TAGS, pixelAspect: { num: 1, den: 1 } };
  const frame = (seed) => ({
    format,
    data: Uint8Array.from({ length: frameBytes(layout, 1920, 1080) }, (_, i) => (i * seed) & 255),
  });
  const [a, b] = [frame(7), frame(13)];
  const out = new Uint8Array(a.data.length);
  const kernels = loadKernels();
  const kernel = seconds(() => kernels.blend(a, b, 0.37, out), { runs: 15 });
  const weight = Math.round(0.37 * 32768);
  const loop = seconds(
    () => {
      for (let i = 0; i < out.length; i++) out[i] = (a.data[i] * (32768 - weight) + b.data[i] * weight + 16384) >> 15;
    },
    { runs: 15 },
  );
  return [
    { what: 'the kernel, copies in and out included', value: `${(kernel * 1000).toFixed(2)} ms` },
    { what: 'baseline: the same sum as a JavaScript loop', value: `${(loop * 1000).toFixed(2)} ms` },
    { what: 'the loop takes, against the kernel', value: times(loop, kernel) },
  ];
}
