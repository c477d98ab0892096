import { beforeEach, describe, expect, test } from '@jest/globals';
import { insertGap, removeItem } from '@idle-bend/core/edit';
import { bench, clipOf, itemIds, onBench, openBench, project } from '../../test/bench.ts';
import { parade } from '../../test/parade.ts';
import { activate, benchClips, benchStore, goTo, goToReelFrame, reelFrameOf, select, selected } from './bench-state.ts';
import { speedMeasure, togglePicked } from './bench-state.ts';
import { kindOf } from './selections.ts';

beforeEach(() => openBench());

describe('the playhead', () => {
  test('on the reel it brings the clip there to the bench', () => {
    goToReelFrame(project(), 80);
    expect(bench()).toMatchObject({ activeId: 'c1', k: 8, gapAt: undefined });
    expect(reelFrameOf(onBench())).toBe(80);
    goToReelFrame(project(), 71.4);
    expect(bench()).toMatchObject({ activeId: 'c0', k: 71 });
  });

  test('before the reel and past it, it stands on the first and the last frame', () => {
    goToReelFrame(project(), -5);
    expect(reelFrameOf(onBench())).toBe(0);
    goToReelFrame(project(), 500);
    expect(reelFrameOf(onBench())).toBe(119);
  });

  test('in a gap the clip before it stays, also at the end of the reel', () => {
    openBench(insertGap(insertGap(parade(), 2, 'end', 6), 1, 'gap', 10));
    goToReelFrame(project(), 75);
    expect(bench()).toMatchObject({ activeId: 'c0', gapAt: 75 });
    goToReelFrame(project(), 999);
    expect(bench()).toMatchObject({ activeId: 'c1', gapAt: 135 });
    goTo(3, onBench().frames);
    expect(bench()).toMatchObject({ k: 3, gapAt: undefined });
  });

  test('a clip that is gone leaves the first one on the bench, an empty reel none', () => {
    activate('c1', 5);
    expect(onBench().clip.id).toBe('c1');
    openBench(removeItem(parade(), 'c1'));
    benchStore.setState({ activeId: 'c1' });
    expect(onBench().clip.id).toBe('c0');
    openBench(removeItem(project(), 'c0'));
    expect(onBench()).toBeUndefined();
    goToReelFrame(project(), 3);
    expect(bench().k).toBe(0);
  });
});

test('another clip on the bench keeps only what belongs to the reel', () => {
  benchStore.setState({ range: { from: 1, to: 2 }, loop: { from: 0, to: 3 } });
  select({ kind: 'cue', id: 'beat' });
  activate('c1');
  expect(bench()).toMatchObject({ range: undefined, loop: undefined, selection: { kind: 'cue' } });
  select({ kind: 'reach', index: 0 });
  activate('c0');
  expect(bench().selection).toEqual({ kind: 'clip' });
});

test('clips are picked one by one, and the one on the bench is always among them', () => {
  activate('c0');
  togglePicked('c1');
  togglePicked('c0');
  expect(bench().picked).toEqual(['c1']);
  togglePicked('c1');
  expect(bench().picked).toEqual([]);
});

test('the clips of a project are the same values as long as it is the same project', () => {
  expect(benchClips(project())).toBe(benchClips(project()));
  expect(benchClips(parade())).not.toBe(benchClips(project()));
});

test('a typed speed is measured against both rates', () => {
  expect(speedMeasure(onBench(), 48, 0.5)).toEqual({ sourceFps: 120, reelFps: 24, frames: 48, speed: 0.5 });
});

describe('what is selected', () => {
  test('is the clip once what it named is gone', () => {
    select({ kind: 'moment', id: 'hit' });
    expect(selected(onBench()).kind).toBe('moment');
    for (const selection of [
      { kind: 'moment', id: 'gone' },
      { kind: 'cue', id: 'gone' },
      { kind: 'sound', id: 'gone' },
      { kind: 'gap', id: 'gone' },
      { kind: 'join', id: 'c0' },
      { kind: 'reach', index: 1 },
      { kind: 'vertex', index: 2 },
      { kind: 'range' },
    ] as const) {
      select(selection);
      expect(selected(onBench()).kind).toBe('clip');
    }
    for (const kind of ['landings', 'reel', 'lay'] as const) {
      select({ kind });
      expect(selected(onBench()).kind).toBe(kind);
    }
  });

  test('is removed by its kind', () => {
    openBench(insertGap(parade(), 1, 'gap', 10));
    const without = (selection: Parameters<typeof kindOf>[0]) =>
      kindOf(selection).remove!(project(), selection, onBench());
    expect(without({ kind: 'gap', id: 'gap' }).reel.items.map(({ id }) => id)).toEqual(['c0', 'c1']);
    expect(without({ kind: 'cue', id: 'beat' }).reel.cues).toEqual([]);
    expect(without({ kind: 'moment', id: 'hit' }).sources[0]!.moments).toEqual([]);
    expect(() => without({ kind: 'vertex', index: 0 })).toThrow(/end/);
    expect(kindOf({ kind: 'reel' }).remove).toBeUndefined();
    expect(itemIds()).toEqual(['c0', 'gap', 'c1']);
    expect(clipOf('c0').map.vertices).toHaveLength(2);
  });
});
