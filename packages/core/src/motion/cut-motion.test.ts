import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { addSource, appendClip, updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import type { Clip } from '../model/clip.js';
import { emptyProject, type Project } from '../model/project.js';
import { placeOf } from '../reel/places.js';
import { reverseMap, setClipSpeed } from '../time-map/edit.js';
import { straightMap } from '../time-map/time-map.js';
import { rate } from '../time/rate.js';
import { cutMotion, cutSentence, waysSentence } from './cut-motion.js';
import { turn } from './directions.js';
import type { CameraMotion, SourceMotion } from './source-motion.js';

const moving = (camera: Partial<CameraMotion>, from = 0): SourceMotion => ({
  pairs: Array.from({ length: 239 }, (_, n) => ({
    confidence: 1,
    exposure: 0,
    camera: { x: 0, y: 0, push: 0, roll: 0, sure: 0.9, ...(n >= from && camera) },
  })),
  across: new Map(),
});

/** Two clips of 60 fps film on a reel of 24. */
function two(change: (project: Project) => Project = (p) => p): Project {
  const source = (id: string) => ({
    id,
    name: id,
    frames: 240,
    nativeRate: rate(60),
    readAs: rate(60),
    moments: [],
    droppedRepeats: null,
  });
  return change(
    appendClip(appendClip(addSource(addSource(emptyProject(rate(24)), source('s')), source('t')), 'a', 's'), 'b', 't'),
  );
}

const clipOf = (project: Project, id: string) => placeOf(project, id)!.item as Clip;

const at = (project: Project, a: SourceMotion, b: SourceMotion) =>
  cutMotion(project, clipOf(project, 'a'), a, clipOf(project, 'b'), b)!;

const pan = (degrees: number, perFrame: number) => ({
  x: perFrame * Math.cos((degrees * Math.PI) / 180),
  y: perFrame * Math.sin((degrees * Math.PI) / 180),
});

describe('motion at a cut', () => {
  test('two pans: the angle between them, and how fast each goes on the screen', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 360, noNaN: true }),
        fc.double({ min: 0, max: 360, noNaN: true }),
        (one, other) => {
          const found = at(two(), moving(pan(one, 0.01)), moving(pan(other, 0.02)));
          expect(found.apart!).toBeCloseTo(turn(one, other), 6);
          expect(found.before.perFrame).toBeCloseTo(0.025, 9);
          expect(found.after.perFrame).toBeCloseTo(0.05, 9);
          const between = turn(one, other);
          if (Math.abs(between - 30) > 1e-6 && Math.abs(between - 150) > 1e-6)
            expect(found.relation).toBe(between < 30 ? 'together' : between > 150 ? 'against' : 'across');
        },
      ),
    );
  });

  test('a reversed clip goes the other way, a slowed one slower', () => {
    const reversed = two((p) => updateClip(p, 'b', (c) => withMap(c, reverseMap(c.map))));
    expect(at(reversed, moving({ x: 0.01 }), moving({ x: 0.01 })).relation).toBe('against');
    const slowed = two((p) => updateClip(p, 'b', (c) => withMap(c, setClipSpeed(c.map, 0.4, 2.5))));
    expect(cutSentence(at(slowed, moving({ x: -0.01 }), moving({ x: -0.01 })))).toBe(
      'At the cut each picture moves left, 0° apart, the first 2.5 times as fast.',
    );
  });

  test('in one sentence which ways they go', () => {
    expect(waysSentence(at(two(), moving(pan(0, 0.01)), moving(pan(6, 0.02))))).toBe('Both move right, 6° apart.');
    expect(waysSentence(at(two(), moving({ push: 0.02 }), moving({ push: 0.03 })))).toBe('Both grow.');
    expect(waysSentence(at(two(), moving({}), moving({})))).toBe('Both stand still.');
    expect(waysSentence(at(two(), moving(pan(0, 0.01)), moving(pan(170, 0.01))))).toMatch(
      /^These fight: .*170° apart\.$/,
    );
  });

  test('only what is beside the cut counts', () => {
    expect(at(two(), moving({ x: 0.02 }, 220), moving({})).before.kind).toBe('shift');
    expect(at(two(), moving({}), moving({ x: 0.02 }, 60)).after.kind).toBe('still');
  });

  test('in words: rest, pushes, turns, and where nothing moves together', () => {
    const say = (a: Partial<CameraMotion>, b: Partial<CameraMotion>) => cutSentence(at(two(), moving(a), moving(b)));
    expect(say({}, {})).toBe('At the cut both pictures stand still.');
    expect(say({ push: 0.01 }, { push: -0.01 })).toBe('These fight: the first picture grows, the second shrinks.');
    expect(say({ roll: 1 }, { roll: 1.05 })).toBe('At the cut each picture turns clockwise, equally fast.');
    expect(say(pan(180, 0.02), pan(0, 0.02))).toBe(
      'These fight: the first picture moves left, the second moves right, 180° apart.',
    );
    expect(say({ x: 0.02 }, { x: 0.02, sure: 0.1 })).toBe(
      'At the cut the first picture moves right, the second moves no one way.',
    );
  });

  test('rest is said of the film, however it is passed; a frozen and a held picture rest', () => {
    const jitter = moving({ x: -0.0004 });
    for (const speed of [0.05, 1, 8]) {
      const paced = two((p) => updateClip(p, 'b', (c) => withMap(c, setClipSpeed(c.map, speed, 2.5))));
      expect(at(paced, moving({ x: 0.02 }), jitter).after.kind).toBe('still');
      expect(at(paced, moving({ x: 0.02 }), moving({ x: 0.01 })).after.kind).toBe('shift');
    }
    const frozen = two((p) => updateClip(p, 'b', (c) => withMap(c, straightMap(40, 100, 100))));
    expect(at(frozen, jitter, moving({ x: 0.02 })).after.kind).toBe('still');
    const held = two((p) => updateClip(p, 'a', (c) => withMap(c, straightMap(140, 0, 350))));
    expect(at(held, moving({ x: 0.02 }), jitter).before.kind).toBe('still');
  });

  test('what was not looked at says nothing', () => {
    expect(
      cutMotion(two(), clipOf(two(), 'a'), { pairs: [], across: new Map() }, clipOf(two(), 'b'), moving({})),
    ).toBeUndefined();
  });
});
