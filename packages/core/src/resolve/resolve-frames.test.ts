import { LOOKS } from '../look/looks.js';
import { describe, expect, test } from '@jest/globals';
import { addSource, appendClip } from '../edit/edit.js';
import { insertGap } from '../edit/reel-edit.js';
import { type AccentSet } from '../model/accent.js';
import { emptyProject, type Project } from '../model/project.js';
import { placeItems } from '../reel/places.js';
import { rate } from '../time/rate.js';
import { resolveFrames, resolveReel } from './resolve-frames.js';

const source = (id: string) => ({
  id,
  name: id,
  frames: 100,
  nativeRate: rate(24),
  readAs: rate(24),
  moments: [],
  droppedRepeats: null,
});

/** bell 0–19, five frames of nothing, boat 40–59, kite 10–29. */
function parade(accents: readonly AccentSet[] = []): Project {
  const sources = ['bell', 'boat', 'kite'].reduce(
    (p, id) => addSource(p, source(id)),
    emptyProject(rate(24), 320, 180),
  );
  const clips = appendClip(
    appendClip(appendClip(sources, 'a', 'bell', 0, 19), 'b', 'boat', 40, 59),
    'c',
    'kite',
    10,
    29,
  );
  const project = insertGap(clips, 1, 'gap', 5);
  return { ...project, reel: { ...project.reel, accents, cues: [{ id: 'hit', frame: 30, name: 'hit', beat: null }] } };
}

const shownAt = (project: Project, frame: number) => {
  const { clipFrame, beside, goes } = resolveReel(project)(frame);
  return [
    clipFrame && `${clipFrame.source.id} ${clipFrame.position}`,
    beside && `${beside.source.id} ${beside.position}`,
    goes,
  ];
};

describe('what a frame of the reel shows', () => {
  test('clip by clip, nothing in gaps, nothing before and after the reel', () => {
    const project = parade();
    const frames = placeItems(project).reduce((sum, place) => sum + place.frames, 0);
    expect([-1, 0, 19, 20, 24, 25, 44, 45, 64, frames].map((k) => shownAt(project, k)[0])).toEqual([
      undefined,
      'bell 0',
      'bell 19',
      undefined,
      undefined,
      'boat 40',
      'boat 59',
      'kite 10',
      'kite 29',
      undefined,
    ]);
  });

  test('a picture that stutters stands still, within its clip', () => {
    const stutter = { id: 's', name: 's', look: { ...LOOKS.stutter.initial, frames: 4 }, strength: 1 } as const;
    const onCue = parade([{ ...stutter, on: { kind: 'cues', cueIds: ['hit'] } }]);
    expect([29, 30, 32, 33, 34].map((k) => shownAt(onCue, k)[0])).toEqual([
      'boat 44',
      'boat 45',
      'boat 45',
      'boat 45',
      'boat 49',
    ]);
    const project = { ...onCue, reel: { ...onCue.reel, cues: [{ id: 'hit', frame: 43, name: 'hit', beat: null }] } };
    // The next clip does not show what the one before it stood on.
    expect([43, 44, 45, 46, 47].map((k) => shownAt(project, k)[0])).toEqual([
      'boat 58',
      'boat 58',
      'kite 10',
      'kite 10',
      'kite 12',
    ]);
  });

  test('while one clip pushes another both are known, and which one goes', () => {
    const push = {
      id: 'p',
      name: 'p',
      look: { ...LOOKS.push.initial, frames: 4 },
      strength: 1,
      on: { kind: 'cuts', clipIds: ['c'] },
    } as const;
    const project = parade([push]);
    expect([42, 43, 44, 45, 46, 47].map((k) => shownAt(project, k))).toEqual([
      ['boat 57', undefined, false],
      ['boat 58', 'kite 8', true],
      ['boat 59', 'kite 9', true],
      ['kite 10', 'boat 60', false],
      ['kite 11', 'boat 61', false],
      ['kite 12', undefined, false],
    ]);
  });

  test('of some of its items, in a time of their own, it is the same', () => {
    const project = parade();
    const all = placeItems(project);
    const excerpt = all.slice(2).map((place) => ({ ...place, start: place.start - 25 }));
    const [whole, part] = [
      resolveReel(project),
      resolveFrames(project, excerpt, () => resolveReel(project)(0).effects),
    ];
    for (let k = 0; k < 40; k++) expect(part(k).clipFrame).toEqual(whole(25 + k).clipFrame);
    expect(part(-1).clipFrame).toBeUndefined();
  });
});
