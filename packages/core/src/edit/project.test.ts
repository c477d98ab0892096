import { mapArbitrary } from '../../test/arbitraries.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { InvalidInput } from '../foundation/errors.js';
import { landClip } from '../landing/land-clip.js';
import type { Clip } from '../model/clip.js';
import type { Source } from '../model/group.js';
import { DEFAULT_TUNING } from '../model/interpolation.js';
import { migrate } from '../model/migrations/migrate.js';
import { emptyProject, parseProject, type Project } from '../model/project.js';
import { clipSlope, mapClips } from '../reel/clips.js';
import { interpolationOf } from '../reel/interpolation.js';
import { placeItems, reelFrames } from '../reel/places.js';
import { addVertex } from '../time-map/edit.js';
import { positionAt } from '../time-map/evaluate.js';
import { rate } from '../time/rate.js';
import {
  addCue,
  addMoment,
  addSource,
  appendClip,
  backToPlain,
  lockReach,
  mergeClips,
  removeCue,
  removeMoment,
  removeSource,
  replaceSource,
  setReachMethod,
  setReachSound,
  setReadAs,
  splitClip,
  tie,
  untie,
  updateClip,
  updateCue,
  updateMoment,
} from './edit.js';
import { withMap } from '../reel/with-map.js';
import { addSound } from './sounds.js';

const source: Source = {
  id: 'bell',
  name: 'marble-bell',
  frames: 360,
  nativeRate: rate(120),
  readAs: rate(120),
  moments: [],
  droppedRepeats: null,
};

const parade = (): Project => appendClip(addSource(emptyProject(rate(24)), source), 'c1', 'bell');

const clipOf = (project: Project) =>
  project.reel.items[0] as Extract<Project['reel']['items'][number], { kind: 'clip' }>;

describe('the document', () => {
  test('comes back from JSON as it was', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.nat(359), fc.double({ min: 0, max: 1e6, noNaN: true }), (map, frame, cue) => {
        let project = updateClip(parade(), 'c1', (clip) => ({ ...clip, map, method: 'mix' }));
        project = addCue(addMoment(project, 'bell', { id: 'm1', frame, name: 'marble meets bell' }), {
          id: 'q1',
          frame: cue === 0 ? 0 : cue,
          name: '',
        });
        expect(parseProject(JSON.parse(JSON.stringify(project)))).toEqual(JSON.parse(JSON.stringify(project)));
      }),
    );
  });

  test('a clip starts where the one before ends', () => {
    const project = appendClip(parade(), 'c2', 'bell');
    expect(placeItems(project).map(({ start, frames }) => [start, frames])).toEqual([
      [0, 72],
      [72, 72],
    ]);
    expect(reelFrames(project)).toBe(144);
  });

  test('reading at another rate changes k₀ and not a single vertex', () => {
    const project = setReadAs(parade(), 'bell', rate(24));
    expect(clipSlope(project, clipOf(project))).toBe(1);
    expect(clipOf(project).map).toBe(clipOf(parade()) && clipOf(project).map);
    expect(clipOf(project).map).toEqual(clipOf(parade()).map);
  });

  test('a tie is one for each moment, and goes with its moment or its cue', () => {
    const marked = addCue(
      addCue(addMoment(parade(), 'bell', { id: 'm', frame: 100, name: '' }), { id: 'a', frame: 9, name: '' }),
      {
        id: 'b',
        frame: 30,
        name: '',
      },
    );
    const tied = tie(tie(marked, 'c1', 'm', 'a'), 'c1', 'm', 'b');
    expect(clipOf(tied).ties).toEqual([{ momentId: 'm', cueId: 'b' }]);
    expect(clipOf(removeCue(tied, 'b')).ties).toEqual([]);
    expect(clipOf(removeCue(tied, 'a')).ties).toHaveLength(1);
    expect(clipOf(removeMoment(tied, 'bell', 'm')).ties).toEqual([]);
    expect(clipOf(untie(tied, 'c1', 'm')).ties).toEqual([]);
    const { project, conflicts } = landClip(tied, 'c1');
    expect(conflicts).toEqual([]);
    expect(positionAt(clipOf(project).map, 30)).toBeCloseTo(100, 6);
    expect(parseProject(JSON.parse(JSON.stringify(project)))).toEqual(project);
  });

  test('what gives: only what comes before the cue, only what is beside it, or no speed at all', () => {
    const map = (t: readonly number[], s: readonly number[]) => ({
      vertices: t.map((x, i) => ({ t: x, s: s[i]! })),
      bends: t.map(() => ({ widthFrames: 0, ease: 'soft' as const })),
    });
    let project = updateClip(parade(), 'c1', (clip) => ({
      ...clip,
      map: map([0, 10, 20, 30, 40], [20, 70, 120, 170, 220]),
    }));
    project = addCue(addMoment(project, 'bell', { id: 'm', frame: 110, name: '' }), { id: 'q', frame: 20, name: '' });
    const landed = (gives: 'before' | 'beside' | 'start', freeEnd: boolean) => {
      const answer = landClip(tie(project, 'c1', 'm', 'q'), 'c1', { gives, freeEnd });
      expect(answer.conflicts).toEqual([]);
      const { map: bent } = clipOf(answer.project);
      expect(positionAt(bent, 20)).toBeCloseTo(110, 6);
      return bent.vertices.slice(1).map((v, i) => (v.s - bent.vertices[i]!.s) / (v.t - bent.vertices[i]!.t));
    };
    for (const freeEnd of [true, false])
      expect(
        landed('before', freeEnd)
          .slice(-2)
          .map((v) => Math.round(v * 1e6) / 1e6),
      ).toEqual([5, 5]);
    const beside = landed('beside', false);
    expect([beside[0], beside.at(-1)]).toEqual([5, 5]);
    expect(beside[1]).toBeLessThan(5);
    expect(landed('start', false)).toEqual([5, 5, 5, 5]);
  });

  test('moments and cues stay in order, one to a place', () => {
    let project = addMoment(parade(), 'bell', { id: 'b', frame: 200, name: '' });
    project = addMoment(addMoment(project, 'bell', { id: 'a', frame: 100, name: '' }), 'bell', {
      id: 'c',
      frame: 200,
      name: '',
    });
    expect(project.sources[0]!.moments.map((m) => m.id)).toEqual(['a', 'b']);
    project = updateCue(
      addCue(addCue(project, { id: 'x', frame: 30, name: '' }), { id: 'y', frame: 10, name: '' }),
      'x',
      { frame: 2 },
    );
    expect(project.reel.cues.map((c) => c.id)).toEqual(['x', 'y']);
    expect(() => addMoment(project, 'bell', { id: 'd', frame: 360, name: '' })).toThrow(/frames 0 to 359/);
    expect(() => removeSource(project, 'bell')).toThrow(/still uses it/);
  });
});

describe('how in-betweens are made', () => {
  const bent = () =>
    updateClip(parade(), 'c1', (clip) => ({
      ...clip,
      map: {
        vertices: [0, 20, 40, 60].map((t) => ({ t, s: t * 5 })),
        bends: [0, 4, 4, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
      },
    }));

  test('a clip follows the reel until it says otherwise', () => {
    const project = bent();
    const onReel: Project = {
      ...project,
      reel: { ...project.reel, method: 'flow', tuning: { trust: 0.5, keenness: 0 } },
    };
    expect(interpolationOf(onReel, clipOf(onReel))).toMatchObject({ method: 'flow', tuning: { trust: 0.5 } });
    const own = updateClip(onReel, 'c1', (clip) => ({ ...clip, method: 'mix', tuning: DEFAULT_TUNING }));
    expect(interpolationOf(own, clipOf(own))).toMatchObject({ method: 'mix', tuning: DEFAULT_TUNING });
    expect(clipOf(backToPlain(own, 'c1'))).toMatchObject({ method: null, tuning: null, mends: [], reachMethods: [] });
  });

  test('a reach keeps its own way when vertices come and go before it, and through a split and a join', () => {
    const project = setReachMethod(setReachMethod(bent(), 'c1', 2, 'mix'), 'c1', 0, 'step');
    expect(clipOf(project).reachMethods).toEqual([
      { reach: 0, method: 'step' },
      { reach: 2, method: 'mix' },
    ]);
    const ways = (p: Project) =>
      interpolationOf(p, clipOf(p)).stretches.map(({ from, to, method }) => [from, to, method]);
    expect(ways(project)).toEqual([
      [-Infinity, 20, 'step'],
      [40, Infinity, 'mix'],
    ]);
    const added = updateClip(project, 'c1', (clip) => withMap(clip, addVertex(clip.map, 30).map));
    expect(ways(added)).toEqual(ways(project));
    const split = splitClip(project, 'c1', 30, 'c2');
    expect(clipOf(split).reachMethods).toEqual([{ reach: 0, method: 'step' }]);
    expect((split.reel.items[1] as Clip).reachMethods).toEqual([{ reach: 1, method: 'mix' }]);
    expect(ways(mergeClips(split, 'c1')).map(([, , method]) => method)).toEqual(['step', 'mix']);
    expect(clipOf(setReachMethod(project, 'c1', 2, null)).reachMethods).toHaveLength(1);
  });

  test('another file behind the footage keeps what of a mend it still has', () => {
    const mends = [30, 300].map((from, i) => ({ id: `m${i}`, from, to: from + 20, way: 'mix' as const, soft: 1 }));
    const project = updateClip(parade(), 'c1', (clip) => ({ ...clip, mends }));
    expect(clipOf(replaceSource(project, 'bell', 310, rate(120))).mends).toEqual([mends[0], { ...mends[1]!, to: 310 }]);
    expect(clipOf(replaceSource(project, 'bell', 200, rate(120))).mends).toEqual([mends[0]]);
  });
});

/** Clips of a document from before they were heard stay unheard. */
const unheard = (project: Project): Project =>
  mapClips(project, (clip) => ({ ...clip, sound: { ...clip.sound, mode: 'mute' } }));

describe('the door', () => {
  const broken = (change: (document: any) => void) => {
    const document = JSON.parse(JSON.stringify(parade()));
    change(document);
    return () => parseProject(document);
  };
  test.each<[string, (document: any) => void, RegExp]>([
    ['another format', (d) => (d.format = 'x'), /not an Idle Bend project/],
    ['a newer version', (d) => (d.version = 99), /a newer one wrote it/],
    ['an unknown field', (d) => (d.reel.tempo = 1), /"tempo"/],
    ['a clip without source', (d) => (d.reel.items[0].sourceId = 'gone'), /"gone" is not among/],
    [
      'a map that goes back in time',
      (d) => (d.reel.items[0].map.vertices[1].t = -1),
      /reel\.items\[0\]\.map\.vertices\[1\]/,
    ],
    ['a rate of zero', (d) => (d.reel.rate.num = 0), /reel\.rate/],
    [
      'a tie to nothing',
      (d) => (d.reel.items[0].ties = [{ momentId: 'm', cueId: 'q' }]),
      /ties\[0\]\.momentId: "m" is not a moment/,
    ],
    ['a way of making nobody knows', (d) => (d.reel.method = 'melt'), /reel\.method: must be one of/],
    [
      'trust beyond all bounds',
      (d) => (d.reel.items[0].tuning = { trust: 2, keenness: 0 }),
      /items\[0\]\.tuning\.trust/,
    ],
    [
      'a mend beyond the source',
      (d) => d.reel.items[0].mends.push({ id: 'm', from: 300, to: 400, way: 'mix', soft: 1 }),
      /mends\[0\]: must be a stretch/,
    ],
    [
      'a mend that ends before it begins',
      (d) => d.reel.items[0].mends.push({ id: 'm', from: 30, to: 30, way: 'mix', soft: 1 }),
      /mends\[0\]/,
    ],
    [
      'a way for a reach that is not there',
      (d) => d.reel.items[0].reachMethods.push({ reach: 7, method: 'mix' }),
      /reachMethods\[0\]\.reach/,
    ],
    ['an id twice', (d) => d.reel.items.push(d.reel.items[0]), /twice/],
    ['a moment outside', (d) => d.sources[0].moments.push({ id: 'm', frame: 400, name: '' }), /moments\[0\]\.frame/],
  ])('%s is refused by name', (_, change, message) => expect(broken(change)).toThrow(message));

  test('anything at all gives a project or a named error', () => {
    fc.assert(
      fc.property(fc.jsonValue(), fc.array(fc.string({ maxLength: 8 }), { maxLength: 4 }), (value, path) => {
        const document: any = JSON.parse(JSON.stringify(parade()));
        let place = document;
        const keys = path.length ? path : ['reel'];
        for (const [i, key] of keys.entries()) {
          const own = Object.keys(place);
          const next = own.length ? own[key.length % own.length]! : key;
          if (i === keys.length - 1 || typeof place[next] !== 'object' || place[next] === null) {
            place[next] = value;
            break;
          }
          place = place[next];
        }
        try {
          parseProject(document);
        } catch (error) {
          expect(error).toBeInstanceOf(InvalidInput);
        }
      }),
      { numRuns: 2000 },
    );
  });

  test('version 1, from before moments could be tied, is read', () => {
    const old = JSON.parse(JSON.stringify(parade()));
    old.version = 1;
    delete old.reel.items[0].ties;
    expect(parseProject(old)).toEqual(unheard(parade()));
  });

  test('version 4, from before there were sounds, is read; its cues are the reel’s own', () => {
    const now = addCue(parade(), { id: 'bell', frame: 12.5, name: 'bell' });
    const old = JSON.parse(JSON.stringify(now));
    old.version = 4;
    delete old.reel.sounds;
    for (const field of ['pin', 'fills']) delete old.reel.items[0][field];
    for (const cue of old.reel.cues) delete cue.beat;
    expect(parseProject(old)).toEqual(unheard(now));
  });

  test('version 3, from before a reel had a way of making frames, is read; its clips keep theirs', () => {
    const old = JSON.parse(JSON.stringify(updateClip(parade(), 'c1', (clip) => ({ ...clip, method: 'mix' }))));
    old.version = 3;
    for (const field of ['method', 'tuning']) delete old.reel[field];
    for (const field of ['tuning', 'reachMethods', 'mends']) delete old.reel.items[0][field];
    expect(parseProject(old)).toEqual(unheard(updateClip(parade(), 'c1', (clip) => ({ ...clip, method: 'mix' }))));
  });

  test('version 5, from before framings, groups and a range of the reel, is read', () => {
    const old = JSON.parse(JSON.stringify(parade()));
    old.version = 5;
    delete old.reel.range;
    for (const item of old.reel.items) delete item.framing;
    expect(parseProject(old)).toEqual(unheard(parade()));
  });

  test('version 6, from before joins, blur, accents and the clips’ own sounds, is read', () => {
    const old = JSON.parse(JSON.stringify(parade()));
    old.version = 6;
    for (const field of ['joins', 'blur', 'accents', 'ceiling']) delete old.reel[field];
    for (const item of old.reel.items) for (const field of ['blur', 'steady', 'sound']) delete item[field];
    expect(parseProject(old)).toEqual(unheard(parade()));
  });

  test('older versions climb one step at a time; a missing step is said', () => {
    const ladder = {
      2: (d: Record<string, unknown>) => ({ ...d, b: d['a'] }),
      3: (d: Record<string, unknown>) => ({ ...d, c: d['b'] }),
    };
    expect(migrate({ version: 1, a: 7 }, 3, ladder)).toEqual({ version: 3, a: 7, b: 7, c: 7 });
    expect(() => migrate({ version: 1 }, 3, { 3: ladder[3] })).toThrow(/1 cannot be read/);
  });
});

describe('what edits keep', () => {
  const bent = () =>
    updateClip(parade(), 'c1', (clip) => ({
      ...clip,
      map: {
        vertices: [0, 20, 40, 60].map((t) => ({ t, s: t * 5 })),
        bends: [0, 4, 4, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
      },
    }));
  const saved = (project: Project) => parseProject(JSON.parse(JSON.stringify(project)));

  test('a reach’s sound can be set again and again, and the document can be saved', () => {
    const once = setReachSound(bent(), 'c1', 1, 'keep');
    const twice = setReachSound(setReachSound(once, 'c1', 2, 'mute'), 'c1', 1, 'mute');
    expect(clipOf(saved(twice)).sound.reaches).toEqual([
      { reach: 1, mode: 'mute' },
      { reach: 2, mode: 'mute' },
    ]);
    expect(clipOf(setReachSound(twice, 'c1', 2, null)).sound.reaches).toHaveLength(1);
  });

  test('locks, methods and sounds stay with their reaches when a bend is added before them', () => {
    const own = lockReach(setReachSound(setReachMethod(bent(), 'c1', 2, 'mix'), 'c1', 2, 'keep'), 'c1', 2, true);
    const added = clipOf(updateClip(own, 'c1', (clip) => withMap(clip, addVertex(clip.map, 10).map)));
    expect(added).toMatchObject({
      locks: [3],
      reachMethods: [{ reach: 3, method: 'mix' }],
      sound: { reaches: [{ reach: 3, mode: 'keep' }] },
    });
  });

  test('a moment is a frame of its source; one past the last is refused by reader and edit alike', () => {
    const last = addMoment(parade(), 'bell', { id: 'm', frame: 359, name: '' });
    expect(saved(last)).toEqual(last);
    expect(() => addMoment(parade(), 'bell', { id: 'm', frame: 360, name: '' })).toThrow(/0 to 359/);
    const past = {
      ...last,
      sources: last.sources.map((s) => ({ ...s, moments: [{ id: 'm', frame: 360, name: '' }] })),
    };
    expect(() => saved(past)).toThrow(/moments\[0\]/);
  });

  test('a moment at which things hit is a knot of its clips, until nothing is said of it; the kind is kept and checked', () => {
    const marked = addMoment(parade(), 'bell', { id: 'm', frame: 184, name: '' });
    const hits = updateMoment(marked, 'bell', 'm', { kind: 'hit' });
    expect(saved(hits)).toEqual(hits);
    expect(interpolationOf(hits, clipOf(hits)).knots).toEqual([184]);
    const plain = updateMoment(hits, 'bell', 'm', { kind: undefined });
    expect(interpolationOf(plain, clipOf(plain)).knots).toEqual([]);
    expect(saved(plain)).toEqual(marked);
    const odd = {
      ...hits,
      sources: [{ ...hits.sources[0]!, moments: [{ id: 'm', frame: 184, name: '', kind: 'jump' }] }],
    };
    expect(() => saved(odd as unknown as Project)).toThrow(/moments\[0\]\.kind/);
  });

  test('fades may take all of a sound between them, and no more', () => {
    const sound = {
      ...{ id: 's', footageId: 'f', name: 's', startSeconds: 0, fromSeconds: 1, toSeconds: 5, gainDb: 0 },
      beats: null,
    };
    const laid = addSound(parade(), { ...sound, fadeInSeconds: 3, fadeOutSeconds: 1 });
    expect(saved(laid)).toEqual(laid);
    expect(() => addSound(parade(), { ...sound, fadeInSeconds: 3, fadeOutSeconds: 1.1 })).toThrow(
      /longer than the sound/,
    );
  });
});
