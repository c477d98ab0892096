import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { makeScratchFolder } from './scratch.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-test-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A folder as the process `pid` makes it, with something in it. */
const madeBy = (pid: number, prefix: string) => {
  const path = makeScratchFolder(join(folder, 'name-'))
    .replace('name-', prefix)
    .replace(`-${process.pid}-`, `-${pid}-`);
  mkdirSync(path, { recursive: true });
  writeFileSync(join(path, 'half made'), 'picture');
  return path;
};
const ended = spawnSync(process.execPath, ['-e', '']).pid;

test('what a killed process left goes when the next folder of its kind is made, with what lies in it', () => {
  const [left, another] = [madeBy(ended, 'render-'), madeBy(ended, 'other-')];
  const made = makeScratchFolder(join(folder, 'render-'));
  expect(existsSync(left)).toBe(false);
  expect(existsSync(another)).toBe(true);
  expect(existsSync(made)).toBe(true);
});

test('folders of processes that run, and of other machines, stay', () => {
  const mine = madeBy(process.pid, 'kept-');
  const running = madeBy(process.ppid, 'kept-');
  const elsewhere = madeBy(ended, 'kept-elsewhere_');
  const plain = join(folder, 'kept-by-hand');
  mkdirSync(plain);
  makeScratchFolder(join(folder, 'kept-'));
  for (const path of [mine, running, elsewhere, plain]) expect(existsSync(path)).toBe(true);
});

test('they go with the process that made them', () => {
  const module = new URL('../../dist/ffmpeg/scratch.js', import.meta.url).href;
  const script = `import { makeScratchFolder } from '${module}'; console.log(makeScratchFolder(${JSON.stringify(join(folder, 'gone-'))}));`;
  const { stdout } = spawnSync(process.execPath, ['--input-type=module', '-e', script], { encoding: 'utf8' });
  expect(stdout).toContain(join(folder, 'gone-'));
  expect(readdirSync(folder).filter((name) => name.startsWith('gone-'))).toEqual([]);
});
