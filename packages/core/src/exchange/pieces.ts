import { isTransition } from '../accent/transition.js';
import { footageOf } from '../group/inside.js';
import type { Clip } from '../model/clip.js';
import { isGroup, type Source } from '../model/group.js';
import type { Project } from '../model/project.js';
import { allClips, sourceOf } from '../reel/clips.js';
import { placeItems } from '../reel/places.js';
import { bendWindow } from '../time-map/time-map.js';
import { framesPerSecond } from '../time/rate.js';
import { type ShownFrame, shownFrames } from './shown-frames.js';

/** A part of the reel at one speed, as other tools know clips; or black. */
export interface ReelPiece {
  /** Frames of the reel: first, and the one past the last. */
  readonly from: number;
  readonly to: number;
  /** None where it is black. */
  readonly of: ReelPieceOfClip | undefined;
}

interface ReelPieceOfClip {
  /** The clip in sight: of a group, one inside it. */
  readonly clip: Clip;
  readonly source: Source;
  /** Which of the clip's pieces this is, and of how many. */
  readonly part: number;
  readonly parts: number;
  /** Native position of the source at its first frame. */
  readonly start: number;
  /** Native frames of the source a frame of the reel. */
  readonly slope: number;
  /** The same as seconds of the source a second of the reel passes: 0 a freeze, below 0 in reverse. */
  readonly speed: number;
}

/** How nearly pieces follow the curve, and what a format can write. */
export interface PieceGrain {
  /** Units a native frame of a source is. */
  readonly unit: (source: Source) => number;
  /** A start as it can be written, in units. */
  readonly start: (value: number) => number;
  /** Slopes that can be written, in units a frame of the reel: the one nearest the middle of low … high, or none. */
  readonly slope: (low: number, high: number, wanted: number) => number | undefined;
}

/** Half a frame: what shows is never another frame than the curve's nearest. */
const TOLERANCE = 0.5 - 1e-9;

/** Numbers as they are. */
const EXACT: PieceGrain = {
  unit: () => 1,
  start: (value) => value,
  slope: (low, high, wanted) => Math.min(high, Math.max(low, wanted)),
};

/**
 * The reel in pieces of one speed each: within half a frame of the curve at every frame, and exact (as the grain has it) where they begin,
 * which is at every cut, edge of a bend, vertex and landed moment. A piece is as long as that allows. Groups are the pieces inside.
 */
export function piecesOf(project: Project, grain: PieceGrain = EXACT): ReelPiece[] {
  const frames = shownFrames(project);
  const knots = knotsOf(project);
  const pieces: { from: number; to: number; first: ShownFrame | undefined; slope: number; start: number }[] = [];
  for (let from = 0; from < frames.length;) {
    const first = frames[from];
    let limit = from + 1;
    while (limit < frames.length && !knots.has(limit) && sameClip(first, frames[limit])) limit++;
    if (!first) pieces.push({ from, to: limit, first, slope: 0, start: 0 });
    else {
      const piece = longest(frames as ShownFrame[], from, limit, grain);
      pieces.push({ from, first, ...piece });
      limit = piece.to;
    }
    from = limit;
  }
  const counts = new Map<string, number>();
  const key = ({ first }: (typeof pieces)[number]) => first?.shown.clip.id ?? '';
  pieces.forEach((piece) => counts.set(key(piece), (counts.get(key(piece)) ?? 0) + 1));
  const seen = new Map<string, number>();
  return pieces.map((piece): ReelPiece => {
    const { from, to, first, slope, start } = piece;
    if (!first) return { from, to, of: undefined };
    const { clip, source } = first.shown;
    const part = seen.get(clip.id) ?? 0;
    seen.set(clip.id, part + 1);
    const perFrame = framesPerSecond(source.nativeRate) / framesPerSecond(project.reel.rate);
    return { from, to, of: { clip, source, part, parts: counts.get(clip.id)!, start, slope, speed: slope / perFrame } };
  });
}

const sameClip = (a: ShownFrame | undefined, b: ShownFrame | undefined) =>
  a?.shown.clip === b?.shown.clip && a?.shown.source.id === b?.shown.source.id;

/** As many frames from `from` on as one speed keeps within tolerance; one at least. */
function longest(
  frames: readonly ShownFrame[],
  from: number,
  limit: number,
  grain: PieceGrain,
): { to: number; slope: number; start: number } {
  const first = frames[from]!;
  const unit = grain.unit(first.shown.source);
  const at = (k: number) => frames[k]!.native * unit;
  const start = grain.start(at(from));
  let [low, high] = [-Infinity, Infinity];
  let best = {
    to: from + 1,
    slope: grain.slope(-Infinity, Infinity, from + 1 < limit ? at(from + 1) - start : 0) ?? 0,
  };
  for (let k = from + 1; k < limit; k++) {
    const passed = k - from;
    low = Math.max(low, (at(k) - TOLERANCE - start) / passed);
    high = Math.min(high, (at(k) + TOLERANCE - start) / passed);
    if (low > high) break;
    const slope = grain.slope(low, high, (at(k) - at(from)) / passed);
    if (slope === undefined) {
      // Further on an allowed one may lie between again; a stretch without one ends the piece.
      if (passed > 4) break;
      continue;
    }
    best = { to: k + 1, slope };
  }
  return { to: best.to, slope: best.slope / unit, start: start / unit };
}

/** Frames at which a piece has to begin. */
function knotsOf(project: Project): Set<number> {
  const cues = new Map(project.reel.cues.map(({ id, frame }) => [id, Math.round(frame)]));
  const tied = allClips(project).flatMap(({ ties }) => ties.map(({ cueId }) => cues.get(cueId)));
  const knots = new Set<number>(tied.filter((frame) => frame !== undefined));
  for (const { item, start, frames } of placeItems(project)) {
    knots.add(start);
    if (item.kind === 'gap') continue;
    const times = item.map.vertices.flatMap(({ t }, i) => {
      const { from, to } = bendWindow(item.map, i);
      return [t, from, to];
    });
    for (const t of times) if (t > 0 && t < frames) knots.add(start + Math.round(t));
  }
  return knots;
}

/** What a list of pieces can carry, by format. */
export interface Carried {
  /** Cues and accents as marks. */
  readonly marks: boolean;
  /** Sounds under the picture. */
  readonly sounds: boolean;
  /** Dissolves; other transitions are in no format. */
  readonly dissolves?: boolean;
  /** The piece's speed to the last digit. */
  readonly method: boolean;
}

/** What a hand-over in pieces of one speed cannot say of a project, in sentences. */
export function lossesOf(
  project: Project,
  carried: Carried = { marks: false, sounds: false, method: false },
): string[] {
  const clips = allClips(project).filter((clip) => !isGroup(sourceOf(project, clip)));
  const { reel } = project;
  const losses: string[] = [];
  const say = (n: number, one: string, more: string) =>
    void (n > 0 && losses.push(`${n === 1 ? `One clip ${one}` : `${n} clips ${more}`}.`));
  const count = (test: (clip: Clip) => boolean) => clips.filter(test).length;
  say(
    count(({ map }) => map.bends.some(({ widthFrames }) => widthFrames > 0)),
    'has gradual changes of speed, given as steps within half a frame',
    'have gradual changes of speed, given as steps within half a frame',
  );
  say(
    count(({ framing }) => framing !== null),
    'is framed, which is left out',
    'are framed, which is left out',
  );
  say(
    count(({ steady }) => steady !== null),
    'is held steady, which is left out',
    'are held steady, which is left out',
  );
  if (!carried.method)
    say(
      count(
        ({ method, reachMethods, mends }) =>
          (method ?? reel.method) !== 'step' || reachMethods.length + mends.length > 0,
      ),
      'has in-betweens made here',
      'have in-betweens made here',
    );
  const isBlurred = (clip: Clip) =>
    (clip.blur ?? reel.blur).kind !== 'none' ||
    reel.joins.some(({ blur, before, after }) => blur && [before, after].includes(clip.id));
  say(count(isBlurred), 'has motion blur, which is left out', 'have motion blur, which is left out');
  if (clips.some(({ sound }) => sound.mode !== 'mute'))
    losses.push('What is heard of the clips themselves is left out.');
  const transitions = reel.accents.filter(
    (set) => isTransition(set) && !(carried.dissolves && set.look.kind === 'dissolve'),
  );
  if (transitions.length > 0)
    losses.push(
      carried.dissolves
        ? 'Transitions other than dissolves are left out.'
        : 'Transitions are left out: every cut is hard.',
    );
  const others = reel.accents.filter((set) => set.look.kind !== 'stutter' && !isTransition(set));
  if (others.length > 0)
    losses.push(
      carried.marks ? 'Accents are given as marks; what they look like is left out.' : 'Accents are left out.',
    );
  if (reel.sounds.length > 0 && !carried.sounds) losses.push('Sounds under the picture are left out.');
  if (reel.joins.some(({ whoosh }) => whoosh)) losses.push('The whooshes of ramp joins are left out.');
  return losses;
}

/** The footage a project shows, once each. */
export const shownFootage = (project: Project): Source[] => [
  ...new Map(
    placeItems(project)
      .flatMap(({ item }) => (item.kind === 'clip' ? footageOf(project, item) : []))
      .map((source) => [source.id, source]),
  ).values(),
];
