import { addSource, appendClip, setReelBlur, updateClip, withMap } from '@idle-bend/core/edit';
import { emptyProject, DEFAULT_SHUTTER } from '@idle-bend/core/model';
import { placeOf } from '@idle-bend/core/reel';
import { resolveClip } from '@idle-bend/core/resolve';
import { setClipSpeed } from '@idle-bend/core/time-map';
import { FlowThreads, loadKernels, openSource, SourceReader } from '@idle-bend/media';
import { FrameComposer } from '@idle-bend/pipeline';
import { median, times } from './measure.mjs';

export const about =
  'A frame of the whip at 1280 × 720 and 8 × its speed, a shutter of 180°: as it is made, and as the mean of 64 in-betweens';

const MOMENTS = 64;

export async function run() {
  const source = await openSource('demo/footage/whip-out.mp4');
  const { rate, frames } = source.index.grid;
  const film = { id: 's', name: 'whip', frames, nativeRate: rate, readAs: rate, moments: [], droppedRepeats: null };
  let project = appendClip(addSource(setReelBlur(emptyProject(rate), DEFAULT_SHUTTER), film), 'c', 's');
  project = updateClip(project, 'c', (clip) => withMap(clip, setClipSpeed(clip.map, 8, 1)));
  const show = resolveClip(project, placeOf(project, 'c').item);
  const reader = new SourceReader(source.file, source.facts, source.index);
  const threads = new FlowThreads(1, 'default');
  const composer = new FrameComposer(loadKernels(), reader, threads.means);
  const made = [];
  const whole = [];
  const decibels = [];
  for (const k of [6, 7, 8]) {
    const { sample } = show(k);
    // The motion between the frames is found once for either.
    await composer.compose(sample);
    made.push(await timed(async () => void (await composer.compose(sample))));
    const blurred = (await composer.compose(sample)).data.slice(0, 1280 * 720);
    const mean = new Float64Array(blurred.length);
    const moments = Array.from(
      { length: MOMENTS },
      (_, i) => sample.steps[Math.floor(((i + 0.5) / MOMENTS) * sample.steps.length)],
    );
    whole.push(
      await timed(async () => {
        for (const moment of moments) {
          const { data } = await composer.compose(moment);
          for (let i = 0; i < mean.length; i++) mean[i] += data[i] / MOMENTS;
        }
      }),
    );
    const error = mean.reduce((sum, value, i) => sum + (value - blurred[i]) ** 2, 0) / mean.length;
    decibels.push(10 * Math.log10((255 * 255) / error));
  }
  reader.close();
  threads.close();
  const agree = median(decibels);
  return [
    { what: 'a blurred frame, the motion known', value: `${(1000 * median(made)).toFixed(0)} ms` },
    { what: `baseline: ${MOMENTS} in-betweens, one by one`, value: `${(1000 * median(whole)).toFixed(0)} ms` },
    { what: 'the baseline takes, against it', value: times(median(whole), median(made)) },
    { what: 'they agree to', value: `${agree.toFixed(1)} dB`, limit: 'at least 32 dB', holds: agree >= 32 },
  ];
}

async function timed(work) {
  const start = performance.now();
  await work();
  return (performance.now() - start) / 1000;
}
