import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { addSource, appendClip } from '@idle-bend/core/edit';
import { readTimeline } from '@idle-bend/core/exchange';
import { emptyProject } from '@idle-bend/core/model';
import { rate } from '@idle-bend/core/time';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-export-'));
const at = (name: string) => join(folder, name);
const source = {
  id: 's',
  name: 'marble-bell',
  frames: 240,
  nativeRate: rate(48),
  readAs: rate(48),
  moments: [],
  droppedRepeats: null,
};
const project = appendClip(addSource(emptyProject(rate(24)), source), 'c', 's', 0, 95);

const run = (...args: string[]) =>
  spawnSync(process.execPath, ['bin/idle-bend', 'export', ...args], {
    encoding: 'utf8',
    env: { ...process.env, NODE_OPTIONS: '' },
  });

beforeAll(() => writeFileSync(at('parade.json'), JSON.stringify(project)));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('idle-bend export', () => {
  test('hands a document over, each way', () => {
    for (const as of ['otio', 'edl', 'csv'])
      expect(run(at('parade.json'), '--as', as, '-o', at(`parade.${as}`))).toMatchObject({
        status: 0,
        stderr: as === 'csv' ? '' : 'What is heard of the clips themselves is left out.\n',
      });
    expect(readTimeline('parade.otio', readFileSync(at('parade.otio'), 'utf8'), project.reel.rate, []).project).toEqual(
      project,
    );
    expect(readFileSync(at('parade.edl'), 'utf8')).toMatch(
      /001 {2}MARBLEBE V {5}C {8}00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00/,
    );
    expect(readFileSync(at('parade.csv'), 'utf8').split('\r\n')[2]).toBe(
      '1,marble-bell,marble-bell,marble-bell,2,,0,step',
    );
  });

  test.each([
    [['x.json', '--as', 'otio', '-o', 'y'], 1, /x\.json: cannot be read/],
    [[at('parade.json'), '-o', 'y'], 2, /--as is missing/],
    [[at('parade.json'), '--as', 'reel', '-o', 'y'], 2, /--as: "reel" is not one of otio, edl, csv, json, wav, bundle/],
    [[at('parade.json'), '--as', 'otio'], 2, /-o OUT is missing/],
  ])('says what is wrong: %j', (args, status, message) => {
    const result = run(...args);
    expect(result.stderr).toMatch(message);
    expect(result.status).toBe(status);
  });
});
