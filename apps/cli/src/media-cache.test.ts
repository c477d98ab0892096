import { createHash, randomBytes } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals';
import { cacheBeside, fingerprintOf, type MediaTicket } from '@idle-bend/media';
import { ChunkLeft } from './chunk-left.js';
import { MediaCache } from './media-cache.js';

const RANGE = 1000;
const folder = mkdtempSync(join(tmpdir(), 'idle-bend-cache-'));
const cacheFolder = join(folder, 'cache');
const contents = new Map<string, Buffer>();
/** What was asked for, and how many answers still break off in the middle. */
let asked: string[] = [];
let breakOff = 0;
const server = createServer((request, response) => {
  const content = contents.get(request.url!.slice(1))!;
  const [, from, to] = /^bytes=(\d+)-(\d+)$/.exec(request.headers.range!)!;
  asked.push(`${request.url} ${from}-${to}`);
  const part = content.subarray(Number(from), Number(to) + 1);
  response.writeHead(206, { 'Content-Length': part.length });
  if (breakOff-- > 0) response.write(part.subarray(0, 10), () => response.destroy());
  else response.end(part);
});
const signal = new AbortController().signal;
const cacheOf = (maxBytes: number) =>
  new MediaCache(
    cacheFolder,
    maxBytes,
    (id, _, { from, to }) =>
      fetch(`http://127.0.0.1:${(server.address() as { port: number }).port}/${id}`, {
        headers: { Range: `bytes=${from}-${to - 1}` },
      }),
    RANGE,
  );
const tickets: Record<string, MediaTicket> = {};
const only = (...ids: string[]) => Object.fromEntries(ids.map((id) => [id, tickets[id]!]));
const held = () => readdirSync(cacheFolder).reduce((sum, name) => sum + statSync(join(cacheFolder, name)).size, 0);

beforeAll(async () => {
  for (const [id, bytes] of Object.entries({ bell: 2500, run: 3000, boat: 1000 })) {
    contents.set(id, randomBytes(bytes));
    const file = join(folder, id);
    writeFileSync(file, contents.get(id)!);
    tickets[id] = { name: id, fileName: `${id}.mp4`, bytes, fingerprint: await fingerprintOf(file) };
  }
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
});
beforeEach(() => {
  rmSync(cacheFolder, { recursive: true, force: true });
  asked = [];
  breakOff = 0;
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true, force: true });
});

test('a file comes by ranges, once, and is just the one that was asked for', async () => {
  const cache = cacheOf(10_000);
  const file = (await cache.files(only('bell'), signal)).get('bell')!;
  expect(readFileSync(file)).toEqual(contents.get('bell'));
  expect(asked).toEqual(['/bell 0-999', '/bell 1000-1999', '/bell 2000-2499']);
  await cache.files(only('bell'), signal);
  expect(asked).toHaveLength(3);
});

test('ranges that break off on their way are asked for again', async () => {
  breakOff = 2;
  const file = (await cacheOf(10_000).files(only('bell'), signal)).get('bell')!;
  expect(createHash('sha256').update(readFileSync(file)).digest('hex')).toBe(
    createHash('sha256').update(contents.get('bell')!).digest('hex'),
  );
  expect(asked).toHaveLength(5);
});

test('what was not used for longest makes room for what is wanted', async () => {
  const cache = cacheOf(6000);
  const bell = (await cache.files(only('bell'), signal)).get('bell')!;
  const run = (await cache.files(only('run'), signal)).get('run')!;
  const changed = statSync(bell).mtimeMs;
  utimesSync(run, new Date(1000), statSync(run).mtime);
  utimesSync(bell, new Date(2000), statSync(bell).mtime);
  writeFileSync(cacheBeside(run), '{}');
  const boat = (await cache.files(only('boat'), signal)).get('boat')!;
  expect(readdirSync(cacheFolder).sort()).toEqual(
    [bell, boat].map((file) => file.slice(cacheFolder.length + 1)).sort(),
  );
  // Used again, it is the newest, and as a file what it was.
  await cache.files(only('bell'), signal);
  expect(statSync(bell).mtimeMs).toBe(changed);
  expect(statSync(bell).atimeMs).toBeGreaterThan(statSync(boat).atimeMs - 1);
  expect(held()).toBeLessThanOrEqual(6000);
});

test('files of one chunk do not push each other out, and a chunk whose files do not fit is left to others', async () => {
  const cache = cacheOf(5500);
  const files = await cache.files(only('bell', 'run'), signal);
  expect([...files.values()].map((file) => statSync(file).size)).toEqual([2500, 3000]);
  await expect(cache.files(only('bell', 'run', 'boat'), signal)).rejects.toThrow(ChunkLeft);
  expect(held()).toBe(5500);
});

test('a file that is another by now is refused by its name, and not kept', async () => {
  const ticket = { ...tickets['boat']!, fingerprint: '0'.repeat(64) };
  await expect(cacheOf(5500).files({ boat: ticket }, signal)).rejects.toThrow(/boat is not the file any more/);
  expect(readdirSync(cacheFolder)).toEqual([]);
});
