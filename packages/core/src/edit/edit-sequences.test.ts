import { easeArbitrary } from '../../test/arbitraries.js';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { adviseClip } from '../advice/advice.js';
import { shifted } from '../beats/grid.js';
import { InvalidInput } from '../foundation/errors.js';
import { groupItems, ungroup } from '../group/group-items.js';
import { insideGroup, withInside } from '../group/inside.js';
import { landClip } from '../landing/land-clip.js';
import type { Clip } from '../model/clip.js';
import { isGroup, type Source } from '../model/group.js';
import { emptyProject, parseProject, type Project } from '../model/project.js';
import { clipSlope, sourceOf } from '../reel/clips.js';
import { pinnedFrame, placeItems } from '../reel/places.js';
import { withMap } from '../reel/with-map.js';
import { frameOfSecond, reelBeats } from '../reel/sound-time.js';
import { usableFrames } from '../sampling/dropped-repeats.js';
import { clipFrameCount } from '../sampling/frame-count.js';
import { CLIP_SHAPES, stretchShape } from '../shape/clip-shapes.js';
import {
  addVertex,
  fitDuration,
  moveVertex,
  removeVertex,
  reverseMap,
  setBend,
  setClipSpeed,
  setReachBends,
  setReachSpeed,
} from '../time-map/edit.js';
import { positionAt } from '../time-map/evaluate.js';
import { freezeAt } from '../time-map/freeze.js';
import { ladder } from '../time-map/ladder.js';
import { bounceRange, fitRange, scaleRangeSpeed, setRangeSpeed, turnRange } from '../time-map/range.js';
import { mapDuration, type TimeMap } from '../time-map/time-map.js';
import { reachTurn } from '../time-map/turn.js';
import { rate } from '../time/rate.js';
import * as edits from './edit.js';
import * as reel from './reel-edit.js';
import * as sounds from './sounds.js';

/** The schema that is in the documents. */
const isProject = new Ajv2020().compile(JSON.parse(readFileSync('docs/schemas/project.schema.json', 'utf8')));

const source: Source = {
  id: 'bell',
  name: 'marble-bell',
  frames: 360,
  nativeRate: rate(120),
  readAs: rate(120),
  moments: [],
  droppedRepeats: null,
};

const parade = edits.appendClip(edits.addSource(emptyProject(rate(24)), source), 'c0', 'bell');

/** What an editor may do next, with numbers a drag or a field could give. */
interface Move {
  readonly name: string;
  readonly pick: number;
  readonly x: number;
  readonly y: number;
  readonly ease: TimeMap['bends'][number]['ease'];
}

type MapEdit = (map: TimeMap, move: Move, k0: number) => TimeMap;

const keepOf = (pick: number) => (pick % 2 ? 'slot' : 'content');

const ends = (map: TimeMap, x: number, y: number) => {
  const [a, b] = [x, y].map((u) => Math.round(u * mapDuration(map)));
  return [Math.min(a!, b!), Math.max(a!, b!)] as const;
};

const speedOf = (y: number) => (y - 0.25) * 8;

const MAP_EDITS: Readonly<Record<string, MapEdit>> = {
  speed: (map, { pick, y }, k0) => setReachSpeed(map, pick % (map.vertices.length - 1), speedOf(y), k0, keepOf(pick)),
  clipSpeed: (map, { y }, k0) => setClipSpeed(map, speedOf(y), k0),
  fit: (map, { y }) => fitDuration(map, 1 + Math.round(y * 300)),
  drag: (map, { pick, x, y }) =>
    moveVertex(
      map,
      pick % map.vertices.length,
      { t: x * mapDuration(map) * 1.2, s: y * 360 },
      pick % 3 ? 'free' : 'left',
    ),
  bend: (map, { x, y, ease }) => addVertex(map, Math.round(x * mapDuration(map)), { widthFrames: y * 30, ease }).map,
  widen: (map, { pick, y, ease }) => setBend(map, pick % map.vertices.length, { widthFrames: y * 60, ease }),
  match: (map, { pick, y, ease }) =>
    setReachBends(map, pick % (map.vertices.length - 1), { widthFrames: y * 40, ease }),
  remove: (map, { pick }) => removeVertex(map, pick % map.vertices.length),
  reverse: (map) => reverseMap(map),
  freeze: (map, { x, y }) =>
    freezeAt(map, Math.round(x * mapDuration(map)), 1 + Math.round(y * 20), { widthFrames: 6, ease: 'soft' }).map,
  rangeSpeed: (map, { x, y, pick }, k0) =>
    setRangeSpeed(map, ...ends(map, x, y), ((pick % 40) - 8) / 10, k0, keepOf(pick), { widthFrames: 8, ease: 'silk' }),
  hurry: (map, { x, y, pick }, k0) => scaleRangeSpeed(map, ...ends(map, x, y), 0.2 + (pick % 40) / 8, k0, keepOf(pick)),
  turn: (map, { x, y }) => turnRange(map, ...ends(map, x, y)),
  bounce: (map, { x, y, ease }) => bounceRange(map, ...ends(map, x, y), { widthFrames: 6, ease }),
  fitRange: (map, { x, y, pick }) => fitRange(map, ...ends(map, x, y), 1 + (pick % 80)),
  reachTurn: (map, { pick }) => reachTurn(map, pick % map.vertices.length),
  steps: (map, { x, pick }, k0) =>
    ladder(
      map,
      Math.round(x * mapDuration(map)),
      { speeds: [0.75, 0.5, 0.25], framesEach: 1 + (pick % 12) },
      k0,
      keepOf(pick),
    ),
  shape: (map, { pick }) => stretchShape(CLIP_SHAPES[pick % CLIP_SHAPES.length]!.map, map),
};

const PROJECT_EDITS: Readonly<Record<string, (project: Project, clip: Clip, move: Move, id: string) => Project>> = {
  split: (project, clip, { x }, id) => edits.splitClip(project, clip.id, Math.round(x * mapDuration(clip.map)), id),
  join: (project, clip) => edits.mergeClips(project, clip.id),
  reorder: (project, clip, { pick }) => edits.moveItem(project, clip.id, pick % 5),
  another: (project, _, { x, y }, id) =>
    edits.appendClip(project, id, 'bell', Math.round(Math.min(x, y) * 100), 100 + Math.round(Math.max(x, y) * 60)),
  plain: (project, clip) => edits.backToPlain(project, clip.id),
  keep: (project, clip, _, id) => edits.keepVersion(project, clip.id, id, id),
  use: (project, clip, { pick }) =>
    edits.useVersion(project, clip.id, clip.versions[pick % (clip.versions.length || 1)]?.id ?? ''),
  lock: (project, clip, { pick }) => edits.lockReach(project, clip.id, pick % (clip.map.vertices.length - 1), true),
  moment: (project, _, { pick }, id) => edits.addMoment(project, 'bell', { id, frame: pick % 360, name: id }),
  cue: (project, _, { x }, id) => edits.addCue(project, { id, frame: x * 120, name: id }),
  unCue: (project, _, { pick }) =>
    edits.removeCue(project, project.reel.cues[pick % (project.reel.cues.length || 1)]?.id ?? ''),
  land: (project, clip, { pick }) => {
    const moment = sourceOf(project, clip).moments[0];
    const cue = project.reel.cues[pick % (project.reel.cues.length || 1)];
    return moment && cue ? landClip(edits.tie(project, clip.id, moment.id, cue.id), clip.id).project : project;
  },
  readAs: (project, _, { pick }) => edits.setReadAs(project, 'bell', rate([24, 60, 120][pick % 3]!)),
  gap: (project, _, { pick }, id) => reel.insertGap(project, pick % 6, id, 1 + (pick % 50)),
  leaveGap: (project, clip, _, id) =>
    project.reel.items.filter((i) => i.kind === 'clip').length > 1 ? reel.leaveGap(project, clip.id, id) : project,
  duplicate: (project, clip, _, id) => reel.duplicateClip(project, clip.id, id),
  replace: (project, clip) => reel.replaceClip(project, clip.id, 'bell'),
  trimEnd: (project, clip, { x }) => reel.trimEnd(project, clip.id, Math.round(x * 200)),
  trimStart: (project, clip, { x }) => reel.trimStart(project, clip.id, Math.round((x - 0.5) * 100)),
  stretch: (project, clip, { x }) => reel.stretchClip(project, clip.id, 1 + Math.round(x * 200)),
  slip: (project, clip, { x }) => reel.slipClip(project, clip.id, (x - 0.5) * 200),
  pin: (project, clip, { pick }) =>
    reel.pinClip(project, clip.id, project.reel.cues[pick % (project.reel.cues.length || 1)]?.id ?? null),
  fills: (project, clip, { pick }) => reel.setFills(project, clip.id, pick % 2 === 0),
  reelRate: (project, _, { pick }) => reel.setReelRate(project, rate([24, 25, 30, 60][pick % 4]!)),
  sound: (project, _, { x, y }, id) =>
    sounds.addSound(project, {
      id,
      footageId: 'tune',
      name: id,
      startSeconds: x * 4 - 2,
      fromSeconds: y,
      toSeconds: y + 8,
      gainDb: 0,
      fadeInSeconds: x,
      fadeOutSeconds: y,
      beats: { times: [1, 1.5, 2, 2.5, 3, 3.5], bar: { beats: 4, first: 1 } },
    }),
  onBeat: (project, clip, { pick }, id) => {
    const beat = reelBeats(project)[pick % 7];
    if (!beat) return project;
    const put = sounds.cueOnSound(project, beat.soundId, beat.second, id);
    return pick % 2 ? put.project : reel.pinClip(put.project, clip.id, put.cueId);
  },
  moveSound: (project, _, { x, pick }) =>
    sounds.updateSound(project, project.reel.sounds[pick % (project.reel.sounds.length || 1)]?.id ?? '', {
      startSeconds: x * 6 - 3,
    }),
  halfLater: (project, _, { pick }) => {
    const sound = project.reel.sounds[pick % (project.reel.sounds.length || 1)];
    return sound?.beats ? sounds.setBeats(project, sound.id, shifted(sound.beats, 0.5)) : project;
  },
  noSound: (project, _, { pick }) =>
    sounds.removeSound(project, project.reel.sounds[pick % (project.reel.sounds.length || 1)]?.id ?? ''),
  bind: (project, _, { pick }, id) => {
    const from = pick % project.reel.items.length;
    const ids = project.reel.items.slice(from, from + 2 + (pick % 3)).map((item) => item.id);
    return groupItems(project, ids, { clipId: `${id}-g`, sourceId: `${id}-s`, name: id });
  },
  unbind: (project, clip) => ungroup(project, clip.id),
  inside: (project, clip, _, id) => {
    const group = sourceOf(project, clip);
    if (!isGroup(group)) return project;
    const view = insideGroup(project, group.id);
    return withInside(
      project,
      group.id,
      edits.appendClip(reel.trimEnd(view, view.reel.items.find((i) => i.kind === 'clip')!.id, 20), id, 'bell', 5, 9),
    );
  },
  framing: (project, clip, { x, y }) => reel.setFraming(project, clip.id, { fit: 'fill', scale: 0.1 + x, x, y }),
  range: (project, _, { x, y }) => reel.setReelRange(project, { from: Math.round(x * 100), to: Math.round(y * 200) }),
  closeUp: (project, _, { pick }) =>
    edits.setDroppedRepeats(project, 'bell', pick % 2 ? null : { mode: 'close', repeats: [3, 7, 40, 41, 200] }),
};

const moves = fc.array(
  fc.record({
    name: fc.constantFrom(...Object.keys(MAP_EDITS), ...Object.keys(PROJECT_EDITS)),
    pick: fc.nat(1000),
    x: fc.double({ min: 0, max: 1, noNaN: true }),
    y: fc.double({ min: 0, max: 1, noNaN: true }),
    ease: easeArbitrary,
  }),
  { minLength: 1, maxLength: 14 },
);

function carryOut(project: Project, move: Move, id: string): Project {
  const clips = project.reel.items.filter((item) => item.kind === 'clip');
  const clip = clips[move.pick % clips.length]!;
  const mapEdit = MAP_EDITS[move.name];
  if (!mapEdit) return PROJECT_EDITS[move.name]!(project, clip, move, id);
  return edits.updateClip(project, clip.id, (c) => withMap(c, mapEdit(c.map, move, clipSlope(project, c))));
}

describe('any sequence of edits', () => {
  test('leaves a sound document, refuses in words, and undoes to the very document before', () => {
    fc.assert(
      fc.property(moves, (sequence) => {
        let project = parade;
        const past: { document: Project; text: string }[] = [];
        sequence.forEach((move, i) => {
          past.push({ document: project, text: JSON.stringify(project) });
          try {
            project = carryOut(project, move, `n${i}`);
          } catch (error) {
            if (!(error instanceof InvalidInput)) throw error;
          }
        });
        project = reel.reconcileReel(project);
        expect(reel.reconcileReel(project)).toEqual(project);
        const missed = reel.missedPins(project).map(({ clipId }) => clipId);
        for (const { item, start } of placeItems(project))
          if (!missed.includes(item.id)) expect(pinnedFrame(project, item) ?? start).toBe(start);
        for (const { frame, beat } of project.reel.cues) {
          const sound = project.reel.sounds.find((s) => s.id === beat?.soundId);
          if (beat) expect(frame).toBeCloseTo(frameOfSecond(project, sound!, beat.second), 9);
        }
        const sent = JSON.stringify(project);
        expect(parseProject(JSON.parse(sent))).toEqual(JSON.parse(sent));
        if (!isProject(JSON.parse(sent))) throw new Error(JSON.stringify(isProject.errors?.[0]));
        for (const item of project.reel.items) {
          if (item.kind !== 'clip') continue;
          const frames = clipFrameCount(item.map, usableFrames(sourceOf(project, item)));
          expect(frames).toBeGreaterThanOrEqual(1);
          for (const k of [0, frames >> 1, frames - 1]) expect(Number.isFinite(positionAt(item.map, k))).toBe(true);
          for (const reach of item.locks) expect(reach).toBeLessThan(item.map.vertices.length - 1);
          adviseClip(project, item);
        }
        for (const { document, text } of past) expect(JSON.stringify(document)).toBe(text);
      }),
      { numRuns: 2000 },
    );
  });
});

test('the schema refuses what the reader refuses: a field too many anywhere, one that is missing, one of another kind', () => {
  let whole = edits.addCue(edits.addMoment(parade, 'bell', { id: 'm', frame: 30, name: 'bell' }), {
    id: 'q',
    frame: 20,
    name: '',
    beat: null,
  });
  whole = edits.tie(
    sounds.addSound(whole, {
      id: 's',
      footageId: 'march',
      name: 'march',
      startSeconds: 0,
      fromSeconds: 0,
      toSeconds: 9,
      gainDb: 0,
      fadeInSeconds: 0,
      fadeOutSeconds: 0,
      beats: { times: [1, 2], bar: { beats: 4, first: 0 } },
    }),
    'c0',
    'm',
    'q',
  );
  expect(isProject(JSON.parse(JSON.stringify(whole)))).toBe(true);
  const refused = (value: unknown) => {
    try {
      parseProject(value);
      return false;
    } catch {
      return true;
    }
  };
  const spoil = (value: any, change: (object: any) => void): void => {
    if (value === null || typeof value !== 'object') return;
    if (!Array.isArray(value)) change(value);
    for (const inside of Object.values(value)) spoil(inside, change);
  };
  let objects = 0;
  spoil(JSON.parse(JSON.stringify(whole)), () => objects++);
  expect(objects).toBeGreaterThan(20);
  for (let n = 0; n < objects; n++) {
    for (const wrong of ['more', 'less', 'other']) {
      const copy = JSON.parse(JSON.stringify(whole));
      let at = 0;
      spoil(copy, (object) => {
        if (at++ !== n) return;
        if (wrong === 'more') object.more = 1;
        else if (wrong === 'less') delete object[Object.keys(object)[0]!];
        else object[Object.keys(object)[0]!] = { other: true };
      });
      // A rate is read by its two numbers alone.
      if (wrong === 'more' && !refused(copy)) continue;
      expect([n, wrong, refused(copy), isProject(copy)]).toEqual([n, wrong, true, false]);
    }
  }
});
