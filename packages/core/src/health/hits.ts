import type { Movers } from './movers.js';

/** What makes a frame look like one that matters: motion that turns, stops or begins at once; much that begins to move; light. */
export const HIT_KINDS = ['turn', 'burst', 'flash'] as const;

export type HitKind = (typeof HIT_KINDS)[number];

/** A frame at which something may hit, turn or flash. */
export interface Hit {
  readonly frame: number;
  readonly kind: HitKind;
  /** How far it stands out from what is about it: 1 is nothing, 10 cannot be missed. */
  readonly strength: number;
}

/** What is less remarkable than this is not kept. */
const LEAST = 2.5;

/** No more than these are kept of a file. */
const MOST = 400;

/** What stands out is measured against so many frames on either side. */
const ABOUT = 36;

/** Frames at either end of a scene where nothing is looked for. */
const EDGE = 3;

/** Of hits closer than this the stronger is kept, frames. */
const APART = 4;

/** Levels by which all light changes from one frame to the next when a lamp or a flash does it. */
const LIT = 3;

/** Below these a change cannot be told from noise, however calm the rest is; momentum in levels² a cell, light in levels. */
const FLOOR = { turn: 0.08, burst: 0.08, flash: 1.2 };

/**
 * Hits of one source, the strongest first. `movers[n]` is what moves from frame n − 1 to frame n (of frame 0 only its level counts). A frame is where
 * motion before it and after it differ, and how much is measured against how much it differs in the frames about it, so that a hand's
 * shake, a swing or coding noise do not hit. Repeats are closed up; across cuts nothing is compared.
 * @param cells how many cells the pictures have at the fine and the coarse scale
 */
export function findHits(
  movers: readonly Movers[],
  repeats: readonly number[],
  cuts: readonly number[],
  cells: readonly number[],
): Hit[] {
  const isRepeat = new Set(repeats);
  const isCut = new Set(cuts);
  const shown = movers.flatMap((_, n) => (isRepeat.has(n) ? [] : [n]));
  const found: Hit[] = [];
  let from = 0;
  for (let i = 1; i <= shown.length; i++) {
    if (i < shown.length && !isCut.has(shown[i]!)) continue;
    found.push(...hitsOfScene(shown.slice(from, i), movers, cells));
    from = i;
  }
  return strongest(found);
}

function hitsOfScene(frames: readonly number[], movers: readonly Movers[], cells: readonly number[]): Hit[] {
  const of = (i: number) => movers[frames[i]!]!;
  // What comes into a scene or leaves it hits nothing.
  const inner = Array.from({ length: Math.max(0, frames.length - 2 * EDGE) }, (_, i) => i + EDGE);
  const channels = ([0, 1] as const).flatMap((scale) => {
    const size = cells[scale]!;
    return [
      {
        kind: 'turn' as const,
        changes: inner.map((i) => {
          const [a, b] = [of(i).momentum[scale]!, of(i + 1).momentum[scale]!];
          return Math.hypot(b[0] - a[0], b[1] - a[1]) / size;
        }),
      },
      {
        kind: 'burst' as const,
        changes: inner.map((i) => Math.abs(of(i + 1).amount[scale]! - of(i).amount[scale]!) / size),
      },
    ];
  });
  const light = inner.map((i) => Math.max(0, of(i).level - of(i - 1).level));
  // Where light changes, motion cannot be told from it.
  const isLit = (i: number) => Math.abs(of(i).level - of(i - 1).level) > LIT;
  for (const { changes } of channels)
    changes.forEach((_, at) => {
      if (isLit(inner[at]!) || isLit(inner[at]! + 1)) changes[at] = 0;
    });
  return [...channels, { kind: 'flash' as const, changes: light }].flatMap(({ kind, changes }) =>
    standingOut(changes, FLOOR[kind]).map(({ at, strength }) => ({ frame: frames[inner[at]!]!, kind, strength })),
  );
}

/** Where a series is higher than beside it, and by how many times what it mostly is about there. */
function standingOut(series: readonly number[], floor: number): { at: number; strength: number }[] {
  return series.flatMap((value, at) => {
    if (value <= floor || value < (series[at - 1] ?? 0) || value <= (series[at + 1] ?? 0)) return [];
    const about = series
      .slice(Math.max(0, at - ABOUT), at + ABOUT + 1)
      .filter((_, i) => Math.abs(i - Math.min(at, ABOUT)) > 1)
      .sort((a, b) => a - b);
    const mostly = about[Math.floor(0.75 * about.length)] ?? 0;
    const strength = value / (mostly + floor);
    return strength < LEAST ? [] : [{ at, strength: Math.round(strength * 100) / 100 }];
  });
}

/** The strongest first, none beside a stronger one. What shows in several ways at once counts a little more. */
function strongest(hits: readonly Hit[]): Hit[] {
  const joined = hits.map((hit) => {
    const others = new Set(
      hits.filter(({ frame, kind }) => kind !== hit.kind && Math.abs(frame - hit.frame) <= 1).map(({ kind }) => kind),
    );
    return { ...hit, strength: hit.strength * (1 + 0.25 * others.size) };
  });
  const kept: Hit[] = [];
  for (const hit of joined.sort((a, b) => b.strength - a.strength)) {
    if (kept.length >= MOST) break;
    if (kept.every(({ frame }) => Math.abs(frame - hit.frame) >= APART)) kept.push(hit);
  }
  return kept;
}
