import { RENDER_FORMAT_NAMES } from '@idle-bend/core/render';
import { request } from 'node:http';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { addCue } from '@idle-bend/core/edit';
import { parseProject } from '@idle-bend/core/model';
import { RunningServer } from './running-server.js';

let server: RunningServer;
beforeAll(async () => {
  server = await RunningServer.start();
});
afterAll(() => server.discard());

const keep = (id: string, version: number, document: unknown, by = 'a') =>
  server.send('PUT', `/api/projects/${id}/document`, { version, document, by });

describe('projects', () => {
  test('are created, listed, opened and renamed', async () => {
    const { id, document } = await server.newProject('Marble Parade', '23.976');
    expect(parseProject(document).reel.rate).toEqual({ num: 24000, den: 1001 });
    await server.send('PATCH', `/api/projects/${id}`, { name: 'Marble Parade, short' });
    const { body } = await server.get('/api/projects');
    expect(body.find((p: any) => p.id === id)).toMatchObject({
      name: 'Marble Parade, short',
      version: 1,
      coverId: null,
    });
    expect((await server.get(`/api/projects/${id}`)).body.document).toEqual(document);
  });

  test('two windows never silently overwrite each other', async () => {
    const { id, document } = await server.newProject();
    const ours = addCue(document, { id: 'ours', frame: 4, name: '' });
    const theirs = addCue(document, { id: 'theirs', frame: 5, name: '' });
    expect(await keep(id, 1, ours, 'a')).toEqual({ status: 200, body: { version: 2 } });
    const refused = await keep(id, 1, theirs, 'b');
    expect(refused).toMatchObject({
      status: 409,
      body: { version: 2, message: expect.stringMatching(/another window/) },
    });
    expect((await server.get(`/api/projects/${id}`)).body.document.reel.cues).toEqual(ours.reel.cues);
    const both = await Promise.all(
      Array.from({ length: 8 }, (_, i) => keep(id, 2, addCue(ours, { id: `q${i}`, frame: 9, name: '' }))),
    );
    expect(both.map((b) => b.status).sort()).toEqual([200, 409, 409, 409, 409, 409, 409, 409]);
  });

  test.each<[string, unknown, number, RegExp]>([
    ['no document', { version: 1, by: 'a' }, 400, /document must be an object/],
    ['a version that is none', { version: 'x', document: {}, by: 'a' }, 400, /version must/],
    ['another format', { version: 1, document: { format: 'x' }, by: 'a' }, 422, /not an Idle Bend project/],
    ['a field too many', { version: 1, document: {}, by: 'a', admin: true }, 400, /admin should not exist/],
    ['not JSON', '{"version": 1,', 400, /not JSON/],
  ])('%s is refused in a sentence', async (_, body, status, message) => {
    const { id } = await server.newProject();
    const answer = await server.send('PUT', `/api/projects/${id}/document`, body);
    expect(answer.status).toBe(status);
    expect(answer.body.message).toMatch(message);
  });

  test('what does not exist is said', async () => {
    expect(await server.get('/api/projects/none')).toMatchObject({
      status: 404,
      body: { message: 'There is no such project.' },
    });
    expect(await server.get('/api/projects/none/footage')).toMatchObject({ status: 404 });
    expect(await server.get('/api/footage/none/proxy')).toMatchObject({
      status: 404,
      body: { message: 'There is no such footage.' },
    });
    expect((await server.send('POST', '/api/projects', { name: 'x', rate: 'fast' })).body.message).toMatch(
      /not a rate/,
    );
  });
});

describe('only this machine’s own pages', () => {
  /** fetch sets Host itself, so these go out by hand. */
  const raw = (headers: Record<string, string>, method = 'GET') =>
    new Promise<number>((resolve, reject) => {
      const { port } = new URL(server.url);
      request({ host: '127.0.0.1', port, path: '/api/projects', method, headers }, (response) => {
        response.resume();
        resolve(response.statusCode!);
      })
        .once('error', reject)
        .end();
    });

  test('a name pointed at this machine, and pages of other sites, are refused', async () => {
    const { host } = new URL(server.url);
    expect(await raw({ host })).toBe(200);
    expect(await raw({ host: 'marbles.example' })).toBe(403);
    expect(await raw({ host: '127.0.0.1:1' })).toBe(403);
    expect(await raw({ host, origin: 'http://marbles.example' })).toBe(403);
    expect(await raw({ host, origin: 'null' }, 'POST')).toBe(403);
    expect(await raw({ host, origin: `http://${host}` })).toBe(200);
    expect(await raw({ host, 'sec-fetch-site': 'cross-site' }, 'POST')).toBe(403);
  });

  test('uploads are behind the same door', async () => {
    const answer = await fetch(`${server.url}/api/uploads`, {
      method: 'POST',
      headers: { Origin: 'http://marbles.example', 'Tus-Resumable': '1.0.0', 'Upload-Length': '5' },
    });
    expect(answer.status).toBe(403);
  });

  test('it listens on loopback only', async () => {
    const { networkInterfaces } = await import('node:os');
    const others = Object.values(networkInterfaces()).flatMap((list) =>
      (list ?? []).filter((a) => !a.internal && a.family === 'IPv4'),
    );
    for (const { address } of others)
      await expect(fetch(`http://${address}:${new URL(server.url).port}/api/projects`)).rejects.toThrow();
  });
});

describe('killed at any moment', () => {
  test('it has everything it acknowledged', async () => {
    let running = await RunningServer.start();
    const { data } = running;
    const project = await running.newProject();
    let document = project.document;
    let version = 1;
    for (let round = 0; round < 4; round++) {
      const deadline = Date.now() + 150 + round * 90;
      const killer = new Promise<void>((resolve) =>
        setTimeout(() => void running.kill().then(resolve), deadline - Date.now()),
      );
      for (;;) {
        const next = addCue(document, { id: `q${version}`, frame: version, name: '' });
        const answer = await running
          .send('PUT', `/api/projects/${project.id}/document`, { version, document: next, by: 'a' })
          .catch(() => undefined);
        if (answer?.status !== 200) break;
        document = next;
        version = answer.body.version;
      }
      await killer;
      running = await RunningServer.start(data);
      const { body } = await running.get(`/api/projects/${project.id}`);
      // One change may have been kept without its acknowledgement having got out.
      expect(body.version - version).toBeGreaterThanOrEqual(0);
      expect(body.version - version).toBeLessThanOrEqual(1);
      expect(body.document.reel.cues.slice(0, version - 1)).toEqual(document.reel.cues);
      document = body.document;
      version = body.version;
    }
    expect(version).toBeGreaterThan(4);
    await running.discard();
  });
});

describe('shapes of one’s own', () => {
  const shape = { id: 'swing', name: 'bell swing', note: 'for hits', kind: 'bend', ease: [0.1, 0.8, 0.2, 1] };
  test('are kept for all projects, changed, removed, and checked at the door', async () => {
    expect(await server.send('PUT', '/api/shapes/swing', shape)).toEqual({ status: 200, body: shape });
    await server.send('PUT', '/api/shapes/swing', { ...shape, name: 'door' });
    expect((await server.get('/api/shapes')).body).toEqual([{ ...shape, name: 'door' }]);
    expect((await server.send('PUT', '/api/shapes/swing', { ...shape, ease: [2, 0, 0, 1] })).body.message).toMatch(
      /shape\.ease/,
    );
    expect((await server.send('PUT', '/api/shapes/other', shape)).status).toBe(422);
    await server.send('DELETE', '/api/shapes/swing');
    expect((await server.get('/api/shapes')).body).toEqual([]);
  });
});

test('the HTTP interface is described by what its inputs are checked by, on a page of the server’s own files', async () => {
  const { body } = await server.get('/api/docs/json');
  expect(Object.keys(body.paths)).toEqual(expect.arrayContaining(['/api/projects/{id}/renders', '/api/footage/{id}']));
  expect(body.components.schemas.NewRender).toMatchObject({
    required: ['format'],
    properties: { format: { enum: [...RENDER_FORMAT_NAMES] }, depth: { enum: ['source', 8, 10] } },
  });
  expect(body.paths['/api/footage/{id}/frame'].get.parameters.map(({ name }: { name: string }) => name)).toEqual([
    'id',
    'sample',
  ]);
  const page = await (await fetch(`${server.url}/api/docs`)).text();
  const files = [...page.matchAll(/(?:src|href)="([^"]+)"/g)].map(([, path]) => path!);
  expect(files).toHaveLength(3);
  for (const path of files) {
    expect(path).toMatch(/^\/api\/docs\//);
    expect((await fetch(server.url + path)).status).toBe(200);
  }
});
