import { describe, expect, test } from '@jest/globals';
import { arrangeFiles, pickedWith, type Arrangement, type ListedFile } from './arrange-files.ts';

const file = (name: string, framesPerSecond: number | undefined, seconds = 10): ListedFile => ({
  ...{ name, bytes: name.length, modifiedMs: 0 },
  facts:
    framesPerSecond === undefined
      ? undefined
      : {
          codec: 'h264',
          seconds,
          picture: { width: 1280, height: 720, framesPerSecond, frames: framesPerSecond * seconds },
        },
});
const FILES = [
  file('bell 10.mp4', 120, 3),
  file('bell 9.mp4', 60000 / 1001, 8),
  file('run.mp4', 24, 5),
  file('new.mp4', undefined),
];
const plain: Arrangement = { by: 'name', descending: false, sought: '', leastRate: 0 };
const names = (change: Partial<Arrangement>) => arrangeFiles(FILES, { ...plain, ...change }).map(({ name }) => name);

describe('files in a folder', () => {
  test('are sorted by what they are, numbers as numbers, the unknown last either way', () => {
    expect(names({})).toEqual(['bell 9.mp4', 'bell 10.mp4', 'new.mp4', 'run.mp4']);
    expect(names({ by: 'rate' })).toEqual(['run.mp4', 'bell 9.mp4', 'bell 10.mp4', 'new.mp4']);
    expect(names({ by: 'length', descending: true })).toEqual(['bell 9.mp4', 'run.mp4', 'bell 10.mp4', 'new.mp4']);
  });

  test('are found by part of a name or by a rate, and left out below a rate', () => {
    expect(names({ sought: 'BELL' })).toEqual(['bell 9.mp4', 'bell 10.mp4']);
    expect(names({ sought: '59.94' })).toEqual(['bell 9.mp4']);
    expect(names({ sought: '24' })).toEqual(['run.mp4']);
    expect(names({ leastRate: 60 })).toEqual(['bell 9.mp4', 'bell 10.mp4']);
  });
});

describe('a press on a row', () => {
  const all = ['a', 'b', 'c', 'd', 'e'];

  test('picks it, or picks it no longer', () => {
    expect(pickedWith([], all, 'c', false)).toEqual(['c']);
    expect(pickedWith(['c', 'a'], all, 'c', false)).toEqual(['a']);
  });

  test('that extends picks all from the last one to it, either way, and keeps what was picked', () => {
    expect(pickedWith(['e', 'b'], all, 'd', true)).toEqual(['e', 'b', 'c', 'd']);
    expect(pickedWith(['d'], all, 'b', true)).toEqual(['d', 'b', 'c']);
    // Nothing to extend from, or nothing of it in sight.
    expect(pickedWith([], all, 'c', true)).toEqual(['c']);
    expect(pickedWith(['gone'], all, 'c', true)).toEqual(['gone', 'c']);
  });
});
