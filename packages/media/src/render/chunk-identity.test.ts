import { copyFileSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { emptyProject, type Project, type Source } from '@idle-bend/core/model';
import { plainClip } from '@idle-bend/core/reel';
import { rate } from '@idle-bend/core/time';
import { H264, makeNumberedClip } from '../../test/numbered-clip.js';
import { chunkIdentities } from './chunk-identity.js';
import type { ChunkOrder } from './chunk.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-identity-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const source = (id: string): Source => ({
  id,
  name: id,
  frames: 1200,
  nativeRate: rate(24),
  readAs: rate(24),
  moments: [],
  droppedRepeats: null,
});
const [bell, boat] = [source('bell'), source('boat')];
const empty = emptyProject(rate(24));
const project: Project = {
  ...empty,
  sources: [bell, boat],
  reel: { ...empty.reel, items: [plainClip('a', bell, rate(24)), plainClip('b', boat, rate(24))] },
};
const order: ChunkOrder = {
  index: 0,
  stretch: { from: 0, to: 96 },
  first: 0,
  format: 'ffv1',
  depth: 8,
  alpha: false,
  toneMap: false,
  level: 'default',
  ownSize: false,
};

test('a chunk is known by what it shows, how it is written and the files it is made from, and by nothing else', async () => {
  const film = async (name: string, frames: number) =>
    makeNumberedClip({ file: join(folder, name), frames, rate: '24', options: H264 });
  const [one, another] = [await film('one.mp4', 24), await film('another.mp4', 25)];
  const copy = join(folder, 'copy.mp4');
  copyFileSync(one, copy);
  const files = { bell: { file: one, name: 'one' }, boat: { file: another, name: 'another' } };
  const document = JSON.stringify(project);
  const identityOf = chunkIdentities(project, document, 'full');
  const identity = await identityOf(order, files);
  expect(identity).toMatch(/^[0-9a-f]{64}$/);
  // The same content under another name is the same; so is what lies far from the chunk.
  expect(await identityOf(order, { ...files, bell: { file: copy, name: 'copy' } })).toBe(identity);
  expect(await identityOf(order, { ...files, boat: { file: one, name: 'one' } })).toBe(identity);
  const others = [
    identityOf(order, { ...files, bell: { file: another, name: 'one' } }),
    identityOf({ ...order, level: 'best' }, files),
    identityOf({ ...order, stretch: { from: 0, to: 97 } }, files),
    chunkIdentities(project, document, 'draft')(order, files),
    chunkIdentities(project, document.replace('"step"', '"mix"'), 'full')(order, files),
    identityOf({ ...order, stretch: { from: 1200, to: 1296 } }, files),
  ];
  expect(new Set([identity, ...(await Promise.all(others))]).size).toBe(1 + others.length);
});
