import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { addSource, appendClip, setReelRange, updateClip, withMap } from '@idle-bend/core/edit';
import { emptyProject } from '@idle-bend/core/model';
import { chunksOf } from '@idle-bend/core/render';
import { rate } from '@idle-bend/core/time';
import { setClipSpeed } from '@idle-bend/core/time-map';
import { FlowStore, openSource, writeChunk, writeReel } from '@idle-bend/media';
import { times } from './measure.mjs';

export const about = 'Renders: chunks in a process for every core, against the same reel in one go';

const FILM = 'demo/footage/marble-bell.mp4';

/** The bell at 40 %, stepped or made by Flow. */
async function parade(method) {
  const { index } = await openSource(FILM);
  const source = {
    id: 'bell',
    name: 'marble bell',
    frames: index.grid.frames,
    nativeRate: index.grid.rate,
    readAs: index.grid.rate,
    moments: [],
    droppedRepeats: null,
  };
  const project = appendClip(addSource(emptyProject(rate(24)), source), 'a', 'bell');
  const slowed = updateClip(project, 'a', (clip) =>
    withMap({ ...clip, method }, setClipSpeed(clip.map, 0.4, index.grid.frames / 120 / 24)),
  );
  return setReelRange(slowed, { from: 0, to: 192 });
}

const order = (index, stretch) => ({
  index,
  stretch,
  first: 0,
  format: 'h264',
  depth: 8,
  alpha: false,
  toneMap: false,
  level: 'quick',
});

export async function run() {
  if (process.send) return [];
  const folder = mkdtempSync(join(tmpdir(), 'idle-bend-bench-'));
  const rows = [];
  try {
    for (const method of ['step', 'flow']) {
      const project = await parade(method);
      const source = await openSource(FILM);
      const whole = await timed(() =>
        writeReel(
          project,
          () => Promise.resolve(source),
          join(folder, `${method}.mp4`),
          { muxer: 'mp4', codec: 'h264' },
          {
            stretch: project.reel.range,
            level: 'quick',
            store: new FlowStore(join(folder, `${method}-whole`), 2 ** 32),
          },
        ),
      );
      const chunks = chunksOf(project.reel.range, project);
      const apart = await timed(() => inProcesses(method, chunks, join(folder, method)));
      rows.push({
        what: `${method}: ${project.reel.range.to} frames of 1280 × 720 in one go`,
        value: `${whole.toFixed(1)} s`,
      });
      rows.push({
        what: `${method}: in ${chunks.length} chunks, ${availableParallelism()} at a time`,
        value: `${apart.toFixed(1)} s, ${times(apart, whole)}`,
      });
    }
    return rows;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

const timed = async (work) => {
  const start = performance.now();
  await work();
  return (performance.now() - start) / 1000;
};

async function inProcesses(method, chunks, folder) {
  const waiting = chunks.map((_, i) => i);
  const one = async () => {
    for (let i = waiting.shift(); i !== undefined; i = waiting.shift()) {
      const child = fork(fileURLToPath(import.meta.url), [method, String(i), folder]);
      const code = await new Promise((resolve) => child.once('exit', resolve));
      if (code !== 0) throw new Error(`chunk ${i} ended with ${code}`);
    }
  };
  await Promise.all(Array.from({ length: availableParallelism() }, one));
}

if (process.send) {
  const [method, number, folder] = process.argv.slice(2);
  const project = await parade(method);
  const source = await openSource(FILM);
  const i = Number(number);
  await writeChunk(project, order(i, chunksOf(project.reel.range, project)[i]), () => Promise.resolve(source), folder, {
    store: new FlowStore(join(folder, 'motion'), 2 ** 32),
  });
  process.exit(0);
}
