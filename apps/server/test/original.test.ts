/** The original for browsers that decode it themselves: its bytes by ranges, and when each frame is shown, as ffprobe lists it. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, unlinkSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { FrameTimes } from '@idle-bend/core/api';
import { H264, makeNumberedClip } from '../../../packages/media/test/numbered-clip.js';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-original-'));
const card = join(folder, 'card');
let server: RunningServer;
let project: string;
let root: string;

beforeAll(async () => {
  mkdirSync(card);
  server = await RunningServer.start(undefined, ['--media', card]);
  project = (await server.newProject('Marble Parade', '60')).id;
  root = (await server.get<{ id: string }[]>('/api/media')).body[0]!.id;
});

afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

const film = (name: string, options: readonly string[], frames = 90) =>
  makeNumberedClip({ file: join(card, name), frames, rate: '60', options: [...options] });

async function taken(name: string): Promise<string> {
  const { body } = await server.send('POST', `/api/projects/${project}/references`, { root, paths: [name] });
  return body.taken[0].id;
}

/** Presentation times and key flags of the packets of a file, in order of presentation, by ffprobe. */
function listed(file: string): { readonly pts: number; readonly isKey: boolean }[] {
  const args = ['-v', 'error', '-select_streams', 'v', '-show_entries', 'packet=pts,flags', '-of', 'csv=p=0', file];
  return execFileSync('ffprobe', args)
    .toString()
    .trim()
    .split('\n')
    .map((row) => row.split(','))
    .map(([pts, flags]) => ({ pts: Number(pts), isKey: flags!.startsWith('K') }))
    .sort((a, b) => a.pts - b.pts);
}

describe('the original', () => {
  test.each([
    ['reordered.mp4', [...H264, '-g', '24', '-bf', '3']],
    ['late.mov', [...H264, '-g', '24', '-bf', '2', '-output_ts_offset', '1.3']],
    ['blocks.mkv', [...H264, '-g', '24', '-bf', '2']],
    ['blocks.webm', ['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-cpu-used', '8', '-g', '24']],
  ])('%s: every frame has the time ffprobe lists', async (name, options) => {
    const file = await film(name, options);
    const { body } = await server.get<FrameTimes>(`/api/footage/${await taken(name)}/times`);
    const packets = listed(file);
    expect(packets).toHaveLength(90);
    expect(body.times).toEqual(packets.map(({ pts }) => pts));
    expect(body.keys).toEqual(packets.flatMap(({ pts, isKey }) => (isKey ? [pts] : [])));
  });

  test('a frame that is held has the time of the one before it', async () => {
    const gaps = ['-vf', "select='mod(n,7)-3'", '-fps_mode', 'vfr', ...H264];
    const file = await film('gaps.mp4', gaps);
    const { times } = (await server.get<FrameTimes>(`/api/footage/${await taken('gaps.mp4')}/times`)).body;
    const shown = listed(file).map(({ pts }) => pts);
    expect(times).toEqual(Array.from({ length: 90 }, (_, n) => shown[n - Math.floor((n + 4) / 7)]));
  });

  test.each([
    ['10 bit.mp4', ['-c:v', 'libx264', '-preset', 'veryfast', '-pix_fmt', 'yuv420p10le']],
    ['prores.mov', ['-c:v', 'prores_ks', '-pix_fmt', 'yuv422p10le']],
    ['stream.ts', [...H264]],
  ])(
    '%s: what is shown otherwise than it is coded, or has no such times, is not decoded elsewhere',
    async (name, options) => {
      await film(name, options, 24);
      const { status, body } = await server.get(`/api/footage/${await taken(name)}/times`);
      expect({ status, body }).toMatchObject({ status: 404, body: { message: expect.stringContaining(name) } });
    },
  );

  test('is read by ranges, as bytes and nothing a browser would show; once it is gone, not at all', async () => {
    const file = await film('ranges.mp4', H264);
    const content = readFileSync(file);
    const url = `${server.url}/api/footage/${await taken('ranges.mp4')}/original`;
    const part = await fetch(url, { headers: { Range: 'bytes=1000-2999' } });
    expect(part.status).toBe(206);
    expect(part.headers.get('content-range')).toBe(`bytes 1000-2999/${content.length}`);
    expect(Buffer.from(await part.arrayBuffer())).toEqual(content.subarray(1000, 3000));
    expect(part.headers.get('content-type')).toBe('application/octet-stream');
    expect(part.headers.get('content-disposition')).toBe('attachment');
    expect(part.headers.get('x-content-type-options')).toBe('nosniff');
    expect((await fetch(url, { headers: { Origin: 'http://example.com' } })).status).toBe(403);
    unlinkSync(file);
    const gone = await fetch(url);
    expect(gone.status).toBeGreaterThanOrEqual(400);
    expect(((await gone.json()) as { message: string }).message).toBe(
      'ranges.mp4: there is no such file where it was.',
    );
  });
});
