import { expect, test } from '@jest/globals';
import { addMoment, addSource, appendClip } from '../edit/edit.js';
import { trimEnd } from '../edit/reel-edit.js';
import type { Clip } from '../model/clip.js';
import { emptyProject } from '../model/project.js';
import { rate } from '../time/rate.js';
import { findMoments, markFound } from './found-moments.js';

const film = {
  ...{ id: 'f', name: 'film', frames: 240, nativeRate: rate(60), readAs: rate(60), moments: [], droppedRepeats: null },
};
const project = appendClip(addSource(emptyProject(rate(24)), film), 'c', 'f');
const clip = project.reel.items[0] as Clip;
const hit = (frame: number, strength: number) => ({ frame, strength, kind: 'turn' as const });

test('seen and heard at once comes before either alone; what is marked, near a better one or not shown is left out', () => {
  const hits = [hit(60, 9), hit(120, 8), hit(123, 7), hit(200, 6)];
  const onsets = [
    { time: 2.01, strength: 0.9 },
    { time: 1.5, strength: 0.8 },
    { time: 3, strength: 0.2 },
  ];
  const found = findMoments(project, clip, { hits, onsets });
  expect(found.map(({ frame, kind, shownAt }) => [frame, kind, shownAt])).toEqual([
    [120, 'turn', 48],
    [60, 'turn', 24],
    [200, 'turn', 80],
    [90, 'sound', 36],
  ]);
  const marked = addMoment(project, 'f', { id: 'm', frame: 61, name: '' });
  expect(findMoments(marked, clip, { hits, onsets }).map(({ frame }) => frame)).toEqual([120, 200, 90]);
  const short = trimEnd(project, 'c', 40);
  expect(findMoments(short, short.reel.items[0] as Clip, { hits, onsets }).map(({ frame }) => frame)).toEqual([60, 90]);
});

test('clips without a moment get their likeliest, others none', () => {
  const found = { hits: [hit(120, 8), hit(60, 3)], onsets: [] };
  const marked = markFound(project, ['c'], () => found);
  expect(marked.sources[0]!.moments).toEqual([{ id: 'found-f-120', frame: 120, name: 'possible hit' }]);
  expect(markFound(marked, ['c'], () => found)).toBe(marked);
  expect(markFound(project, ['c'], () => undefined)).toBe(project);
});
