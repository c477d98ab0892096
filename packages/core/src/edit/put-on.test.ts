import { describe, expect, test } from '@jest/globals';
import type { Clip } from '../model/clip.js';
import { FITTED } from '../model/framing.js';
import { emptyProject, parseProject, type Project } from '../model/project.js';
import { groupItems } from '../group/group-items.js';
import { placeItems } from '../reel/places.js';
import { rate } from '../time/rate.js';
import { reverseMap, setClipSpeed } from '../time-map/edit.js';
import { mapDuration } from '../time-map/time-map.js';
import { addCuesAtCuts } from './cues-at-cuts.js';
import { conform, setReachSound, updateClip } from './edit.js';
import { withMap } from '../reel/with-map.js';
import { putOnMany, type ForMany } from './put-on-many.js';
import { layUnderReel, putOnReel, readFootageAs, withSource } from './put-on-reel.js';

const FILE = { id: 'bell', name: 'marble.bell.mov' };
const PICTURE = { rate: rate(120), frames: 360, width: 720, height: 577, pixelAspect: { num: 16, den: 15 } };
const clipOf = (project: Project, id: string) => project.reel.items.find((item) => item.id === id) as Clip;

describe('footage on the reel', () => {
  test('the first clip gives an empty reel its size, in square and even pixels; the next do not', () => {
    const first = putOnReel(emptyProject(rate(24)), FILE, PICTURE, { clipId: 'a' });
    expect(first.reel).toMatchObject({ width: 768, height: 578 });
    const second = putOnReel(first, { id: 'whip', name: 'whip.mp4' }, { ...PICTURE, width: 64 }, { clipId: 'b' });
    expect(second.reel).toMatchObject({ width: 768, height: 578 });
    expect(second.sources.map(({ name }) => name)).toEqual(['marble.bell', 'whip']);
    expect(parseProject(JSON.parse(JSON.stringify(second)))).toEqual(second);
  });

  test('an in and an out point choose the part, both frames included', () => {
    const project = putOnReel(emptyProject(rate(24)), FILE, PICTURE, { clipId: 'a', part: { first: 100, last: 199 } });
    const { map } = clipOf(project, 'a');
    expect(map.vertices.map(({ s }) => s)).toEqual([100, 200]);
    expect(mapDuration(map)).toBe(20);
  });

  test('footage is a source once, and can be read at another rate before it is on the reel', () => {
    const once = withSource(emptyProject(rate(24)), FILE, PICTURE);
    expect(withSource(once, FILE, PICTURE)).toBe(once);
    const slow = readFootageAs(emptyProject(rate(24)), FILE, PICTURE, rate(24));
    expect(slow.sources).toMatchObject([{ id: 'bell', readAs: rate(24), nativeRate: rate(120) }]);
  });

  test('a sound lies under the reel from its beginning, and is never too short to be one', () => {
    const project = layUnderReel(emptyProject(rate(24)), { id: 'march', name: 'march.ogg' }, 0, 's');
    expect(project.reel.sounds).toMatchObject([
      { id: 's', footageId: 'march', name: 'march', startSeconds: 0, toSeconds: 0.1 },
    ]);
    expect(parseProject(JSON.parse(JSON.stringify(project)))).toEqual(project);
  });
});

describe('one thing on many clips', () => {
  const two = () => {
    const one = putOnReel(emptyProject(rate(24)), FILE, PICTURE, { clipId: 'a' });
    return putOnReel(one, { id: 'whip', name: 'whip.mp4' }, { ...PICTURE, frames: 240 }, { clipId: 'b' });
  };

  test('a curve stretched to another clip keeps that clip’s content and slot', () => {
    const bent = updateClip(two(), 'a', (clip) => withMap(clip, setClipSpeed(clip.map, 0.5, 5)));
    const { project, outcomes } = putOnMany(bent, ['a', 'b'], clipOf(bent, 'a'), { kind: 'curve', how: 'stretch' });
    expect(outcomes.map(({ refusal }) => refusal)).toEqual([undefined, undefined]);
    expect(outcomes[0]!.after).toBe(clipOf(bent, 'a'));
    expect(clipOf(project, 'b').map.vertices.at(-1)!.s).toBe(240);
  });

  test('framing, sound and speed are put on all; what a clip’s reaches say of their sound stays', () => {
    const project = setReachSound(two(), 'b', 0, 'mute');
    const put = (what: ForMany) => clipOf(putOnMany(project, ['a', 'b'], clipOf(project, 'a'), what).project, 'b');
    const framing = { ...FITTED, fit: 'fill' as const, scale: 1.2 };
    expect(put({ kind: 'framing', framing }).framing).toEqual(framing);
    expect(put({ kind: 'sound', sound: { mode: 'keep', gainDb: -6 } }).sound).toMatchObject({
      ...{ mode: 'keep', gainDb: -6, freeze: 'silence', reaches: [{ reach: 0, mode: 'mute' }] },
    });
    // 240 frames of 120 fps are 48 frames of the reel.
    expect(mapDuration(put({ kind: 'speed', speed: 0.25 }).map)).toBeCloseTo(4 * 48, 9);
    const refused = putOnMany(project, ['a'], clipOf(project, 'a'), { kind: 'sound', sound: { gainDb: 99 } });
    expect(refused.outcomes[0]!.refusal).toMatch(/99/);
    expect(refused.project).toBe(project);
  });

  test('each kind of thing reaches every clip of the list and no other', () => {
    const project = two();
    const from = clipOf(project, 'a');
    const put = (what: Parameters<typeof putOnMany>[3]) => putOnMany(project, ['b', 'gone'], from, what);
    expect(put({ kind: 'method', method: 'mix' }).project.reel.items).toMatchObject([
      { method: from.method },
      { method: 'mix' },
    ]);
    expect(put({ kind: 'readAs', rate: '60' }).project.sources.map(({ readAs }) => readAs)).toEqual([
      rate(120),
      rate(60),
    ]);
    expect(
      clipOf(put({ kind: 'blur', blur: { kind: 'shutter', angle: 180, always: false } }).project, 'b').blur,
    ).toEqual({
      kind: 'shutter',
      angle: 180,
      always: false,
    });
    expect(put({ kind: 'plain' }).outcomes).toHaveLength(1);
  });

  test('conformed, a clip shows every source frame once, also backward; other clips of the footage show what they did', () => {
    const project = updateClip(two(), 'a', (c) => withMap(c, reverseMap(c.map)));
    const conformed = ['a', 'b'].map(
      (id) => putOnMany(project, [id], clipOf(project, id), { kind: 'conform' }).project,
    );
    for (const [i, id] of ['a', 'b'].entries()) {
      const { map, sourceId } = clipOf(conformed[i]!, id);
      expect(map.vertices).toHaveLength(2);
      expect(Math.abs(map.vertices[1]!.s - map.vertices[0]!.s)).toBeCloseTo(map.vertices[1]!.t, 9);
      expect(map.vertices[1]!.s < map.vertices[0]!.s).toBe(id === 'a');
      expect(conformed[i]!.sources.find((s) => s.id === sourceId)!.readAs).toEqual(project.reel.rate);
    }
    expect(clipOf(conformed[0]!, 'b')).toEqual(clipOf(project, 'b'));
    const nested = groupItems(project, ['a', 'b'], { clipId: 'g', sourceId: 'h', name: 'both' });
    expect(() => conform(nested, 'g')).toThrow(/group/);
  });

  test('a clip that refuses is told, and the others take it', () => {
    const { outcomes } = putOnMany(two(), ['a', 'b'], clipOf(two(), 'a'), { kind: 'readAs', rate: '0' });
    expect(outcomes.every(({ after, refusal }) => after === undefined && refusal !== undefined)).toBe(true);
  });

  test('a cue at every cut', () => {
    const cued = addCuesAtCuts(two(), () => 'q');
    expect(cued.reel.cues.map(({ frame }) => frame)).toEqual([placeItems(two())[1]!.start]);
  });
});
