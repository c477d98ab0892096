import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { H264, makeNumberedClip, readNumbers } from '../../../packages/media/test/numbered-clip.js';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-proxy-size-'));
const at = (name: string) => join(folder, name);

let server: RunningServer;
beforeAll(async () => {
  server = await RunningServer.start();
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

/** The lines of a film's pictures. */
const linesIn = (file: string) =>
  spawnSync('ffprobe', ['-v', 'error', '-show_entries', 'stream=height', '-of', 'csv=p=0', file], {
    encoding: 'utf8',
  }).stdout.trim();

describe('the size of proxies', () => {
  test('is chosen for a project: those that are there are made again with their frames, and so are pictures meanwhile and what comes later', async () => {
    const { id } = await server.newProject();
    const lines = (wanted: number) => server.send('PUT', `/api/projects/${id}/proxy-lines`, { lines: wanted });
    const clip = async (name: string) => {
      const file = await makeNumberedClip({ file: at(name), frames: 60, rate: '30', options: H264, height: 720 });
      return server.upload(id, file);
    };
    const first = await clip('large.mp4');
    expect(await server.prepared(id, first.id)).toMatchObject({ facts: { picture: { proxy: { height: 540 } } } });
    expect(await lines(1000)).toMatchObject({ status: 400 });
    expect(await lines(720)).toMatchObject({ status: 200, body: { lines: 720 } });
    const shown = await fetch(`${server.url}/api/footage/${first.id}/pictures/7`);
    expect(JSON.parse(shown.headers.get('X-Frame-Format')!)).toMatchObject({ height: 720 });
    const second = await clip('later.mp4');
    for (const footage of [first, second]) {
      const { facts, health, motion } = await server.prepared(id, footage.id);
      expect(facts.picture.proxy.height).toBe(720);
      expect(health).not.toBeNull();
      expect(['ready', 'waiting']).toContain(motion);
      const proxy = at(`proxy-${footage.id}.mp4`);
      writeFileSync(
        proxy,
        Buffer.from(await (await fetch(`${server.url}/api/footage/${footage.id}/proxy`)).arrayBuffer()),
      );
      expect(readNumbers(proxy, [], 'crop=iw:ih*32/720:0:0')).toEqual(Array.from({ length: 60 }, (_, n) => n));
      expect(linesIn(proxy)).toBe('720');
    }
    const copy = await server.send('POST', `/api/projects/${id}/duplicate`, { name: 'Copy' });
    expect(await server.send('GET', `/api/projects/${copy.body.id}/proxy-lines`)).toMatchObject({
      body: { lines: 720 },
    });
  });
});
