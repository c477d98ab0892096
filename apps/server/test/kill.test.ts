import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { addCue } from '@idle-bend/core/edit';
import type { Project, Source } from '@idle-bend/core/model';
import { plainClip } from '@idle-bend/core/reel';
import { rate } from '@idle-bend/core/time';
import { straightMap } from '@idle-bend/core/time-map';
import { H264, makeNumberedClip, readNumbers } from '../../../packages/media/test/numbered-clip.js';
import { RunningServer } from './running-server.js';

/** How often the server is killed; `npm run soak` asks for a hundred. */
const ROUNDS = Number(process.env['IDLE_BEND_KILLS'] ?? 4);
const FRAMES = 60;

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-kill-'));
const at = (name: string) => join(folder, name);
let clip: string;
beforeAll(async () => {
  clip = await makeNumberedClip({ file: at('clip.mp4'), frames: FRAMES, rate: '30', options: H264 });
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** What the server has said it has. */
interface Acknowledged {
  version: number;
  document: Project;
  readonly footage: Set<string>;
  readonly renders: Set<string>;
}

/** Edits, imports and renders, all at once and for as long as the server answers. */
async function work(server: RunningServer, project: string, said: Acknowledged): Promise<void> {
  const going = async (step: () => Promise<boolean>) => {
    while (await step().catch(() => false));
  };
  const edit = async () => {
    const { version } = said;
    const next = addCue(said.document, { id: `q${version}`, frame: version, name: '', beat: null });
    const answer = await server.send('PUT', `/api/projects/${project}/document`, { version, document: next, by: 'a' });
    if (answer.status !== 200) return false;
    Object.assign(said, { version: answer.body.version, document: next });
    return true;
  };
  const bring = async () => {
    const { status, id } = await server.upload(project, clip, 'clip.mp4', 3);
    if (status === 200) said.footage.add(id);
    return status === 200 && said.footage.size % 3 !== 0;
  };
  const render = async () => {
    const { status, body } = await server.send('POST', `/api/projects/${project}/renders`, { format: 'ffv1' });
    if (status === 201) said.renders.add(body[0].id);
    return false;
  };
  await Promise.all([going(edit), going(bring), going(render)]);
}

/** Nothing acknowledged is lost, and no file is there that nobody owns. */
async function check(server: RunningServer, project: string, said: Acknowledged): Promise<void> {
  expect(readdirSync(server.data).filter((name) => name.includes('damaged'))).toEqual([]);
  const { version, document } = (await server.get<{ version: number; document: Project }>(`/api/projects/${project}`))
    .body;
  // One change may have been kept without its acknowledgement having got out.
  expect(version - said.version).toBeGreaterThanOrEqual(0);
  expect(version - said.version).toBeLessThanOrEqual(1);
  expect(document.reel.cues.slice(0, said.document.reel.cues.length)).toEqual(said.document.reel.cues);
  Object.assign(said, { version, document });
  const footage = await server.footage(project);
  const ids = footage.map((f) => f.id as string);
  for (const id of said.footage) expect(ids).toContain(id);
  expect(footage.filter((f) => f.missing)).toEqual([]);
  expect(readdirSync(join(server.data, 'media')).sort()).toEqual([...ids].sort());
  const renders = (await server.get<any[]>(`/api/projects/${project}/renders`)).body.map((r) => r.id as string);
  for (const id of said.renders) expect(renders).toContain(id);
  for (const name of readdirSync(join(server.data, 'renders'))) expect(renders).toContain(name);
  // What was half sent can be gone on with: it stands beside what says how far it is.
  const uploads = readdirSync(join(server.data, 'uploads'));
  for (const name of uploads.filter((n) => !n.endsWith('.json'))) expect(uploads).toContain(`${name}.json`);
}

test(`killed ${ROUNDS} times at any moment of import, edit and render: the database is whole, nothing acknowledged is lost, no file is left over`, async () => {
  let server = await RunningServer.start();
  const { data } = server;
  const { id, document } = await server.newProject();
  const { id: footage } = await server.upload(id, clip);
  const native = rate(30);
  const source: Source = {
    id: footage,
    name: 'clip',
    frames: FRAMES,
    nativeRate: native,
    readAs: native,
    moments: [],
    droppedRepeats: null,
  };
  const item = { ...plainClip('c', source, rate(24)), map: straightMap(400, 0, FRAMES - 1) };
  const filled: Project = {
    ...document,
    sources: [source],
    reel: { ...document.reel, width: 320, height: 192, items: [item] },
  };
  await server.send('PUT', `/api/projects/${id}/document`, { version: 1, document: filled, by: 'a' });
  const said: Acknowledged = { version: 2, document: filled, footage: new Set([footage]), renders: new Set() };
  let seed = 20261126;
  for (let round = 0; round < ROUNDS; round++) {
    // The same moments in every run: a linear congruence (Numerical Recipes, 7.1).
    seed = (seed * 1664525 + 1013904223) % 2 ** 32;
    const moment = 60 + (seed / 2 ** 32) * 1800;
    const working = work(server, id, said);
    await new Promise((resolve) => setTimeout(resolve, moment));
    await server.kill();
    await working;
    server = await RunningServer.start(data);
    await check(server, id, said);
    // Only so many are kept for the end, so that a hundred rounds do not render for an hour.
    const all = (await server.get<any[]>(`/api/projects/${id}/renders`)).body;
    for (const old of all.slice(3)) {
      await server.send('DELETE', `/api/renders/${old.id}`);
      said.renders.delete(old.id);
    }
    for (const old of [...said.footage].slice(1, -6)) {
      if ((await server.send('DELETE', `/api/footage/${old}`)).status === 200) said.footage.delete(old);
    }
  }
  const unfinished = async () =>
    (await server.get<any[]>(`/api/projects/${id}/renders`)).body.filter((r) => r.status !== 'done');
  expect(
    await server.until(unfinished, (left) => left.length === 0 || left.some((r) => r.status === 'failed')),
  ).toEqual([]);
  const [last] = (await server.get<any[]>(`/api/projects/${id}/renders`)).body;
  writeFileSync(
    at('last.mkv'),
    Buffer.from(await (await fetch(`${server.url}/api/renders/${last.id}/file`)).arrayBuffer()),
  );
  expect(readNumbers(at('last.mkv'))).toEqual(
    Array.from({ length: 400 }, (_, k) => Math.floor((k * (FRAMES - 1)) / 400 + 1e-6)),
  );
  await server.discard();
}, 3_600_000);
