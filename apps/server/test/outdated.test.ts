import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import type { Project, Source } from '@idle-bend/core/model';
import { plainClip } from '@idle-bend/core/reel';
import { rate } from '@idle-bend/core/time';
import { straightMap } from '@idle-bend/core/time-map';
import { H264, makeNumberedClip, readNumbers } from '../../../packages/media/test/numbered-clip.js';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-outdated-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('finished parts of a render that would be made otherwise today are made again, and that is said; others stay', async () => {
  const clip = await makeNumberedClip({ file: at('clip.mp4'), frames: 60, rate: '30', options: H264 });
  const first = await RunningServer.start();
  const { data } = first;
  const { id, document } = await first.newProject();
  const { id: footage } = await first.upload(id, clip);
  const native = rate(30);
  const source: Source = {
    id: footage,
    name: 'clip',
    frames: 60,
    nativeRate: native,
    readAs: native,
    moments: [],
    droppedRepeats: null,
  };
  const item = { ...plainClip('c', source, rate(24)), map: straightMap(1200, 0, 59) };
  const filled: Project = {
    ...document,
    sources: [source],
    reel: { ...document.reel, width: 320, height: 192, items: [item] },
  };
  await first.send('PUT', `/api/projects/${id}/document`, { version: 1, document: filled, by: 'a' });
  const [{ id: render }] = (await first.send('POST', `/api/projects/${id}/renders`, { format: 'ffv1' })).body;
  const made = join(data, 'renders', render);
  const parts = () => (existsSync(made) ? readdirSync(made).filter((name) => name.startsWith('chunk-')) : []);
  const inodes = (names: readonly string[]) => names.map((name) => statSync(join(made, name)).ino);
  const look = (server: RunningServer) => async () =>
    (await server.get<any[]>(`/api/projects/${id}/renders`)).body.find((r) => r.id === render);
  const rests = (server: RunningServer) => server.until(look(server), ({ status }) => status === 'paused');

  await first.until(
    () => Promise.resolve(parts()),
    (names) => names.length > 2,
  );
  await first.send('POST', `/api/renders/${render}/pause`);
  await rests(first);
  await first.kill();

  // The same program and the same ffmpeg: nothing is made twice.
  const same = await RunningServer.start(data);
  const [had, before] = [parts().slice(0, 2), inodes(parts().slice(0, 2))];
  const count = parts().length;
  await same.send('POST', `/api/renders/${render}/resume`);
  await same.until(
    () => Promise.resolve(parts()),
    (names) => names.length > count,
  );
  await same.send('POST', `/api/renders/${render}/pause`);
  expect(await rests(same)).toMatchObject({ note: null });
  expect(inodes(had)).toEqual(before);
  await same.kill();

  // An ffmpeg that says it is another one.
  const real = spawnSync('sh', ['-c', 'command -v ffmpeg'], { encoding: 'utf8' }).stdout.trim();
  const other = at('other-ffmpeg');
  writeFileSync(other, `#!/bin/sh\n[ "$1" = -version ] && echo "ffmpeg version 9.9" && exit\nexec ${real} "$@"\n`, {
    mode: 0o755,
  });
  const upgraded = await RunningServer.start(data, [], { IDLE_BEND_FFMPEG: other });
  await upgraded.send('POST', `/api/renders/${render}/resume`);
  const done = await upgraded.until(look(upgraded), ({ status }) => status === 'done' || status === 'failed');
  expect(done).toMatchObject({
    status: 'done',
    problem: null,
    note: expect.stringMatching(/^\d+ finished parts were made again/),
  });
  const numbers = readNumbers(join(made, 'reel.mkv'));
  expect(numbers).toEqual(Array.from({ length: 1200 }, (_, k) => Math.floor((k * 59) / 1200 + 1e-6)));
  await upgraded.discard();
});
