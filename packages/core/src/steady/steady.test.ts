import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { addSource, appendClip, replaceSource } from '../edit/edit.js';
import { setSteady } from '../edit/reel-edit.js';
import type { Clip } from '../model/clip.js';
import { emptyProject, parseProject } from '../model/project.js';
import { readSteady, type Similarity } from '../model/steady.js';
import type { CameraMotion, SourceMotion } from '../motion/source-motion.js';
import { placeOf } from '../reel/places.js';
import { resolveClip } from '../resolve/resolve-clip.js';
import { rate } from '../time/rate.js';
import { after, IDENTITY, inverse, moved, ofCamera } from './similarity.js';
import { fillingScale, steadyAt, steadyPatch, steadyWhole } from './steady.js';
import { type Luma, PatchTracker } from './track.js';

const similarity = fc.record({
  scale: fc.double({ min: 0.5, max: 2, noNaN: true }),
  angle: fc.double({ min: -1, max: 1, noNaN: true }),
  x: fc.double({ min: -0.3, max: 0.3, noNaN: true }),
  y: fc.double({ min: -0.3, max: 0.3, noNaN: true }),
});

const ASPECT = 16 / 9;

describe('turns, growths and shifts', () => {
  test('undone they are nothing; one after another they act so', () => {
    fc.assert(
      fc.property(similarity, similarity, (a, b) => {
        for (const [value, none] of Object.entries(IDENTITY))
          expect(after(a, inverse(a))[value as keyof Similarity]).toBeCloseTo(none, 9);
        const [x, y] = moved(b, ...moved(a, 0.2, -0.1));
        expect(moved(after(a, b), 0.2, -0.1)).toEqual([expect.closeTo(x, 9), expect.closeTo(y, 9)]);
      }),
    );
  });
});

/** A camera that shakes: what is seen goes to and fro by these shares of the width, on top of an even pan. */
function shaken(pan: number, shake: (n: number) => number): { motion: SourceMotion; place: (n: number) => Similarity } {
  const at = (n: number): Similarity => ({
    scale: 1 + 0.02 * shake(n + 5),
    angle: 0.1 * shake(n + 2),
    x: pan * n + shake(n),
    y: 0.7 * shake(n + 3),
  });
  const pairs = Array.from({ length: 119 }, (_, n) => {
    const step = after(inverse(at(n)), at(n + 1));
    const camera: CameraMotion = {
      x: step.x,
      y: step.y,
      push: step.scale - 1,
      roll: (step.angle * 180) / Math.PI,
      sure: 1,
    };
    return { confidence: 1, exposure: 0, camera };
  });
  return { motion: { pairs, across: new Map() }, place: at };
}

const wobble = (n: number) => 0.01 * Math.sin(n * 1.7) + 0.006 * Math.cos(n * 0.9);

describe('holding a picture steady', () => {
  test('still: whatever is seen stays where it is in the middle frame', () => {
    const { motion, place } = shaken(0, wobble);
    const steady = steadyWhole(motion, 10, 110, 'still', ASPECT);
    const home = moved(place(60), 0.1, 0.05);
    for (const n of [10, 37, 88, 110]) {
      const laid = steady.path[n - 10]!;
      const [x, y] = moved(laid, ...moved(place(n), 0.1, 0.05));
      expect([x, y]).toEqual([expect.closeTo(home[0], 6), expect.closeTo(home[1], 6)]);
    }
    expect(ofCamera(motion.pairs[0]!.camera).x).not.toBe(0);
  });

  test('even move: the pan goes on, the shake is nearly gone', () => {
    const { motion, place } = shaken(0.001, wobble);
    const steady = steadyWhole(motion, 0, 119, 'move', ASPECT);
    const seen = Array.from({ length: 80 }, (_, i) => moved(steady.path[i + 20]!, ...moved(place(i + 20), 0, 0))[0]);
    const steps = seen.slice(1).map((x, i) => x - seen[i]!);
    const filmed = Array.from({ length: 79 }, (_, i) => place(i + 21).x - place(i + 20).x);
    const spread = (values: number[]) =>
      Math.sqrt(values.reduce((sum, v) => sum + (v - 0.001) ** 2, 0) / values.length);
    expect(steps.reduce((sum, v) => sum + v, 0) / steps.length).toBeCloseTo(0.001, 4);
    expect(spread(steps)).toBeLessThan(spread(filmed) / 8);
  });

  test('it is closer just so much that no edge comes into sight', () => {
    fc.assert(
      fc.property(
        fc.array(
          similarity.map((s) => ({
            ...s,
            scale: 1 + (s.scale - 1) / 20,
            angle: s.angle / 20,
            x: s.x / 10,
            y: s.y / 10,
          })),
          { minLength: 1, maxLength: 8 },
        ),
        (path) => {
          const scale = fillingScale(path, ASPECT);
          const beyond = (closer: number) =>
            Math.max(
              ...path.flatMap((lay) => {
                const back = inverse({
                  scale: lay.scale * closer,
                  angle: lay.angle,
                  x: lay.x * closer,
                  y: lay.y * closer,
                });
                return [
                  [-0.5, -0.5],
                  [0.5, -0.5],
                  [-0.5, 0.5],
                  [0.5, 0.5],
                ].map(([sx, sy]) => {
                  const [x, y] = moved(back, sx!, sy! / ASPECT);
                  return Math.max(Math.abs(x) - 0.5, Math.abs(y) - 0.5 / ASPECT);
                });
              }),
            );
          expect(beyond(scale)).toBeLessThan(1e-6);
          if (scale > 1) expect(beyond(scale * 0.999)).toBeGreaterThan(0);
        },
      ),
    );
  });

  test('outside its stretch it is let go softly, then not held at all', () => {
    const { motion } = shaken(0, wobble);
    const steady = steadyWhole(motion, 20, 80, 'still', ASPECT);
    const closer = [10, 13, 16, 20, 50].map((n) => steadyAt(steady, n)?.scale);
    expect(closer[0]).toBeUndefined();
    expect(closer[1]!).toBeLessThan(closer[2]!);
    expect(readSteady(JSON.parse(JSON.stringify(steady)), 'steady', 120)).toEqual(steady);
    expect(() => readSteady({ ...steady, to: 90 }, 'clip.steady', 120)).toThrow(/clip.steady.path/);
    expect(() => steadyWhole(motion, 20, 300, 'still', ASPECT)).toThrow(/not a stretch/);
  });
});

describe('a clip that is held steady', () => {
  const bell = {
    id: 's',
    name: 'bell',
    frames: 120,
    nativeRate: rate(24),
    readAs: rate(24),
    moments: [],
    droppedRepeats: null,
  };
  const held = () => {
    const steady = steadyWhole(shaken(0, wobble).motion, 20, 80, 'still', ASPECT);
    return { steady, project: setSteady(appendClip(addSource(emptyProject(rate(24)), bell), 'c', 's'), 'c', steady) };
  };
  test('shows its frames so laid, and is in the document', () => {
    const { steady, project } = held();
    const show = resolveClip(project, placeOf(project, 'c')!.item as Clip);
    expect(show(50)!.laid).toEqual(steadyAt(steady, 50));
    expect(show(2)!.laid).toBeUndefined();
    expect(parseProject(JSON.parse(JSON.stringify(project)))).toEqual(project);
  });
  test('is let go when another file stands in, in which nothing was measured', () => {
    const replaced = replaceSource(held().project, 's', 60, rate(24));
    expect((placeOf(replaced, 'c')!.item as Clip).steady).toBeNull();
    expect(parseProject(JSON.parse(JSON.stringify(replaced)))).toEqual(replaced);
  });
});

describe('following a patch', () => {
  const { sin } = Math;
  const ground = (x: number, y: number) =>
    120 + 50 * sin(x / 5 + sin(y / 9)) * sin(y / 4) + 30 * sin((x + 2 * y) / 3.1);
  /** A marble's number rolls over uneven ground, by parts of a sample; later it grows a little brighter. */
  const film = (n: number): Luma => {
    const [cx, cy] = [60 + 2.3 * n, 50 + 6 * sin(n / 6)];
    const data = Uint8Array.from({ length: 240 * 120 }, (_, i) => {
      const [x, y] = [i % 240, Math.floor(i / 240)];
      const [dx, dy] = [x - cx, y - cy];
      return dx * dx + dy * dy < 200 ? 140 + n / 4 + 70 * sin(dx / 2.5) * sin(dy / 3.5 + 1) : ground(x, y);
    });
    return { width: 240, height: 120, data };
  };

  test('to a part of a sample, wherever it goes and however bright it gets', () => {
    const tracker = new PatchTracker(film(0), 60, 50, 20);
    for (let n = 1; n <= 50; n++) {
      const [x, y] = tracker.next(film(n))!;
      expect(Math.hypot(x - (60 + 2.3 * n), y - (50 + 6 * sin(n / 6)))).toBeLessThan(0.6);
    }
  });

  test('what is gone is lost, and said to be', () => {
    const tracker = new PatchTracker(film(0), 60, 50, 20);
    const empty: Luma = { width: 240, height: 120, data: new Uint8Array(240 * 120).fill(90) };
    expect(tracker.next(empty)).toBeUndefined();
  });

  test('held, it stays where it was in the middle of the stretch', () => {
    const places = Array.from({ length: 11 }, (_, n) => [0.1 + 0.01 * n, -0.05] as const);
    const steady = steadyPatch(places, 30, 'still', { x: 0.1, y: -0.05, size: 0.1 }, ASPECT);
    for (const n of [0, 4, 10])
      expect(moved(steady.path[n]!, ...places[n]!)).toEqual([
        expect.closeTo(places[5]![0], 9),
        expect.closeTo(-0.05, 9),
      ]);
    expect([steady.from, steady.to]).toEqual([30, 40]);
    expect(steady.scale).toBeGreaterThan(1.09);
  });
});
