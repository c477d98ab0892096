import type { ColourSpace } from '../colour/colour-space.js';
import { endedWithin, fitCleanly } from '../clean/fit.js';
import { InvalidInput } from '../foundation/errors.js';
import { reconcileGroups } from '../group/reconcile.js';
import { type Blur, checkBlur } from '../model/blur.js';
import type { Clip, ReelItem } from '../model/clip.js';
import { checkFraming, type Framing } from '../model/framing.js';
import type { Source } from '../model/group.js';
import type { RampJoin, RampUndo } from '../model/join.js';
import { checkDepth, type Project } from '../model/project.js';
import { checkReelSize, type Stretch } from '../model/reel.js';
import type { Steady } from '../model/steady.js';
import { reconcileJoins } from '../reel/ramps.js';
import { freeName, plainClip, sourceOf } from '../reel/clips.js';
import { pinnedFrame, placeItems, placeOf } from '../reel/places.js';
import { usableFrames } from '../sampling/dropped-repeats.js';
import { clipFrameCount } from '../sampling/frame-count.js';
import { fitDuration, fitFrames } from '../time-map/edit.js';
import { positionAt, slopeAt } from '../time-map/evaluate.js';
import { splitMap } from '../time-map/split.js';
import { scaledBend, TIME_EPSILON, type TimeMap } from '../time-map/time-map.js';
import { framesPerSecond, type Rate } from '../time/rate.js';
import { updateClip } from './edit.js';
import { withMap } from '../reel/with-map.js';
import { reconcileCues } from './sounds.js';

const withItems = (project: Project, items: readonly ReelItem[]): Project => ({
  ...project,
  reel: { ...project.reel, items },
});

function clipOf(project: Project, clipId: string): Clip {
  const item = project.reel.items.find(({ id }) => id === clipId);
  if (item?.kind !== 'clip') throw new InvalidInput('clip', 'is not on the reel any more');
  return item;
}

const replaced = (project: Project, id: string, by: readonly ReelItem[]): Project =>
  withItems(
    project,
    project.reel.items.flatMap((item) => (item.id === id ? by : [item])),
  );

function checkFrames(frames: number, field: string): void {
  if (!Number.isInteger(frames) || frames < 1 || frames > 1e7)
    throw new InvalidInput(field, `${frames} is not a length; write 1 frame or more`);
}

/** Puts a gap of black before item `index`; at the end without one. */
export function insertGap(project: Project, index: number, id: string, frames: number): Project {
  checkFrames(frames, 'gap');
  return withItems(project, project.reel.items.toSpliced(Math.max(0, index), 0, { kind: 'gap', id, frames }));
}

export function setGap(project: Project, gapId: string, frames: number): Project {
  checkFrames(frames, 'gap');
  return replaced(project, gapId, [{ kind: 'gap', id: gapId, frames }]);
}

/** Takes an item off the reel and leaves black in its place: nothing else moves. */
export function leaveGap(project: Project, itemId: string, gapId: string): Project {
  const placed = placeOf(project, itemId);
  if (!placed) throw new InvalidInput('clip', 'is not on the reel any more');
  return replaced(project, itemId, [{ kind: 'gap', id: gapId, frames: placed.frames }]);
}

/** The same clip once more, right after itself. */
export function duplicateClip(project: Project, clipId: string, newId: string): Project {
  const clip = clipOf(project, clipId);
  return replaced(project, clipId, [
    clip,
    { ...clip, id: newId, name: freeName(project, clip.name), ties: [], pin: null, versions: [] },
  ]);
}

/** Other footage in a clip's place, at 100 %, as long as it was where the footage lasts; a clip that fills its room fills it. */
export function replaceClip(project: Project, clipId: string, sourceId: string): Project {
  const placed = placeOf(project, clipId);
  const clip = clipOf(project, clipId);
  const source = project.sources.find(({ id }) => id === sourceId);
  if (!source || !placed) throw new InvalidInput('source', 'is not in the project any more');
  const plain = plainClip(clipId, source, project.reel.rate);
  const own = clipFrameCount(plain.map, usableFrames(source));
  const map = clip.fills
    ? fitDuration(plain.map, placed.frames)
    : own > placed.frames
      ? splitMap(plain.map, placed.frames)[0]
      : plain.map;
  const changed = replaced(project, clipId, [
    {
      ...plain,
      map,
      pin: clip.pin,
      fills: clip.fills,
      framing: clip.framing,
      blur: clip.blur,
      sound: { ...clip.sound, reaches: [] },
    },
  ]);
  checkDepth(changed);
  return changed;
}

/**
 * Gives a clip another length by its end: cut off, or going on as it ended, as far as the source lasts; what comes after
 * follows.
 */
export function trimEnd(project: Project, clipId: string, frames: number): Project {
  const clip = clipOf(project, clipId);
  return replaced(project, clipId, [
    withMap(clip, endedAt(clip.map, Math.max(1, Math.round(frames)), usableFrames(sourceOf(project, clip)))),
  ]);
}

function endedAt(map: TimeMap, frames: number, sourceFrames: number): TimeMap {
  const own = clipFrameCount(map, sourceFrames);
  if (frames < own) return splitMap(map, frames)[0];
  if (frames === own) return map;
  const last = map.vertices.length - 1;
  const { t, s } = map.vertices[last]!;
  const slope = slopeAt(map, t);
  // A freeze lasts as long as one likes; anything else ends with the source.
  const room = slope > 0 ? (sourceFrames - s) / slope : slope < 0 ? s / -slope : Infinity;
  const more = Math.max(0, Math.min(frames - t, room));
  return more <= TIME_EPSILON
    ? map
    : { ...map, vertices: map.vertices.with(last, { t: t + more, s: s + more * slope }) };
}

/** Gives a clip another length by its beginning: the first `frames` (below 0: as many more) go; its place on the reel stays. */
export function trimStart(project: Project, clipId: string, frames: number): Project {
  const clip = clipOf(project, clipId);
  return replaced(project, clipId, [
    withMap(clip, begunAt(clip.map, Math.round(frames), usableFrames(sourceOf(project, clip)))),
  ]);
}

function begunAt(map: TimeMap, frames: number, sourceFrames: number): TimeMap {
  if (frames > 0) return splitMap(map, Math.min(frames, clipFrameCount(map, sourceFrames) - 1))[1];
  const { s } = map.vertices[0]!;
  const slope = slopeAt(map, 0);
  const room = slope > 0 ? s / slope : slope < 0 ? (sourceFrames - s) / -slope : Infinity;
  const more = Math.floor(Math.min(-frames, room) + TIME_EPSILON);
  if (more < 1) return map;
  const moved = map.vertices.map((v) => ({ t: v.t + more, s: v.s }));
  return { ...map, vertices: moved.with(0, { t: 0, s: s - more * slope }) };
}

/**
 * A clip's length changed, its content staying: at speeds at which every frame is as real as can be, its own before others, where there are
 * such; or (`alike`) all speeds by one factor.
 */
export function stretchClip(
  project: Project,
  clipId: string,
  frames: number,
  how: 'clean' | 'alike' = 'clean',
): Project {
  checkFrames(frames, 'length');
  const clip = clipOf(project, clipId);
  return replaced(project, clipId, [withMap(clip, filled(project, clip, frames, how))]);
}

/** The clip's curve, of exactly that many frames: the last of them shows what its last frame shows now. */
function filled(project: Project, clip: Clip, frames: number, how: 'clean' | 'alike'): TimeMap {
  const usable = usableFrames(sourceOf(project, clip));
  const own = clipFrameCount(clip.map, usable);
  const clean = how === 'clean' ? fitCleanly(clip.map, own, frames, { locked: clip.locks }) : undefined;
  return endedWithin(clean ?? fitFrames(clip.map, own, frames), usable);
}

/** Other content under the same curve: `by` source frames later, as far as the source reaches. */
export function slipClip(project: Project, clipId: string, by: number): Project {
  const clip = clipOf(project, clipId);
  const { back, on } = slipRoom(project, clipId);
  const slip = Math.max(-back, Math.min(on, by));
  if (slip === 0) return project;
  const slipped = { ...clip.map, vertices: clip.map.vertices.map(({ t, s }) => ({ t, s: s + slip })) };
  return replaced(project, clipId, [withMap(clip, slipped)]);
}

/** How many source frames a clip can be slipped back and on. */
function slipRoom(project: Project, clipId: string): { readonly back: number; readonly on: number } {
  const clip = clipOf(project, clipId);
  const source = usableFrames(sourceOf(project, clip));
  const shown = Array.from({ length: clipFrameCount(clip.map, source) }, (_, k) => positionAt(clip.map, k));
  const [low, high] = [shown.reduce((a, b) => Math.min(a, b)), shown.reduce((a, b) => Math.max(a, b))];
  return { back: Math.max(0, low), on: Math.max(0, source - 1 - high) };
}

/** Throws `InvalidInput` saying how far it goes where a clip cannot be slipped so far. */
export function checkSlip(project: Project, clipId: string, by: number): void {
  const { back, on } = slipRoom(project, clipId);
  const room = Math.floor((by < 0 ? back : on) + TIME_EPSILON);
  if (Math.abs(by) <= (by < 0 ? back : on) + TIME_EPSILON) return;
  const end = by < 0 ? 'first' : 'last';
  throw new InvalidInput(
    'slip',
    room === 0
      ? `the clip shows the ${end} frame of its source already, so there is nothing ${by < 0 ? 'before' : 'after'} it`
      : `only ${room} source frame${room === 1 ? ' is' : 's are'} left ${by < 0 ? 'before' : 'after'} what it shows`,
  );
}

/** Keeps a clip's first frame on a cue, or (null) lets it flow on. */
export function pinClip(project: Project, clipId: string, cueId: string | null): Project {
  const clip = clipOf(project, clipId);
  if (cueId !== null && project.reel.items[0]?.id === clipId)
    throw new InvalidInput('pin', 'nothing comes before the first clip that could give; put a gap there');
  return reconcileReel(replaced(project, clipId, [{ ...clip, pin: cueId }]));
}

/** Has a clip fill the room before the next pinned cut by its speeds, or not. */
export function setFills(project: Project, clipId: string, fills: boolean): Project {
  return reconcileReel(replaced(project, clipId, [{ ...clipOf(project, clipId), fills }]));
}

/** How a clip's picture lies in the reel's; null fits it in. */
export function setFraming(project: Project, clipId: string, framing: Framing | null): Project {
  if (framing) checkFraming(framing);
  return updateClip(project, clipId, (clip) => ({ ...clip, framing }));
}

/** How a clip's motion is blurred; null: as the reel says. */
export function setClipBlur(project: Project, clipId: string, blur: Blur | null): Project {
  if (blur) checkBlur(blur);
  return updateClip(project, clipId, (clip) => ({ ...clip, blur }));
}

/** Holds a stretch of a clip steady, or (null) shows it as it was filmed. */
export const setSteady = (project: Project, clipId: string, steady: Steady | null): Project =>
  updateClip(project, clipId, (clip) => ({ ...clip, steady }));

/** How motion is blurred where no clip says otherwise. */
export function setReelBlur(project: Project, blur: Blur): Project {
  checkBlur(blur);
  return { ...project, reel: { ...project.reel, blur } };
}

/** The colour space all pictures are brought into; none: that of the first clip. */
export const setReelColour = (project: Project, colour: ColourSpace | null): Project => ({
  ...project,
  reel: { ...project.reel, colour },
});

/** The stretch of the reel that is played round and can be rendered alone, or none. Throws `InvalidInput` for an empty one. */
export function setReelRange(project: Project, range: Stretch | null): Project {
  if (
    range &&
    !(Number.isInteger(range.from) && Number.isInteger(range.to) && range.from >= 0 && range.to > range.from)
  )
    throw new InvalidInput('range', 'must begin on the reel and end after it begins');
  return { ...project, reel: { ...project.reel, range } };
}

/**
 * Brings what follows from elsewhere up to date: what groups say of themselves, cues that belong to sounds, and clips that fill the
 * room before a pinned cut.
 */
export function reconcileReel(project: Project): Project {
  const settled = reconcileJoins(reconcileCues(reconcileGroups(project)));
  const placed = placeItems(settled);
  const items = placed.map(({ item, frames }, i) => {
    if (item.kind !== 'clip' || !item.fills || pinnedFrame(settled, placed[i + 1]?.item) === undefined) return item;
    return clipFrameCount(item.map, usableFrames(sourceOf(settled, item))) === frames
      ? item
      : withMap(item, filled(settled, item, frames, 'clean'));
  });
  return items.every((item, i) => item === settled.reel.items[i]) ? settled : withItems(settled, items);
}

/** Pinned cuts that are missed because what comes before has no room to give: the clip, and by how many frames it comes late. */
export function missedPins(project: Project): { readonly clipId: string; readonly frames: number }[] {
  return placeItems(project).flatMap(({ item, start }) => {
    const pinned = pinnedFrame(project, item);
    return pinned === undefined || pinned === start ? [] : [{ clipId: item.id, frames: start - pinned }];
  });
}

/** Another size of the reel's pictures. Throws `InvalidInput` for one that cannot be. */
export function setReelSize(project: Project, width: number, height: number): Project {
  checkReelSize(width, height);
  return { ...project, reel: { ...project.reel, width, height } };
}

/**
 * Another rate of the reel. Everything keeps its time: curves and typed cues are counted in the new frames, inside groups too, and
 * beats are where they are heard.
 */
export function setReelRate(project: Project, rate: Rate): Project {
  const factor = framesPerSecond(rate) / framesPerSecond(project.reel.rate);
  if (factor === 1) return project;
  const groups = new Set(project.sources.filter(({ content }) => content).map(({ id }) => id));
  const items = (each: readonly ReelItem[]) => each.map((item) => scaledItem(item, factor, groups));
  const cues = (each: Project['reel']['cues']) => each.map((cue) => ({ ...cue, frame: cue.frame * factor }));
  const joins = (each: Project['reel']['joins']) => each.map((join) => scaledJoin(join, factor));
  const { reel } = project;
  const range = reel.range && scaledStretch(reel.range, factor);
  const sources = project.sources.map((source): Source => {
    if (!source.content) return source;
    const content = {
      items: items(source.content.items),
      cues: cues(source.content.cues),
      joins: joins(source.content.joins),
    };
    return {
      ...source,
      content,
      frames: Math.max(1, Math.round(source.frames * factor)),
      nativeRate: rate,
      readAs: rate,
    };
  });
  return reconcileReel({
    ...project,
    sources,
    reel: { ...reel, rate, items: items(reel.items), cues: cues(reel.cues), joins: joins(reel.joins), range },
  });
}

function scaledJoin(join: RampJoin, factor: number): RampJoin {
  const { into, outOf, hold, undo: replaced } = join;
  const side = (r: RampUndo): RampUndo => ({
    original: scaledMap(r.original, factor),
    ramped: scaledMap(r.ramped, factor),
    startFrames: r.startFrames * factor,
    slowed: r.slowed,
  });
  const scaled = { before: side(replaced.before), after: side(replaced.after) };
  return { ...join, into: into * factor, outOf: outOf * factor, hold: hold * factor, undo: scaled };
}

const scaledStretch = ({ from, to }: Stretch, factor: number): Stretch => {
  const start = Math.round(from * factor);
  return { from: start, to: Math.max(start + 1, Math.round(to * factor)) };
};

/** An item counted in other frames; a group's source is counted in them too. */
function scaledItem(item: ReelItem, factor: number, groups: ReadonlySet<string>): ReelItem {
  if (item.kind === 'gap') return { ...item, frames: Math.max(1, Math.round(item.frames * factor)) };
  const inSource = groups.has(item.sourceId) ? factor : 1;
  const map = (m: TimeMap): TimeMap => scaledMap(m, factor, inSource);
  return { ...item, map: map(item.map), versions: item.versions.map((v) => ({ ...v, map: map(v.map) })) };
}

const scaledMap = ({ vertices, bends }: TimeMap, factor: number, inSource = 1): TimeMap => ({
  vertices: vertices.map(({ t, s }) => ({ t: t * factor, s: s * inSource })),
  bends: bends.map((bend) => scaledBend(bend, factor)),
});
