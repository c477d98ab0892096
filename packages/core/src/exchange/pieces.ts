import { footageOf, isGroup } from '../group/inside.js';
import { placeItems, sourceOf, type Clip, type Project, type Source } from '../project/project.js';
import { framesPerSecond } from '../rate/rate.js';
import { frameOfPosition } from '../repeats/skip.js';
import { positionAt } from '../time-map/evaluate.js';

/** A part of the reel at one speed, as other tools know clips; or black. */
export interface ReelPiece {
  /** Frames of the reel: first, and the one past the last. */
  readonly from: number;
  readonly to: number;
  /** None where it is black. */
  readonly of: ReelPieceOfClip | undefined;
}

export interface ReelPieceOfClip {
  readonly clip: Clip;
  readonly source: Source;
  /** Which of the clip's pieces this is, and of how many. */
  readonly part: number;
  readonly parts: number;
  /** Native positions of the source at its first frame, and where its last frame's time is over. */
  readonly start: number;
  readonly end: number;
  /** Seconds of the source a second of the reel passes: 0 a freeze, below 0 in reverse. */
  readonly speed: number;
}

/** Speeds within this of each other are one. */
const SAME_SPEED = 1e-6;

/**
 * The reel in pieces of one speed each, cut at whole frames: a clip is divided where its reaches meet, in the middle of its bends. So a
 * piece begins and ends on the source frames the curve shows there, and is out by a bend's rounding between.
 */
export function piecesOf(project: Project): ReelPiece[] {
  return placeItems(project).flatMap(({ item, start, frames }): ReelPiece[] => {
    if (item.kind === 'gap') return [{ from: start, to: start + frames, of: undefined }];
    const source = sourceOf(project, item);
    const inner = item.map.vertices.slice(1, -1).map(({ t }) => Math.round(t));
    const cuts = [...new Set([0, ...inner.filter((t) => t > 0 && t < frames), frames])];
    const native = (t: number) => frameOfPosition(source, positionAt(item.map, t));
    const perFrame = framesPerSecond(source.nativeRate) / framesPerSecond(project.reel.rate);
    const all = cuts.slice(1).map((to, i) => {
      const from = cuts[i]!;
      const [a, b] = [native(from), native(to)];
      return { from, to, a, b, speed: (b - a) / (to - from) / perFrame };
    });
    const merged = all.reduce<typeof all>((list, piece) => {
      const last = list.at(-1);
      if (!last || Math.abs(last.speed - piece.speed) > SAME_SPEED) return [...list, piece];
      return [...list.slice(0, -1), { ...last, to: piece.to, b: piece.b }];
    }, []);
    return merged.map(({ from, to, a, b, speed }, part) => ({
      from: start + from,
      to: start + to,
      of: { clip: item, source, part, parts: merged.length, start: a, end: b, speed },
    }));
  });
}

/** What a hand-over at constant speeds cannot say of a project, in sentences. */
export function lossesOf(project: Project): string[] {
  const clips = placeItems(project).flatMap(({ item }) => (item.kind === 'clip' ? [item] : []));
  const many = (n: number, one: string, more: string) => (n === 1 ? `One clip ${one}` : `${n} clips ${more}`);
  const count = (test: (clip: Clip) => boolean) => clips.filter(test).length;
  const losses: string[] = [];
  const say = (n: number, one: string, more: string) => void (n > 0 && losses.push(`${many(n, one, more)}.`));
  say(count(({ map }) => map.bends.some(({ widthFrames }) => widthFrames > 0)), 'has gradual changes of speed, given as steps', 'have gradual changes of speed, given as steps'); // prettier-ignore
  say(
    count((clip) => isGroup(sourceOf(project, clip))),
    'is a group, given by its name',
    'are groups, given by their names',
  );
  say(
    count(({ framing }) => framing !== null),
    'is framed',
    'are framed',
  );
  say(
    count(({ steady }) => steady !== null),
    'is held steady',
    'are held steady',
  );
  say(
    count(({ method }) => method !== null && method !== 'step'),
    'has in-betweens made here',
    'have in-betweens made here',
  );
  if (project.reel.accents.length > 0) losses.push('Accents are left out.');
  if (project.reel.sounds.length > 0) losses.push('Sounds under the picture are left out.');
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
