import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { marbleBell } from './filled-project.js';
import { RunningServer } from './running-server.js';

/** What a server is asked: how it is addressed, what its answers tell, and connections that stay open or are broken off. */
const folder = mkdtempSync(join(tmpdir(), 'idle-bend-asking-'));

let server: RunningServer;
beforeAll(async () => {
  server = await RunningServer.start();
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

test('with a token its user is never locked out by streams that stay open and downloads that are broken off', async () => {
  const TOKEN = 'marbles-roll-downhill-42';
  const knows = { Authorization: `Bearer ${TOKEN}` };
  const guarded = await RunningServer.start(undefined, [], { IDLE_BEND_TOKEN: TOKEN });
  const { id } = (await guarded.send('POST', '/api/projects', { name: 'Marble Parade' }, knows)).body;
  const streams: AbortController[] = [];
  for (let i = 0; i < 40; i++) {
    const stop = new AbortController();
    streams.push(stop);
    expect(
      (await fetch(`${guarded.url}/api/projects/${id}/events`, { headers: knows, signal: stop.signal })).status,
    ).toBe(200);
    if (i % 2) stop.abort();
  }
  expect((await guarded.get(`/api/projects/${id}`, knows)).status).toBe(200);
  // A page that asks without a token guesses nothing; one that tries tokens does, and then even the right one waits.
  for (let i = 0; i < 30; i++) expect((await guarded.get('/api/projects')).status).toBe(401);
  for (let i = 0; i < 25; i++) await guarded.get('/api/projects', { Authorization: `Bearer wrong-${i}` });
  expect((await guarded.get('/api/projects', knows)).status).toBe(429);
  streams.forEach((stop) => stop.abort());
  await guarded.discard();
});

describe('addresses and names', () => {
  test.each(['/api/projects/a%00b', '/api/footage/%00/frame', '/api/renders/x%00/file', '/%00'])(
    '%s is refused in words',
    async (path) => {
      const { status, body } = await server.get(path);
      expect([status, typeof body.message]).toEqual([400, 'string']);
    },
  );

  test('no error tells a path or a statement of the database', async () => {
    const { id } = await server.newProject();
    const { id: footage } = await server.upload(id, await marbleBell(join(folder, 'marble-bell.mp4')));
    await server.prepared(id, footage);
    rmSync(join(server.data, 'media', footage, 'strip.jpg'));
    const answers = [
      await server.get(`/api/footage/${footage}/strip`),
      await server.get(`/api/footage/${'x'.repeat(5000)}/strip`),
      await server.get("/api/projects/'%3B--"),
      await server.get('/api/projects/%E0%A4%A'),
      await server.send('POST', `/api/projects/${id}/backups/99999999999999999999/restore`),
      await server.send('PATCH', `/api/footage/${footage}`, { name: { toString: 'x' } }),
    ];
    for (const { status, body } of answers) {
      expect(status).toBeGreaterThanOrEqual(400);
      expect(JSON.stringify(body)).not.toMatch(/SELECT|SQLITE|UPDATE `|\/tmp\/|ENOENT|at .*\.js/);
    }
    expect(answers[0]!.status).toBe(404);
  });

  test.each(['   ', '\u0000\u0007', '\n'])('a blank name (%j) is refused', async (name) => {
    expect((await server.send('POST', '/api/projects', { name })).status).toBe(400);
    const { id } = await server.newProject();
    expect((await server.send('PATCH', `/api/projects/${id}`, { name })).status).toBe(400);
  });
});

test('a client that is busy between two requests finds its connection open', async () => {
  const { port } = new URL(server.url);
  const socket = connect(Number(port), '127.0.0.1');
  const ask = async () => {
    socket.write(`GET /api/state HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\n\r\n`);
    return ((await once(socket, 'data')) as [Buffer])[0].toString().split('\r\n')[0];
  };
  expect(await ask()).toBe('HTTP/1.1 200 OK');
  // Longer than Node keeps one by default.
  await new Promise((resolve) => setTimeout(resolve, 8000));
  expect(socket.readyState).toBe('open');
  expect(await ask()).toBe('HTTP/1.1 200 OK');
  socket.destroy();
});
