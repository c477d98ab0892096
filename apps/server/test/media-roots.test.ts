import { copyFileSync, renameSync, rmSync, statSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { MediaFolder, MediaRoot } from '@idle-bend/core/api';
import { HEIGHT, WIDTH } from '../../../packages/media/test/numbered-clip.js';
import { FRAMES, makeMediaCard, onlyRoot, refer } from './media-card.js';
import { RunningServer } from './running-server.js';

let folder: string;
let card: string;
let server: RunningServer;
let root: string;

beforeAll(async () => {
  ({ folder, card } = await makeMediaCard());
  server = await RunningServer.start(undefined, ['--media', card]);
  const only = await onlyRoot(server);
  expect(only).toEqual({ id: expect.stringMatching(/^[0-9a-f]{12}$/), name: 'card', isHere: true });
  root = only.id;
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

const listed = async (path = '') =>
  (await server.get<MediaFolder>(`/api/media/${root}/folder?path=${encodeURIComponent(path)}`)).body;

describe('media roots', () => {
  test('show folders and footage, and nothing that is hidden, linked or something else', async () => {
    expect(await listed()).toEqual({
      folders: ['day two'],
      files: ['bell.mp4', 'run.mp4'].map((name) => ({
        name,
        bytes: statSync(join(card, name)).size,
        modifiedMs: statSync(join(card, name)).mtimeMs,
      })),
    });
    expect((await listed('day two')).files.map(({ name }) => name)).toEqual(['run 2.mkv']);
  });

  test('say what files are by their headers, and have a picture of each', async () => {
    const paths = ['run.mp4', 'day two/run 2.mkv', 'link.mp4'];
    const { body } = await server.send('POST', `/api/media/${root}/facts`, { paths });
    for (const path of paths.slice(0, 2))
      expect(body[path]).toMatchObject({
        codec: 'h264',
        picture: { width: WIDTH, height: HEIGHT, framesPerSecond: 60, frames: FRAMES },
      });
    expect(body['link.mp4']).toEqual({ problem: 'link.mp4: there is no such file.' });
    const picture = await fetch(`${server.url}/api/media/${root}/picture?path=run.mp4`);
    expect(picture.headers.get('content-type')).toBe('image/jpeg');
    expect((await picture.arrayBuffer()).byteLength).toBeGreaterThan(500);
  });

  test.each([
    '../outside.mp4',
    'day two/../../outside.mp4',
    '/etc/passwd',
    'up/outside.mp4',
    'link.mp4',
    '.dot.mp4',
    '.hidden/secret.mp4',
    'run.mp4/x',
    'none.mp4',
    'notes.txt',
    'a\\b.mp4',
  ])('%s is no footage of theirs, and no place of this machine is told', async (path) => {
    const { id } = await server.newProject('Strangers');
    const { status, body } = await refer(server, id, root, path);
    expect(status).toBe(200);
    expect(body.taken).toEqual([]);
    expect(body.problems).toHaveLength(1);
    expect(JSON.stringify(body)).not.toContain(folder);
    expect(await server.footage(id)).toEqual([]);
    for (const what of ['folder', 'picture'])
      expect((await server.get(`/api/media/${root}/${what}?path=${encodeURIComponent(path)}`)).status).toBeGreaterThan(
        399,
      );
  });

  test('a link that is put in a file’s place, again and again, is never followed', async () => {
    const place = join(card, 'swapped.mp4');
    const { id } = await server.newProject('Swapped');
    copyFileSync(join(card, 'run.mp4'), place);
    let swaps = 0;
    let going = true;
    const swapping = (async () => {
      for (; going; swaps++) {
        symlinkSync(join(folder, 'outside.mp4'), `${place}.link`);
        renameSync(`${place}.link`, place);
        await new Promise((resolve) => setImmediate(resolve));
        copyFileSync(join(card, 'run.mp4'), `${place}.copy`);
        renameSync(`${place}.copy`, place);
        await new Promise((resolve) => setTimeout(resolve, 1));
      }
    })();
    const frames = new Set<number | undefined>();
    for (let n = 0; n < 12; n++)
      for (const { facts } of (await refer(server, id, root, 'swapped.mp4')).body.taken)
        frames.add(facts.picture?.frames);
    going = false;
    await swapping;
    expect(swaps).toBeGreaterThan(10);
    // The outside one has 48.
    expect([...frames].every((count) => count === FRAMES)).toBe(true);
    rmSync(place, { force: true });
  });

  test('are not shown beyond this machine unless that was said', async () => {
    const env = { IDLE_BEND_TOKEN: 'a-token-of-some-length', IDLE_BEND_MEDIA: card };
    const headers = { Authorization: `Bearer ${env.IDLE_BEND_TOKEN}` };
    for (const [args, shown] of [
      [[], 0],
      [['--share-media'], 1],
    ] as const) {
      const other = await RunningServer.start(undefined, ['--host', '0.0.0.0', ...args], env);
      expect((await other.get<MediaRoot[]>('/api/media', headers)).body).toHaveLength(shown);
      expect((await other.get(`/api/media/${root}/folder?path=`, headers)).status).toBe(shown ? 200 : 403);
      const search = await other.send('POST', '/api/projects/nobody/references/search', undefined, headers);
      expect(search.status).toBe(shown ? 200 : 403);
      await other.discard();
    }
  });
});
