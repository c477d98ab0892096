import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { reachPhases } from '../clean/real-frames.js';
import { addCue, addMoment, addSource, appendClip, tie, updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { insertGap, missedPins, stretchClip, trimEnd } from '../edit/reel-edit.js';
import { addSound, cueOnSound } from '../edit/sounds.js';
import { byDrift, landReel, reelDrifts } from '../landing/land-reel.js';
import type { Clip } from '../model/clip.js';
import { putJoin } from '../join/join.js';
import { DEFAULT_JOIN } from '../model/join.js';
import { emptyProject, type Project } from '../model/project.js';
import type { Sound } from '../model/sound.js';
import { placeItems } from '../reel/places.js';
import { frameOfSecond } from '../reel/sound-time.js';
import { positionAt, slopeAt } from '../time-map/evaluate.js';
import { mapDuration, reachSlope } from '../time-map/time-map.js';
import { rate } from '../time/rate.js';
import { clipsToLay, lengthsFor } from './clips-to-lay.js';
import { type LayChoice, layClips, planLay } from './lay.js';

const TIMES = Array.from({ length: 60 }, (_, i) => 0.5 + 0.5 * i);

const MUSIC: Sound = {
  id: 's',
  footageId: 'f',
  name: 'tune',
  startSeconds: 0,
  fromSeconds: 0,
  toSeconds: 31,
  gainDb: 0,
  fadeInSeconds: 0,
  fadeOutSeconds: 0,
  beats: { times: TIMES, bar: { beats: 4, first: 0 } },
};

const CHOICE: LayChoice = {
  soundId: 's',
  lengths: [2, 4, 8],
  limits: { slowest: 0.2, fastest: 5 },
  onBars: true,
  kept: {},
};

/** A reel of clips, each of its own source at 60 fps, with moments at shares of it. */
function reelOf(clips: readonly { readonly frames: number; readonly moments: readonly number[] }[]): Project {
  return clips.reduce(
    (project, { frames, moments }, i) => {
      const source = {
        id: `f${i}`,
        name: `film ${i}`,
        frames,
        nativeRate: rate(60),
        readAs: rate(60),
        moments: [],
        droppedRepeats: null,
      };
      const put = appendClip(addSource(project, source), `c${i}`, `f${i}`);
      return moments.reduce(
        (p, share, k) => addMoment(p, `f${i}`, { id: `m${i}-${k}`, frame: Math.round(share * (frames - 1)), name: '' }),
        put,
      );
    },
    addSound(emptyProject(rate(24)), MUSIC),
  );
}

const ids = (project: Project) => project.reel.items.map(({ id }) => id);

let made = 0;

const newId = () => `cue${made++}`;

const reels = fc
  .array(
    fc.record({
      frames: fc.integer({ min: 60, max: 300 }),
      moments: fc.uniqueArray(fc.integer({ min: 2, max: 8 }), { maxLength: 2 }),
    }),
    {
      minLength: 1,
      maxLength: 4,
    },
  )
  .map((clips) => reelOf(clips.map(({ frames, moments }) => ({ frames, moments: moments.map((n) => n / 10) }))));

describe('lay it on the music', () => {
  test('the plan is the cheapest of all choices of lengths', () => {
    fc.assert(
      fc.property(reels, (project) => {
        const plan = planLay(project, ids(project), CHOICE);
        const names = ids(project);
        let least = Infinity;
        const every = (i: number, kept: Record<string, number>) => {
          if (i === names.length) {
            least = Math.min(least, planLay(project, names, { ...CHOICE, kept })?.cost ?? Infinity);
            return;
          }
          for (const length of CHOICE.lengths) every(i + 1, { ...kept, [names[i]!]: length });
        };
        every(0, {});
        expect(plan?.cost ?? Infinity).toBeCloseTo(least, 9);
      }),
      { numRuns: 60 },
    );
  });

  test('a moment goes to the beat that costs least, of all there are in its slot', () => {
    fc.assert(
      fc.property(fc.integer({ min: 80, max: 300 }), fc.integer({ min: 15, max: 85 }), (frames, percent) => {
        const project = reelOf([{ frames, moments: [percent / 100] }]);
        const plan = planLay(project, ['c0'], { ...CHOICE, kept: { c0: 8 } });
        fc.pre(plan !== undefined);
        const at = Math.round((percent / 100) * (frames - 1)) / 2.5;
        const end = Math.round(TIMES[8]! * 24);
        const own = Math.floor((frames - 1) / 2.5) + 1;
        const length = Math.log(end / own) ** 2;
        // The source ends a sliver after the last frame that is shown.
        const sliver = (frames - 1) / 2.5 - (own - 1);
        // A part that is cut costs nothing; one there is too little of is slowed.
        const slowed = (there: number, run: number) => (run <= there + 1e-6 ? 0 : Math.log(there / run));
        const part = (log: number, run: number) => (log === 0 ? 0 : 0.25 + (log ** 2 * run) / end);
        const added = (there: number, run: number) => (0.4 * Math.max(0, Math.min(run, there + sliver) - there)) / end;
        // The same sum, written out for one moment and every beat, and for none.
        const costs = TIMES.slice(0, 9).flatMap((second, beat) => {
          const frame = Math.round(second * 24);
          if (frame < 4 || end - frame < 4) return [];
          const rest = end - 1 - frame;
          const [head, tail] = [slowed(at, frame), slowed(own - 1 - at + sliver, rest)];
          if ([head, tail].some((log) => Math.exp(log) < 0.2)) return [];
          const cost =
            length + part(head, frame) + part(tail, rest) + 0.35 * (tail - head) ** 2 + added(own - 1 - at, rest);
          return [{ beat, cost: cost - 0.6 * (beat % 4 === 0 ? 1 : 0.4) }];
        });
        const none = length + part(slowed(own - 1 + sliver, end - 1), end - 1) + added(own - 1, end - 1);
        const best = costs.reduce((a, b) => (b.cost < a.cost ? b : a), { beat: -1, cost: none });
        expect(plan.clips[0]!.cost).toBeCloseTo(best.cost, 6);
        expect(plan.clips[0]!.landings.map(({ beat }) => beat)).toEqual(best.beat < 0 ? [] : [best.beat]);
      }),
      { numRuns: 200 },
    );
  });

  test('carried out, every cut is on its beat, every moment of the plan lands, no speed leaves the limits, and the rest of the reel is as it was', () => {
    fc.assert(
      fc.property(reels, (project) => {
        const names = ids(project);
        const plan = planLay(project, names, CHOICE);
        fc.pre(plan !== undefined);
        const { project: laid, missed } = layClips(project, plan, CHOICE, newId);
        const placed = placeItems(laid);
        plan.clips.forEach(({ clipId, from, to, landings }, i) => {
          const { item, start, frames } = placed[i]!;
          const clip = item as Clip;
          if (i > 0) expect(start).toBe(Math.round(frameOfSecond(laid, MUSIC, TIMES[from]!)));
          expect(start + frames).toBe(Math.round(frameOfSecond(laid, MUSIC, TIMES[to]!)));
          const was = project.reel.items[i] as Clip;
          if (plan.clips[i]!.keeps) {
            expect(reachSlope(clip.map, 0)).toBeCloseTo(reachSlope(was.map, 0), 9);
            expect(clip.map.vertices).toHaveLength(2);
          }
          if (missed.includes(clipId)) return;
          for (const { momentId, beat } of landings) {
            const drift = reelDrifts(laid, clipId).find((d) => d.moment.id === momentId)!;
            expect(drift.landed).toBe(true);
            expect(drift.cue.beat!.second).toBe(TIMES[beat]);
          }
          for (let t = 0; t <= mapDuration(clip.map); t += 0.5) {
            const speed = Math.abs(slopeAt(clip.map, t)) / 2.5;
            expect(speed).toBeGreaterThan(0.19);
            expect(speed).toBeLessThan(5.05);
          }
        });
        expect(missedPins(laid)).toEqual([]);
        // Laid once more otherwise, no cue stays behind that nothing uses.
        const again = planLay(laid, names, { ...CHOICE, onBars: false });
        const relaid = again ? layClips(laid, again, CHOICE, newId).project : laid;
        const used = relaid.reel.items.flatMap((item) =>
          item.kind === 'clip' ? [...item.ties.map((t) => t.cueId), item.pin] : [],
        );
        expect(relaid.reel.cues.filter(({ id }) => !used.includes(id))).toEqual([]);
      }),
      { numRuns: 60 },
    );
  });

  test('a bent clip keeps its speeds, its content is cut; what falls outside is named before', () => {
    const bare = reelOf([{ frames: 300, moments: [0.2, 0.55] }]);
    // 100 → 40 → 100 %, clean: the moment at 0.55 is in the slow part.
    const vertices = [
      { t: 0, s: 0 },
      { t: 40, s: 100 },
      { t: 120, s: 180 },
      { t: 160, s: 280 },
    ];
    const bends = [0, 8, 8, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const }));
    const project = updateClip(bare, 'c0', (clip) => withMap(clip, { vertices, bends }));
    for (const beats of [4, 6, 8, 10, 12]) {
      const choice = { ...CHOICE, kept: { c0: beats } };
      const plan = planLay(project, ['c0'], choice)!;
      const { covers, landings, outside, keeps } = plan.clips[0]!;
      const { project: laid, missed } = layClips(project, plan, choice, newId);
      expect(missed).toEqual([]);
      expect(landings.length).toBeGreaterThan(0);
      expect(reelDrifts(laid).every(({ landed }) => landed)).toBe(true);
      const clip = laid.reel.items[0] as Clip;
      const frames = placeItems(laid)[0]!.frames;
      expect(reachPhases(clip.map).every(({ clean }) => clean)).toBe(true);
      if (keeps) expect(covers[1] - covers[0]).toBeCloseTo(frames - 1, 6);
      const shown = [positionAt(clip.map, 0), positionAt(clip.map, frames - 1)];
      for (const { id, frame } of project.sources[0]!.moments)
        if (outside.includes(id)) expect(frame < shown[0]! + 3 || frame > shown[1]! - 3).toBe(true);
    }
  });

  test('there may be no way: the limits, or too little music; and neighbours are asked for', () => {
    const project = reelOf([
      { frames: 60, moments: [] },
      { frames: 60, moments: [] },
    ]);
    expect(
      planLay(project, ids(project), { ...CHOICE, limits: { slowest: 0.9, fastest: 1.1 }, lengths: [16] }),
    ).toBeUndefined();
    expect(
      planLay(project, ids(project), { ...CHOICE, lengths: [40], limits: { slowest: 0.001, fastest: 9 } }),
    ).toBeUndefined();
    expect(() => planLay(project, ['c1', 'c0'], CHOICE)).toThrow(/neighbours/);
    expect(() => planLay(project, ['c0'], { ...CHOICE, soundId: 'other' })).toThrow(/beats/);
  });
});

describe('the whole reel landed at once', () => {
  const tied = () => {
    let project = reelOf([
      { frames: 120, moments: [0.5] },
      { frames: 200, moments: [0.3, 0.7] },
      { frames: 150, moments: [0.4] },
    ]);
    for (const { item, start } of placeItems(project))
      project.sources
        .find((s) => s.id === (item as Clip).sourceId)!
        .moments.forEach((m) => {
          const shown = start + m.frame / 2.5;
          const beat = TIMES.reduce((a, b) => (Math.abs(b * 24 - shown) < Math.abs(a * 24 - shown) ? b : a));
          const cue = cueOnSound(project, 's', beat, newId());
          project = tie(cue.project, item.id, m.id, cue.cueId);
        });
    return project;
  };

  test('every tied moment is met in one sweep; a second changes nothing', () => {
    const project = tied();
    const { project: landed, conflicts } = landReel(project);
    expect(conflicts).toEqual([]);
    expect(reelDrifts(landed).map((d) => d.landed)).toEqual([true, true, true, true]);
    expect(landReel(landed).project).toBe(landed);
    const free = landReel(project, { freeEnd: true });
    expect(reelDrifts(free.project).every((d) => d.landed || free.conflicts.some((c) => c.clipId === d.clipId))).toBe(
      true,
    );
  });

  test('what cannot be is said, clip by clip, and the others land; the report begins with what misses most', () => {
    const project = tied();
    // The first clip gets so short that its beat is past its end.
    const short = stretchClip(project, 'c0', 12);
    const { project: landed, conflicts } = landReel(short);
    expect(conflicts.map(({ clipId }) => clipId)).toContain('c0');
    const report = byDrift(reelDrifts(landed));
    expect(report.length).toBeGreaterThan(0);
    expect(report.map((d) => d.landed)).toEqual([...report.map((d) => d.landed)].sort((a, b) => Number(a) - Number(b)));
    expect(positionAt((landed.reel.items[0] as Clip).map, 0)).toBe(0);
  });
});

test('what is laid together: those picked, else all up to the next gap', () => {
  const clip = { frames: 120, moments: [] };
  const project = insertGap(reelOf([clip, clip, clip, clip]), 3, 'gap', 12);
  expect(clipsToLay(project, 'c1', [])).toEqual(['c1', 'c2']);
  expect(clipsToLay(project, 'c3', [])).toEqual(['c3']);
  expect(clipsToLay(project, 'c2', ['c3', 'c0', 'gap'])).toEqual(['c0', 'c2', 'c3']);
});

test('lengths to choose from are counted in beats, none of them twice', () => {
  expect(lengthsFor('choose', 4)).toEqual([1, 2, 4, 8, 16]);
  expect(lengthsFor('choose', 2)).toEqual([1, 2, 4, 8]);
  expect(lengthsFor('bars', 3)).toEqual([6]);
});

describe('what a plan goes by', () => {
  const one = (strong: number) => {
    const project = reelOf([{ frames: 240, moments: [0.5] }]);
    const strengths = TIMES.map((_, i) => (i === strong ? 1 : 0.05));
    return planLay(project, ['c0'], { ...CHOICE, kept: { c0: 8 }, strengths })!.clips[0]!.landings[0]!.beat;
  };

  test('moments go to what is strong in the music, not to where bars begin', () => {
    expect([one(3), one(4), one(5)]).toEqual([3, 4, 5]);
  });

  test('a moment that is trimmed off is not planned for', () => {
    const project = reelOf([{ frames: 240, moments: [0.25, 0.75] }]);
    const plan = planLay(trimEnd(project, 'c0', 48), ['c0'], { ...CHOICE, kept: { c0: 4 } })!;
    expect(plan.clips[0]!.landings.map(({ momentId }) => momentId)).toEqual(['m0-0']);
  });

  test('ramp joins are put back when the clips are laid, and no moment lands in them', () => {
    const plain = reelOf([0.4, 0.5, 0.6].map((share) => ({ frames: 300, moments: [share] })));
    const joined = ['c0', 'c1'].reduce((project, id) => putJoin(project, id, DEFAULT_JOIN, `j-${id}`), plain);
    const plan = planLay(joined, ids(joined), CHOICE)!;
    const near = reelOf([0, 1].map(() => ({ frames: 300, moments: [0.03] })));
    const racing = putJoin(near, 'c0', DEFAULT_JOIN, 'j');
    const { from, landings } = planLay(racing, ids(racing), CHOICE)!.clips[1]!;
    // A beat is twelve frames.
    for (const { beat } of landings) expect(12 * (beat - from)).toBeGreaterThanOrEqual(DEFAULT_JOIN.outOf);
    const laidNear = layClips(racing, planLay(racing, ids(racing), CHOICE)!, CHOICE, newId);
    expect(laidNear.missed).toEqual([]);
    const { project: laid, missed, unjoined } = layClips(joined, plan, CHOICE, newId);
    expect([missed, unjoined]).toEqual([[], []]);
    expect(missedPins(laid)).toEqual([]);
    expect(laid.reel.joins.map(({ id, peak }) => [id, peak])).toEqual([
      ['j-c0', DEFAULT_JOIN.peak],
      ['j-c1', DEFAULT_JOIN.peak],
    ]);
    expect(reelDrifts(laid).map(({ landed }) => landed)).toEqual([true, true, true]);
    const maps = laid.reel.items.map((item) => (item as Clip).map);
    const slopes = maps.map((map) => map.vertices.slice(1).map((_, i) => reachSlope(map, i)));
    const peak = 2.5 * DEFAULT_JOIN.peak;
    expect([slopes[0]!.at(-1), slopes[1]![0], slopes[1]!.at(-1), slopes[2]![0]]).toEqual(
      Array(4).fill(expect.closeTo(peak, 9)),
    );
  });

  test('a join that does not go into its slot is taken off, and that is said', () => {
    const plain = reelOf([0, 1].map(() => ({ frames: 300, moments: [] })));
    const joined = putJoin(plain, 'c0', { ...DEFAULT_JOIN, into: 40, outOf: 40, peak: 1.5 }, 'j');
    const plan = planLay(joined, ids(joined), { ...CHOICE, kept: { c0: 2, c1: 8 } })!;
    const { project: laid, unjoined } = layClips(joined, plan, CHOICE, newId);
    expect(unjoined).toEqual(['c0']);
    expect(laid.reel.joins).toEqual([]);
    expect(missedPins(laid)).toEqual([]);
  });

  test('a cue that was set by hand stays, though nothing is tied to it any more', () => {
    const project = addCue(reelOf([{ frames: 240, moments: [0.5] }]), { id: 'own', frame: 40, name: 'mine' });
    const tied = tie(project, 'c0', 'm0-0', 'own');
    const plan = planLay(tied, ['c0'], { ...CHOICE, kept: { c0: 8 } })!;
    expect(plan.clips[0]!.landings).toHaveLength(1);
    const { project: laid } = layClips(tied, plan, CHOICE, newId);
    expect((laid.reel.items[0] as Clip).ties[0]!.cueId).not.toBe('own');
    expect(laid.reel.cues.find(({ id }) => id === 'own')).toEqual(project.reel.cues[0]);
  });
});
