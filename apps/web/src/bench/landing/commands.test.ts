import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { addCue, addMoment } from '@idle-bend/core/edit';
import { bench, clipOf, onBench, openBench, project, said, steps } from '../../../test/bench.ts';
import { parade } from '../../../test/parade.ts';
import { activate, benchStore, select } from '../../session/bench-state.ts';
import { driftsOf, landAgain, landHere, landOn, landWholeReel, untieMoment } from './commands.ts';

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
  expect(said).toEqual([]);
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
  expect(said).toEqual([expect.stringMatching(/^! “(rings|rolls)”.*frame/)]);
  benchStore.setState({ gives: 'all' });
  landAgain();
  expect(said).toHaveLength(2);
  select({ kind: 'cue', id: 'beat' });
  untieMoment('early');
  landHere();
  expect(project().reel.cues.map(({ frame }) => frame)).toContain(30);
  expect(driftsOf(onBench()).find(({ moment }) => moment.id === 'hit')).toMatchObject({ landed: true });
});
