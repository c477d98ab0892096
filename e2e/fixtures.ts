import { spawnSync } from 'node:child_process';
import { cpSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { crc32 } from 'node:zlib';
import { test as base, expect, type Page } from '@playwright/test';
import { OWN_SOUND, type Clip, type FlowLevel, type Project } from '@idle-bend/core/model';
import { draftSize } from '@idle-bend/core/render';
import { sourceOf } from '@idle-bend/core/reel';
import { clipFrameCount, usableFrames } from '@idle-bend/core/sampling';
import { parseTimecode } from '@idle-bend/core/time';
import { positionAt, reachSlope } from '@idle-bend/core/time-map';

export type { Clip };
import { PREPARED } from './prepared-demo.js';
import { H264, makeNumberedClip } from '../packages/media/test/numbered-clip.js';
import { RunningServer } from '../apps/server/test/running-server.js';

export { expect };

/** Frames of the numbered clip, shot at 120 fps. */
export const FRAMES = 240;

interface Shared {
  /** A server with the demo project, for all tests of a worker. */
  readonly server: RunningServer;
  /** A folder that goes away. */
  readonly folder: string;
  /** A clip whose every picture carries its number. */
  readonly clip: string;
}

export const test = base.extend<{ readonly strict: void }, Shared>({
  server: [
    async ({}, use) => {
      const data = mkdtempSync(join(tmpdir(), 'idle-bend-server-'));
      if (process.env[PREPARED]) cpSync(process.env[PREPARED], data, { recursive: true });
      const server = await RunningServer.start(data, ['--demo']);
      await use(server);
      await server.discard();
    },
    { scope: 'worker', timeout: 240_000 },
  ],
  folder: [
    async ({}, use) => {
      const folder = mkdtempSync(join(tmpdir(), 'idle-bend-e2e-'));
      await use(folder);
      rmSync(folder, { recursive: true, force: true });
    },
    { scope: 'worker' },
  ],
  clip: [
    async ({ folder }, use) => {
      await use(
        await makeNumberedClip({
          file: join(folder, 'rail-120.mp4'),
          frames: FRAMES,
          rate: '120',
          options: [...H264, '-g', '40', '-bf', '2'],
        }),
      );
    },
    { scope: 'worker' },
  ],
  /** Every test fails on a request that leaves the machine, and on an error nobody caught. */
  strict: [
    async ({ context, server }, use) => {
      const outside: string[] = [];
      const errors: string[] = [];
      context.on('request', (request) => {
        const { protocol, host } = new URL(request.url());
        if (
          !['blob:', 'data:'].includes(protocol) &&
          host !== new URL(server.url).host &&
          !host.startsWith('127.0.0.1:')
        )
          outside.push(request.url());
      });
      context.on('weberror', (error) => errors.push(error.error().message));
      await use();
      expect(outside).toEqual([]);
      expect(errors).toEqual([]);
    },
    { auto: true },
  ],
});

/** A clip of the numbered footage at 100 %, all of it: 48 frames. */
export const numberedClip = (footage: string, id: string, name = id): Clip =>
  evenClip(footage, id, name, { t: 48, s: FRAMES });

/** A clip of one speed from a source frame on, Step. */
export function evenClip(footage: string, id: string, name: string, end: { t: number; s: number }, from = 0): Clip {
  const hard = { widthFrames: 0, ease: 'soft' as const };
  return {
    kind: 'clip',
    id,
    name,
    sourceId: footage,
    method: 'step',
    tuning: null,
    reachMethods: [],
    mends: [],
    end: 'hold',
    ties: [],
    locks: [],
    limits: null,
    versions: [],
    pin: null,
    fills: false,
    framing: null,
    blur: null,
    steady: null,
    sound: OWN_SOUND,
    map: { vertices: [{ t: 0, s: from }, end], bends: [hard, hard] },
  };
}

interface OneFilm {
  readonly file: string;
  /** What its footage is called. */
  readonly name: string;
  readonly width?: number;
  readonly height?: number;
  /** The reel's clips. */
  readonly clips: (footage: string) => readonly Clip[];
  /** Other changes. */
  readonly change?: (project: Project) => Project;
  /** What of the footage is waited for. */
  readonly until?: 'ready' | 'motion';
}

/** A new project whose reel is clips of one film, its proxy ready. */
export async function projectOfFilm(
  server: RunningServer,
  { file, name, width = 320, height = 192, clips, change = (project) => project, until = 'ready' }: OneFilm,
): Promise<{ id: string; footage: string }> {
  const { id, version, document } = await server.newProject();
  const { id: footage } = await server.upload(id, file);
  const row = async () => (await server.footage(id)).find((f) => f.id === footage);
  const { frames, rate } = (await row()).facts.picture;
  const project: Project = {
    ...document,
    sources: [{ id: footage, name, frames, nativeRate: rate, readAs: rate, moments: [], droppedRepeats: null }],
    reel: { ...document.reel, width, height, items: clips(footage) },
  };
  // Before it is looked at: what a reel uses is looked at sooner.
  const asked = { version, document: change(project), by: 'setup' };
  const answer = await server.send('PUT', `/api/projects/${id}/document`, asked);
  expect(answer.status, JSON.stringify(answer.body)).toBe(200);
  if (until === 'motion') await server.send('POST', `/api/footage/${footage}/motion`);
  await server.until(row, (f) => f && f.status !== 'preparing' && (until === 'ready' || f.motion === 'ready'));
  return { id, footage };
}

/** A new project whose reel is clips of the numbered footage, one for each name, its proxy ready. */
export const projectOfClip = (server: RunningServer, file: string, names: readonly string[] = ['c']) =>
  projectOfFilm(server, {
    file,
    name: 'rail',
    clips: (footage) => names.map((name) => numberedClip(footage, name, names.length === 1 ? 'rail' : name)),
  });

/** Renders what is kept as MKV, the way a person does, and saves it; the bench is left. */
export async function renderFile(page: Page, file: string): Promise<string> {
  await page.getByRole('button', { name: 'Render…' }).click();
  await page.getByRole('radio', { name: 'MKV · FFV1' }).click();
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  const offered = page
    .getByRole('listitem', { name: 'Marble Parade.mkv' })
    .first()
    .getByRole('link', { name: 'Download' });
  await expect(offered).toBeVisible({ timeout: 90_000 });
  const [download] = await Promise.all([page.waitForEvent('download'), offered.click()]);
  await download.saveAs(file);
  return file;
}

/** The document as the server has it. */
export async function kept(server: RunningServer, id: string): Promise<Project> {
  return (await server.get(`/api/projects/${id}`)).body.document;
}

export const clipsOf = (project: Project) => project.reel.items.filter((item): item is Clip => item.kind === 'clip');

/** The source frame each frame of the reel shows under Step. */
export const expectedNumbers = (project: Project) =>
  clipsOf(project).flatMap((clip) => {
    const frames = usableFrames(sourceOf(project, clip));
    return Array.from({ length: clipFrameCount(clip.map, frames) }, (_, k) =>
      Math.max(0, Math.min(frames - 1, Math.floor(positionAt(clip.map, k) + 1e-6))),
    );
  });

/** Speeds of a clip's reaches, percent, for footage that shows so many source frames a frame at 100 %. */
export const speedsOf = ({ map }: Clip, slope = 5) =>
  map.vertices.slice(1).map((_, i) => Math.round((reachSlope(map, i) / slope) * 100));

export const clipOf = (project: Project) => project.reel.items.find((item) => item.kind === 'clip')!;

/** Opens a bench and waits for its first picture. */
export async function openBench(page: Page, server: RunningServer, id: string): Promise<void> {
  await page.goto(`${server.url}/projects/${id}/bench`);
  await expect(picture(page)).toHaveAttribute('data-fingerprint', /./);
}

/** Back from another place of the project, by its link. Keys pressed before its first picture would find no bench. */
export async function backToBench(page: Page): Promise<void> {
  await page.getByRole('link', { name: 'Bench' }).click();
  await expect(picture(page)).toHaveAttribute('data-fingerprint', /./);
}

export const picture = (page: Page) => page.getByTestId('picture');

/** What the picture shows at a timeline frame, once it is that frame's. */
export async function shownAt(page: Page, k: number): Promise<{ position: number; fingerprint: string }> {
  const shown = await page.waitForFunction((wanted) => {
    const { frame, position, fingerprint } =
      document.querySelector<HTMLElement>('[data-testid=picture]')?.dataset ?? {};
    return frame === String(wanted) && fingerprint ? { position: Number(position), fingerprint } : undefined;
  }, k);
  return (await shown.jsonValue())!;
}

/** The timeline frame the playhead is at, as the readout says. */
export async function playhead(page: Page, rate = 24): Promise<number> {
  return parseTimecode((await page.locator('dt:text-is("Reel") + dd').textContent())!, { num: rate, den: 1 });
}

/** All changes have been acknowledged by the server. */
export async function allKept(page: Page): Promise<void> {
  // What a key asked for may be on its way still.
  await expect(page.locator('body[aria-busy]')).toHaveCount(0);
  await expect(page.getByText('Saved')).toBeVisible();
}

/** Chooses from a list that opens, by the words of the option; the first of several. */
export async function choose(page: Page, label: string, option: string | RegExp): Promise<void> {
  await page.getByRole('combobox', { name: label, exact: true }).click();
  await page.getByRole('option', { name: option, exact: true }).first().click();
}

/** Presses at the middle of something, moves by so many pixels, and lets go. */
export async function drag(
  page: Page,
  target: ReturnType<Page['locator']>,
  dx: number,
  dy: number,
  key?: 'Shift' | 'Alt' | 'Control',
): Promise<void> {
  const box = (await target.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  if (key) await page.keyboard.down(key);
  await page.mouse.move(box.x + box.width / 2 + dx / 2, box.y + box.height / 2 + dy / 2, { steps: 4 });
  await page.mouse.move(box.x + box.width / 2 + dx, box.y + box.height / 2 + dy, { steps: 4 });
  await page.mouse.up();
  if (key) await page.keyboard.up(key);
}

/** The checksums of all frames of a draft of what is kept, Flow at a level, rendered and read by an ffmpeg of the test's own. */
export async function draftChecksums(
  server: RunningServer,
  id: string,
  folder: string,
  level: FlowLevel = 'default',
): Promise<string[]> {
  const request = { format: 'ffv1', quality: 'draft', level };
  const asked = await server.send('POST', `/api/projects/${id}/renders`, request);
  expect(asked.status).toBe(201);
  const [{ id: render }] = asked.body;
  const find = async () =>
    (await server.get(`/api/projects/${id}/renders`)).body.find((r: { id: string }) => r.id === render);
  const done = await server.until(find, ({ status }) => ['done', 'failed'].includes(status));
  expect(done).toMatchObject({ status: 'done', problem: null });
  const file = join(folder, `draft-${render}.mkv`);
  writeFileSync(file, Buffer.from(await (await fetch(`${server.url}/api/renders/${render}/file`)).arrayBuffer()));
  const { width, height } = draftSize((await kept(server, id)).reel);
  const [data, bytes] = [planes(file), width * height + 2 * ((width + 1) >> 1) * ((height + 1) >> 1)];
  expect(data.length).toBe(bytes * done.frames);
  return Array.from({ length: done.frames }, (_, k) =>
    crc32(data.subarray(k * bytes, (k + 1) * bytes))
      .toString(16)
      .padStart(8, '0'),
  );
}

/** The decoded planes of a file, by an ffmpeg of the test's own. */
export function planes(file: string): Buffer {
  const { stdout, status, stderr } = spawnSync(
    'ffmpeg',
    ['-v', 'error', '-i', file, '-fps_mode', 'passthrough', '-pix_fmt', 'yuv420p', '-f', 'rawvideo', 'pipe:1'],
    { maxBuffer: 2 ** 31 - 1 },
  );
  if (status !== 0) throw new Error(stderr.toString());
  return stdout;
}
