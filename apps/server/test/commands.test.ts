import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { addCue, addSource, appendClip } from '@idle-bend/core/edit';
import { parseProject } from '@idle-bend/core/model';
import { rate } from '@idle-bend/core/time';
import { H264, makeNumberedClip, readNumbers } from '../../../packages/media/test/numbered-clip.js';
import { runCommand } from './run-command.js';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-commands-'));
const at = (name: string) => join(folder, name);
let server: RunningServer;
let project: string;
beforeAll(async () => {
  await makeNumberedClip({ file: at('bell.mp4'), frames: 48, rate: '24', options: H264 });
  server = await RunningServer.start();
  const { id, version, document } = await server.newProject();
  project = id;
  const { id: footage } = await server.upload(id, at('bell.mp4'));
  await server.prepared(id, footage);
  const source = {
    id: footage,
    name: 'bell',
    frames: 48,
    nativeRate: rate(24),
    readAs: rate(24),
    moments: [],
    droppedRepeats: null,
  };
  const edited = appendClip(addSource(parseProject(document), source), 'c', footage, 10, 29);
  expect(
    (await server.send('PUT', `/api/projects/${id}/document`, { version, document: edited, by: 'a test' })).status,
  ).toBe(200);
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

const documentOf = async (id: string) => parseProject((await server.get(`/api/projects/${id}`)).body.document);

describe('a data folder, read beside its server', () => {
  test('a project there is rendered and handed over by its name or its id', async () => {
    expect(await runCommand(['render', 'Marble Parade', '--data', server.data, '-o', at('reel.mkv')])).toMatchObject({
      status: 0,
    });
    expect(readNumbers(at('reel.mkv'))).toEqual(Array.from({ length: 20 }, (_, k) => 10 + k));
    expect(
      await runCommand(['export', project, '--data', server.data, '--as', 'bundle', '-o', at('parade.zip')]),
    ).toMatchObject({ status: 0, stderr: '' });
  });

  test('a project in the bin is not there', async () => {
    const { id } = await server.newProject('Thrown away');
    await server.send('DELETE', `/api/projects/${id}`);
    for (const name of [id, 'Thrown away'])
      expect(await runCommand(['export', name, '--data', server.data, '--as', 'csv', '-o', at('x.csv')])).toMatchObject(
        {
          status: 1,
          stderr: expect.stringContaining('is not in the data folder, which has "Marble Parade"'),
        },
      );
    await server.send('DELETE', `/api/bin/${id}`);
  });

  test('a name that is not there is refused with those that are, and so is a folder without projects', async () => {
    expect(await runCommand(['export', 'Boat', '--data', server.data, '--as', 'csv', '-o', at('x.csv')])).toMatchObject(
      {
        status: 1,
        stderr: expect.stringContaining('"Boat" is not in the data folder, which has "Marble Parade"'),
      },
    );
    expect(await runCommand(['export', 'Boat', '--data', folder, '--as', 'csv', '-o', at('x.csv')])).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('is not a data folder'),
    });
    expect(existsSync(at('x.csv'))).toBe(false);
  });
});

describe('import through the running server', () => {
  test('a bundle becomes a project; a second time it says so', async () => {
    const first = await runCommand(['import', at('parade.zip'), '--data', server.data]);
    expect(first).toMatchObject({ status: 0 });
    const again = await runCommand(['import', at('parade.zip'), '--data', server.data]);
    expect(again).toMatchObject({
      status: 0,
      stderr: 'This bundle was imported before; this is another copy of its project.\n',
    });
    const ids = [first, again].map(({ stdout }) => stdout.trim());
    expect(new Set([...ids, project]).size).toBe(3);
    for (const id of ids) expect((await documentOf(id)).reel.items).toHaveLength(1);
  });

  test('cues go into a project while another edits it, and nothing of either is lost', async () => {
    const many = Array.from({ length: 20 }, (_, i) => `${i / 24},hit ${i}`);
    writeFileSync(at('hits.csv'), ['time,name', ...many].join('\n'));
    let importing = true;
    const ended = runCommand(['import', at('hits.csv'), '--data', server.data, '--project', project]).finally(
      () => (importing = false),
    );
    const own: string[] = [];
    while (importing) {
      const { version, document } = (await server.get(`/api/projects/${project}`)).body;
      const id = `mine-${own.length}`;
      const edited = addCue(parseProject(document), { id, frame: 1000 + own.length, name: id, beat: null });
      if (
        (await server.send('PUT', `/api/projects/${project}/document`, { version, document: edited, by: 'a test' }))
          .status === 200
      )
        own.push(id);
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    expect(await ended).toMatchObject({ status: 0, stderr: '' });
    const names = (await documentOf(project)).reel.cues.map(({ name }) => name);
    expect(own.length).toBeGreaterThan(0);
    expect(names.toSorted()).toEqual([...own, ...many.map((_, i) => `hit ${i}`)].toSorted());
    expect(await runCommand(['cues', project, '--data', server.data, '-o', at('out.vtt')])).toMatchObject({
      status: 0,
    });
    expect(readFileSync(at('out.vtt'), 'utf8')).toContain('hit 19');
    const again = await runCommand(['import', at('hits.csv'), '--data', server.data, '--project', project]);
    expect(again.stderr).toBe('20 of 20 cues were left out, since a cue lies at their time already.\n');
  });

  test('a timeline takes the place of a reel, and finds the footage that is there', async () => {
    expect(
      await runCommand(['export', project, '--data', server.data, '--as', 'otio', '-o', at('reel.otio')]),
    ).toMatchObject({
      status: 0,
    });
    const target = await server.newProject('Taken');
    await server.upload(target.id, at('bell.mp4'));
    expect(await runCommand(['import', at('reel.otio'), '--data', server.data, '--project', 'Taken'])).toMatchObject({
      status: 0,
    });
    expect((await documentOf(target.id)).reel.items).toHaveLength(1);
  });

  test('a damaged bundle, and a project that is not named, are refused in words', async () => {
    writeFileSync(at('broken.zip'), readFileSync(at('parade.zip')).subarray(0, 2000));
    expect(await runCommand(['import', at('broken.zip'), '--data', server.data])).toMatchObject({
      status: 1,
      stderr: expect.stringMatching(/broken\.zip: /),
    });
    expect(await runCommand(['import', at('hits.csv'), '--data', server.data])).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('--project is missing'),
    });
  });

  test('without a server nothing is written: a killed one that left its address is not taken for a running one', async () => {
    const other = await RunningServer.start();
    try {
      await other.kill();
      expect(existsSync(join(other.data, 'server.json'))).toBe(true);
      expect(await runCommand(['import', at('parade.zip'), '--data', other.data])).toMatchObject({
        status: 1,
        stderr: expect.stringContaining('No server is running on'),
      });
    } finally {
      await other.discard();
    }
  });
});

test('import of a bundle to files, twice: what is there is said, and another file of that name is never overwritten', async () => {
  const into = mkdtempSync(join(folder, 'unpacked-'));
  const order = ['import', at('parade.zip'), '-o', join(into, 'parade.json'), '--media', into];
  expect(await runCommand(order)).toMatchObject({ status: 0, stderr: '' });
  expect(await runCommand(order)).toMatchObject({
    status: 0,
    stderr: expect.stringMatching(/bell\.mp4 was imported before\n.*parade\.json was imported before/s),
  });
  writeFileSync(join(into, 'parade.json'), '{"mine":1}');
  expect(await runCommand(order)).toMatchObject({
    status: 1,
    stderr: expect.stringContaining('differs from what is in the bundle'),
  });
  expect(readFileSync(join(into, 'parade.json'), 'utf8')).toBe('{"mine":1}');
  writeFileSync(join(into, 'bell.mp4'), 'another');
  expect(await runCommand(order)).toMatchObject({
    status: 1,
    stderr: expect.stringContaining('is another file than the one in the bundle'),
  });
  expect(readFileSync(join(into, 'bell.mp4'), 'utf8')).toBe('another');
});
