import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { realFrames } from '@idle-bend/core/clean';
import { addCue, addMoment, updateClip, withMap } from '@idle-bend/core/edit';
import { positionAt } from '@idle-bend/core/time-map';
import { bench, clipOf, onBench, openBench, project, said, steps } from '../../../test/bench.ts';
import { parade } from '../../../test/parade.ts';
import { activate, benchStore, select } from '../../session/bench-state.ts';
import { markMoment } from '../clip/commands.ts';
import { foundStore, walkFound } from './found.ts';
import { landAgain, landHere, landOn, landWholeReel, stretchHere, untieMoment, waysToLand } from './commands.ts';
import { driftsOf } from './drifts.ts';

beforeEach(() => {
  jest.useFakeTimers();
  openBench();
  activate('c0', 40);
});
afterEach(() => void jest.useRealTimers());

test('the moment lands on the cue with one gesture, one step', () => {
  landHere();
  expect(clipOf('c0').ties).toEqual([{ momentId: 'hit', cueId: 'beat' }]);
  expect(driftsOf(onBench())).toMatchObject([{ shownAt: 30, landed: true }]);
  expect(bench().selection).toEqual({ kind: 'moment', id: 'hit' });
  expect(steps()).toBe(1);
  expect(said).toEqual([expect.stringMatching(/^(Every speed stays|The speeds changed)/)]);
});

test('again, it takes the other way, which stays on offer until something else is done', () => {
  const soft = (widthFrames: number) => ({ widthFrames, ease: 'soft' as const });
  const vertices = [
    [0, 150],
    [10, 200],
    [30, 220],
    [58, 360],
  ].map(([t, s]) => ({ t: t!, s: s! }));
  const slowed = { vertices, bends: [0, 6, 6, 0].map(soft) };
  openBench(
    updateClip(addMoment(parade(), 'bell', { id: 'swing', frame: 210, name: '' }), 'c0', (c) => withMap(c, slowed)),
  );
  activate('c0', 20);
  select({ kind: 'moment', id: 'swing' });
  // Before either is taken both are told, and nothing is done.
  const ways = waysToLand(onBench(), 'swing');
  expect(steps()).toBe(0);
  landHere();
  const first = bench().otherWay!;
  const [taken, offered] = [first.taken.name, first.name];
  expect(ways.map(({ name, real }) => [name, real])).toEqual([
    [taken, first.taken.real],
    [offered, first.real],
  ]);
  expect(waysToLand(onBench(), 'swing')).toEqual([]);
  // One that is no longer there, as after undo, has none.
  expect(waysToLand(onBench(), 'gone')).toEqual([]);
  expect(new Set([taken, offered]).size).toBe(2);
  const before = clipOf('c0').map;
  landHere();
  expect(bench().otherWay).toMatchObject({ taken: { name: offered }, name: taken });
  expect(driftsOf(onBench()).find(({ moment }) => moment.id === 'swing')).toMatchObject({ landed: true });
  expect(clipOf('c0').map).not.toEqual(before);
  landHere();
  expect(clipOf('c0').map).toEqual(before);
  // After another edit it is no offer any more: landing again changes nothing.
  untieMoment('swing');
  landHere();
  expect(clipOf('c0').map).toEqual(before);
});

test('a thread drawn from another clip brings that clip to the bench', () => {
  activate('c1');
  landOn('c0', 'hit', { frame: 30, cueId: 'beat' });
  expect(onBench().clip.id).toBe('c0');
  expect(driftsOf(onBench())[0]).toMatchObject({ landed: true });
  untieMoment('hit');
  expect(clipOf('c0').ties).toEqual([]);
});

test('without a moment, a cue or a tie it is said what is missing', async () => {
  activate('c1');
  landHere();
  await landWholeReel();
  openBench({ ...parade(), reel: { ...parade().reel, cues: [] } });
  landHere();
  expect(said).toEqual([expect.stringMatching(/^Set a cue first/)]);
  expect(steps()).toBe(0);
});

test('two that cannot both land are named, and what would do is offered', () => {
  const early = addMoment(parade(), 'bell', { id: 'early', frame: 50, name: 'rolls' });
  openBench(addCue(early, { id: 'late', frame: 45, name: '' }));
  activate('c0', 40);
  landOn('c0', 'hit', { frame: 30, cueId: 'beat' });
  landOn('c0', 'early', { frame: 45, cueId: 'late' });
  expect(said.at(-1)).toMatch(/^! “(rings|rolls)”.*frame/);
  benchStore.setState({ gives: 'all' });
  landAgain();
  expect(said.filter((sentence) => sentence.startsWith('!'))).toHaveLength(2);
  select({ kind: 'cue', id: 'beat' });
  untieMoment('early');
  landHere();
  expect(project().reel.cues.map(({ frame }) => frame)).toContain(30);
  expect(driftsOf(onBench()).find(({ moment }) => moment.id === 'hit')).toMatchObject({ landed: true });
});

test('a clip stretched keeps clean speeds, and one key has all its speeds changed alike instead', () => {
  openBench(parade());
  activate('c0', 0);
  const length = onBench().frames;
  const last = positionAt(clipOf('c0').map, length - 1);
  stretchHere('c0', length - 7);
  expect(onBench().frames).toBe(length - 7);
  expect(positionAt(clipOf('c0').map, length - 8)).toBeCloseTo(last, 6);
  const clean = realFrames(clipOf('c0').map);
  expect(said.at(-1)).toMatch(/^Clean speeds: \d+ of \d+ frames real/);
  expect(bench().otherWay).toMatchObject({ name: 'All alike', taken: { name: 'Clean speeds' } });
  landHere();
  expect(clipOf('c0').map.vertices).toHaveLength(2);
  expect(positionAt(clipOf('c0').map, length - 8)).toBeCloseTo(last, 6);
  expect(realFrames(clipOf('c0').map).real).toBeLessThan(clean.real);
});

test('possible hits are walked, the likeliest first, and marked where they are', () => {
  openBench(parade());
  activate('c0', 0);
  walkFound();
  expect(said.at(-1)).toMatch(/have not been looked at/);
  const found = (frame: number, shownAt: number) => ({ frame, shownAt, kind: 'turn' as const, score: 1 });
  foundStore.setState({ found: { clipId: 'c0', list: [found(143, 29), found(61, 12)] } });
  walkFound();
  expect(bench().k).toBe(29);
  expect(said.at(-1)).toMatch(/^1 of 2: possible hit at source frame 143/);
  markMoment();
  expect(onBench().source.moments.map(({ frame }) => frame)).toContain(143);
  walkFound();
  expect(bench().k).toBe(12);
  walkFound();
  expect(bench().k).toBe(29);
  // Come to by hand it is the frame that is shown.
  const clip = onBench().clip;
  activate('c0', 12);
  markMoment();
  const shown = Math.round(positionAt(clip.map, 12));
  expect(onBench().source.moments.map(({ frame }) => frame)).toContain(shown);
});
