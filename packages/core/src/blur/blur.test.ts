import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { addSource, appendClip, updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { setClipBlur, setReelBlur } from '../edit/reel-edit.js';
import { groupItems } from '../group/group-items.js';
import { putJoin } from '../join/join.js';
import { type Blur, NO_BLUR, DEFAULT_SHUTTER, DEFAULT_SMEAR, readBlur } from '../model/blur.js';
import type { Clip } from '../model/clip.js';
import { DEFAULT_JOIN } from '../model/join.js';
import { emptyProject, parseProject, type Project } from '../model/project.js';
import { blurOf, usesBlur } from '../reel/interpolation.js';
import { placeOf } from '../reel/places.js';
import { resolveClip } from '../resolve/resolve-clip.js';
import { parseSample } from '../sampling/sample-file.js';
import { nowOf, partsOf, type Sample } from '../sampling/sample.js';
import { setClipSpeed } from '../time-map/edit.js';
import { freezeAt } from '../time-map/freeze.js';
import { rate } from '../time/rate.js';
import { exposed } from './exposed.js';
import { exposureAt } from './exposure.js';

const source = {
  id: 's',
  name: 'whip',
  frames: 600,
  nativeRate: rate(24),
  readAs: rate(24),
  moments: [],
  droppedRepeats: null,
};

/** Two clips of 24 fps on a reel of 24, at a speed. */
function parade(speed: number): Project {
  let project = addSource(emptyProject(rate(24)), source);
  for (const id of ['a', 'b']) project = appendClip(project, id, 's', 100, 499);
  return updateClip(project, 'a', (clip) => withMap(clip, setClipSpeed(clip.map, speed, 1)));
}

const clipOf = (project: Project, id: string) => placeOf(project, id)!.item as Clip;

const shown = (project: Project, k: number, id = 'a') => resolveClip(project, clipOf(project, id))(k)!.sample;

const open = (sample: Sample) =>
  sample.kind === 'shutter' ? sample.edges.at(-1)! - sample.edges[0]! : sample.kind === 'smear' ? sample.frames : 0;

describe('how long the shutter is open', () => {
  test('a share of the frame, and by default only what speeding up took away', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 720, noNaN: true }),
        fc.double({ min: -40, max: 40, noNaN: true }),
        (angle, speed) => {
          const blur = { kind: 'shutter', angle } as const;
          expect(exposureAt({ ...blur, always: true }, speed)).toBeCloseTo(angle / 360, 12);
          const added = exposureAt({ ...blur, always: false }, speed);
          if (Math.abs(speed) <= 1) expect(added).toBe(0);
          else expect(added).toBeCloseTo((angle / 360) * (1 - 1 / Math.abs(speed)), 12);
        },
      ),
    );
    expect(exposureAt(NO_BLUR, 8)).toBe(0);
    expect(exposureAt(DEFAULT_SMEAR, 4)).toBeCloseTo(exposureAt(DEFAULT_SHUTTER, 4), 12);
  });
});

describe('a blurred frame', () => {
  test('gathers the moments about its own: what lands there still does', () => {
    const sample = shown(setReelBlur(parade(8), DEFAULT_SHUTTER), 10);
    if (sample.kind !== 'shutter') throw new Error('not blurred');
    expect(sample.now).toEqual({ kind: 'source', frame: 180 });
    expect(open(sample)).toBeCloseTo(8 * 0.5 * (7 / 8), 9);
    expect((sample.edges[0]! + sample.edges.at(-1)!) / 2).toBeCloseTo(180, 9);
    expect(parseSample(JSON.parse(JSON.stringify(sample)))).toEqual(sample);
  });

  test('stays inside the clip at its ends, runs backward in reverse, and passes untouched at normal speed', () => {
    const first = shown(setReelBlur(parade(8), DEFAULT_SHUTTER), 0);
    expect(first.kind === 'shutter' && first.edges[0]).toBeCloseTo(100, 9);
    expect(open(shown(setReelBlur(parade(-8), DEFAULT_SHUTTER), 10))).toBeLessThan(-3);
    expect(shown(setReelBlur(parade(1), DEFAULT_SHUTTER), 10)).toEqual({ kind: 'source', frame: 110 });
    expect(open(shown(setReelBlur(parade(1), { ...DEFAULT_SHUTTER, always: true }), 10))).toBeCloseTo(0.5, 9);
  });

  test('a smear is as long, and comes and goes softly at a hard change of speed', () => {
    const smeared = shown(setReelBlur(parade(8), DEFAULT_SMEAR), 10);
    expect(open(smeared)).toBeCloseTo(3.5, 6);
    expect(partsOf(smeared).map(({ kind }) => kind)).toEqual(['source', 'flow']);
    expect(parseSample(JSON.parse(JSON.stringify(smeared)))).toEqual(smeared);
    const hard = {
      vertices: [
        { t: 0, s: 100 },
        { t: 20, s: 120 },
        { t: 40, s: 280 },
      ],
      bends: clipOf(parade(1), 'a').map.bends.concat({ widthFrames: 0, ease: 'soft' }),
    };
    const project = (fade: number) =>
      setReelBlur(
        updateClip(parade(1), 'a', (c) => withMap(c, hard)),
        { ...DEFAULT_SMEAR, fade },
      );
    expect([18, 19, 20].map((k) => open(shown(project(0), k)) > 0)).toEqual([false, false, true]);
    const faded = [17, 18, 19, 20, 21, 22, 24].map((k) => open(shown(project(6), k)));
    expect(faded[1]).toBeGreaterThan(0);
    for (let i = 1; i < faded.length; i++) expect(faded[i]!).toBeGreaterThanOrEqual(faded[i - 1]!);
  });
});

describe('whose blur it is', () => {
  const strong: Blur = { kind: 'shutter', angle: 360, always: true };
  test('the join’s through its ramps, then the clip’s, then the reel’s', () => {
    const joined = putJoin(
      setReelBlur(setClipBlur(parade(1), 'b', NO_BLUR), DEFAULT_SMEAR),
      'a',
      { ...DEFAULT_JOIN, keeps: 'content', blur: strong },
      'j',
    );
    const [a, b] = [clipOf(joined, 'a'), clipOf(joined, 'b')];
    const end = a.map.vertices.at(-1)!.t;
    expect([end - 17, end - 16, end - 1].map((t) => blurOf(joined, a, t).kind)).toEqual([
      'smear',
      'shutter',
      'shutter',
    ]);
    expect([0, 15, 16].map((t) => blurOf(joined, b, t).kind)).toEqual(['shutter', 'shutter', 'none']);
    expect([usesBlur(joined), usesBlur(parade(1))]).toEqual([true, false]);
    expect(parseProject(JSON.parse(JSON.stringify(joined)))).toEqual(joined);
  });

  test('a group that is sped up blurs what is in it, by both speeds together', () => {
    const bound = groupItems(parade(2), ['a', 'b'], { clipId: 'g', sourceId: 'both', name: 'both' });
    const fast = setReelBlur(
      updateClip(bound, 'g', (c) => withMap(c, setClipSpeed(c.map, 4, 1))),
      DEFAULT_SHUTTER,
    );
    expect(open(shown(fast, 20, 'g'))).toBeCloseTo(8 * 0.5 * (7 / 8), 6);
    expect(nowOf(shown(fast, 20, 'g'))).toEqual(nowOf(shown(parade(2), 80)));
    expect(open(shown(setClipBlur(fast, 'g', NO_BLUR), 20, 'g'))).toBe(0);
  });

  test('what cannot be is refused by name', () => {
    expect(() => setReelBlur(parade(1), { ...DEFAULT_SHUTTER, angle: 800 })).toThrow(/blur.angle.*800° is not between/);
    expect(() => setClipBlur(parade(1), 'a', { ...DEFAULT_SMEAR, strength: -1 })).toThrow(/strength/);
    expect(() => readBlur({ kind: 'shutter', angle: 180 }, 'reel.blur')).toThrow(/reel.blur.always/);
    expect(() => readBlur({ kind: 'none', angle: 1 }, 'reel.blur')).toThrow(/angle/);
    expect(() => parseSample({ kind: 'shutter', now: { kind: 'black' }, edges: [0], steps: [] })).toThrow(
      /sample.steps/,
    );
  });
});

describe('an exposure in parts', () => {
  test('is in parts of equal length where the speed is one, the first as the last', () => {
    const sample = shown(setReelBlur(parade(8), DEFAULT_SHUTTER), 20);
    if (sample.kind !== 'shutter') throw new Error('not blurred');
    const parts = sample.edges.slice(1).map((s, i) => s - sample.edges[i]!);
    for (const part of parts) expect(part).toBeCloseTo(parts[0]!, 9);
    expect(parts[0]).toBeGreaterThan(0);
    expect(sample.steps).toHaveLength(parts.length);
  });

  test('of what stands still, or is black, is the frame itself', () => {
    const always = { ...DEFAULT_SHUTTER, always: true } as const;
    const frozen = updateClip(parade(1), 'a', (clip) =>
      withMap(clip, freezeAt(clip.map, 10, 20, { widthFrames: 0, ease: 'soft' }).map),
    );
    expect(shown(setReelBlur(frozen, always), 20)).toEqual({ kind: 'source', frame: 110 });
    const black = { kind: 'black' } as const;
    const exposing = { position: (t: number) => 8 * t, speed: () => 8, moment: () => black, from: 0, to: 50 };
    expect(exposed(black, always, exposing, 10)).toEqual(black);
  });

  test('ends where the clip does', () => {
    const sample = shown(setReelBlur(parade(8), { ...DEFAULT_SHUTTER, angle: 720 }), 49);
    if (sample.kind !== 'shutter') throw new Error('not blurred');
    expect(sample.edges.at(-1)).toBeLessThanOrEqual(500);
  });
});
