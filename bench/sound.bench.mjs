import { spawnSync } from 'node:child_process';
import { addSource, appendClip, setClipSound, updateClip, withMap } from '@idle-bend/core/edit';
import { emptyProject } from '@idle-bend/core/model';
import { SOUND_RATE } from '@idle-bend/core/sound';
import { rate } from '@idle-bend/core/time';
import { setClipSpeed } from '@idle-bend/core/time-map';
import { programPath } from '@idle-bend/media';
import { inMemory, ReelSound } from '@idle-bend/pipeline';
import { median, times } from './measure.mjs';

export const about =
  'A clip’s sound at 60 % of its speed, two channels: pitch that follows, pitch that stays; against ffmpeg at one speed';

const SECONDS = 20;

export async function run() {
  const film = {
    id: 's',
    name: 'bell',
    frames: 60 * SECONDS,
    nativeRate: rate(60),
    readAs: rate(60),
    moments: [],
    droppedRepeats: null,
  };
  const channel = Float32Array.from({ length: SECONDS * SOUND_RATE }, (_, i) => Math.sin(i / 7) * Math.sin(i / 5000));
  const rows = [];
  for (const [mode, filter] of [
    ['follow', 'asetrate=28800,aresample=48000:filter_size=64'],
    ['keep', 'atempo=0.6'],
  ]) {
    let project = appendClip(addSource(emptyProject(rate(24)), film), 'c', 's');
    project = setClipSound(
      updateClip(project, 'c', (clip) => withMap(clip, setClipSpeed(clip.map, 0.6, 2.5))),
      'c',
      { mode },
    );
    const own = [];
    for (let i = 0; i < 3; i++) {
      const sound = new ReelSound(project, () => Promise.resolve(inMemory([channel, channel])));
      const start = performance.now();
      await sound.read(0, sound.length);
      own.push((performance.now() - start) / (sound.length / SOUND_RATE));
    }
    const baseline = Array.from({ length: 3 }, () => {
      const start = performance.now();
      const args = [
        '-v',
        'error',
        '-f',
        'lavfi',
        '-i',
        `sine=440:r=48000:d=${SECONDS},aformat=channel_layouts=stereo`,
        '-af',
        filter,
        '-f',
        'null',
        '-',
      ];
      if (spawnSync(programPath('ffmpeg'), args).status !== 0) throw new Error('ffmpeg failed');
      return (performance.now() - start) / (SECONDS / 0.6);
    });
    const name = mode === 'follow' ? 'its pitch follows' : 'its pitch stays';
    rows.push(
      { what: `${name}: a second of it`, value: `${median(own).toFixed(0)} ms` },
      {
        what: `baseline: ffmpeg ${filter.split(/[=,]/)[0]}, start included`,
        value: `${median(baseline).toFixed(0)} ms`,
      },
      { what: 'it takes, against the baseline', value: times(median(own), median(baseline)) },
    );
  }
  return rows;
}
