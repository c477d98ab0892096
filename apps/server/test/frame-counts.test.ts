/** Large files whose containers keep no list of their frames: bent by an estimate at once, renumbered when they are counted. */
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Footage } from '@idle-bend/core/api';
import { addCue, addMoment, addSource, appendClip } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { HEIGHT, numberIn, readNumbers, WIDTH } from '../../../packages/media/test/numbered-clip.js';
import { filmOfTwoRates, slowProbe } from '../../../packages/media/test/two-rates.js';
import { runCommand } from './run-command.js';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-counts-'));
const at = (name: string) => join(folder, name);
/** Frames are counted while this file is there. */
const gate = at('gate');

let server: RunningServer;
let root: string;
let probe: string;

beforeAll(async () => {
  mkdirSync(at('card'));
  const film = await filmOfTwoRates(at('card/two rates.ts'), folder);
  expect(readNumbers(film)).toEqual(Array.from({ length: 150 }, (_, n) => n));
  probe = slowProbe(folder, gate);
  server = await RunningServer.start(undefined, ['--media', at('card')], { IDLE_BEND_FFPROBE: probe });
  root = (await server.get<{ id: string }[]>('/api/media')).body[0]!.id;
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

const look = async (project: string): Promise<Footage> => (await server.footage(project))[0];
const numberAt = async (footage: string, frame: number): Promise<number> => {
  const response = await fetch(`${server.url}/api/footage/${footage}/pictures/${frame}`);
  expect([frame, response.status]).toEqual([frame, 200]);
  return numberIn(new Uint8Array(await response.arrayBuffer()).subarray(0, WIDTH * HEIGHT));
};

describe('a large file without a list of its frames', () => {
  test('is bent by an estimate, waits with what has to be exact, and is renumbered by time once it is counted', async () => {
    const { id, version, document } = await server.newProject('Marble Parade', '25');
    const { taken } = (
      await server.send<{ taken: Footage[] }>('POST', `/api/projects/${id}/references`, {
        root,
        paths: ['two rates.ts'],
      })
    ).body;
    const estimated = taken[0]!.facts.picture!;
    expect(estimated).toMatchObject({ rate: { num: 25, den: 1 }, frames: 100 });
    expect(estimated.estimate).toEqual({ rate: estimated.rate, frames: 100, isCounted: false });
    const footage = taken[0]!.id;
    for (const frame of [0, 40, 49]) expect([frame, await numberAt(footage, frame)]).toEqual([frame, frame]);
    // 0.4 s after the second part has begun.
    expect(await numberAt(footage, 60)).toBe(70);

    const source = {
      ...{ id: footage, name: 'two rates', frames: 100, nativeRate: estimated.rate, readAs: estimated.rate },
      ...{ moments: [], droppedRepeats: null },
    };
    const marked = addMoment(addSource(document, source), footage, { id: 'm', frame: 60, name: 'bell' });
    const small = { ...marked, reel: { ...marked.reel, width: WIDTH, height: HEIGHT } };
    const bent: Project = addCue(appendClip(small, 'c', footage), { id: 'q', frame: 25, name: 'bell' });
    await server.send('PUT', `/api/projects/${id}/document`, { version, document: bent, by: 'a' });
    const counting = {
      status: 409,
      body: { message: expect.stringMatching(/"two rates.ts" are still being counted/) },
    };
    expect(await server.send('POST', `/api/projects/${id}/renders`, { format: 'ffv1' })).toMatchObject(counting);
    expect(await server.get(`/api/projects/${id}/bundle`)).toMatchObject(counting);
    expect(await server.get(`/api/projects/${id}/frame?frame=0`)).toMatchObject(counting);
    const command = ['render', id, '--data', server.data, '-o', at('command.mkv')];
    expect(await runCommand(command)).toMatchObject({
      status: 1,
      stderr: expect.stringMatching(/"two rates.ts" are still being counted/),
    });
    // Cues are times of the reel, whatever frames the footage has.
    expect(await runCommand(['cues', id, '--data', server.data, '-o', at('cues.csv')])).toMatchObject({ status: 0 });
    expect(readFileSync(at('cues.csv'), 'utf8')).toContain('bell');
    expect((await look(id)).facts.picture!.estimate).toMatchObject({ isCounted: false });

    writeFileSync(gate, '');
    const counted = await server.until(
      () => look(id),
      ({ facts }) => facts.picture!.estimate!.isCounted,
    );
    expect(counted.facts.picture).toMatchObject({ rate: { num: 50, den: 1 }, frames: 200, estimate: { frames: 100 } });
    expect(counted.revision).not.toBe(taken[0]!.revision);
    expect(await numberAt(footage, 120)).toBe(70);
    await server.prepared(id, footage);
    const still = await fetch(`${server.url}/api/projects/${id}/frame?frame=99`);
    writeFileSync(at('still.png'), Buffer.from(await still.arrayBuffer()));
    expect(readNumbers(at('still.png'))).toEqual([148]);

    // No window was open: what is rendered is renumbered all the same, and shows at every time what it showed.
    const [render] = (await server.send('POST', `/api/projects/${id}/renders`, { format: 'ffv1' })).body;
    const list = async () => (await server.get<any[]>(`/api/projects/${id}/renders`)).body[0];
    const done = await server.until(list, (r) => !['queued', 'running', 'joining'].includes(r.status));
    expect(done).toMatchObject({ status: 'done', frames: 100 });
    const file = at('render.mkv');
    writeFileSync(file, Buffer.from(await (await fetch(`${server.url}/api/renders/${render.id}/file`)).arrayBuffer()));
    const shown = Array.from({ length: 100 }, (_, k) => (k < 50 ? k : 50 + (k - 50) * 2));
    expect(readNumbers(file)).toEqual(shown);
    expect(await runCommand(command)).toMatchObject({ status: 0 });
    expect(readNumbers(at('command.mkv'))).toEqual(shown);
  }, 240_000);

  test('goes on being counted after a restart', async () => {
    rmSync(gate, { force: true });
    const { id } = await server.newProject('Again', '25');
    await server.send('POST', `/api/projects/${id}/references`, { root, paths: ['two rates.ts'] });
    expect((await look(id)).facts.picture!.estimate).toMatchObject({ isCounted: false });
    const { data } = server;
    await server.kill('SIGTERM');
    writeFileSync(gate, '');
    server = await RunningServer.start(data, ['--media', at('card')], { IDLE_BEND_FFPROBE: probe });
    await server.until(
      () => look(id),
      ({ facts }) => facts.picture!.estimate!.isCounted,
    );
  }, 240_000);
});
