import type { FlashColour, PushWay } from '../model/accent.js';
import type { Project } from '../model/project.js';
import { type AccentTime, accentTimes } from './accent-times.js';

/** What accents do to a frame of the reel. */
export interface Effects {
  /** The frame that is shown in its place, while one stands still. */
  readonly held: number | undefined;
  /** About the picture's middle, and moved by shares of its width and height. */
  readonly scale: number;
  readonly x: number;
  readonly y: number;
  readonly flash: { readonly colour: FlashColour; readonly amount: number } | undefined;
  /** One clip pushes the other: how far it has come, 0 … 1, and how far a frame goes there. */
  readonly push:
    { readonly cut: number; readonly way: PushWay; readonly come: number; readonly pace: number } | undefined;
}

export const NO_EFFECTS: Effects = { held: undefined, scale: 1, x: 0, y: 0, flash: undefined, push: undefined };

/** The longest an accent lasts. */
const LONGEST = 240;

/** What accents do to every frame of the reel; nothing to most. */
export function effectsOf(project: Project): (frame: number) => Effects {
  const marks = accentTimes(project);
  if (marks.length === 0) return () => NO_EFFECTS;
  return (frame) => {
    let effects = NO_EFFECTS;
    let i = lowerBound(marks, frame - LONGEST);
    for (; i < marks.length && marks[i]!.frame <= frame + LONGEST; i++) effects = withMark(effects, marks[i]!, frame);
    return effects;
  };
}

function withMark(effects: Effects, { set: { look, strength }, frame: at }: AccentTime, frame: number): Effects {
  const { frames } = look;
  if (look.kind === 'push') {
    const begin = at - Math.floor(frames / 2);
    if (frame < begin || frame >= begin + frames) return effects;
    const u = (frame - begin + 0.5) / frames;
    return {
      ...effects,
      push: {
        cut: at,
        way: look.way,
        come: soft(u),
        pace: (soft(Math.min(1, u + 0.5 / frames)) - soft(Math.max(0, u - 0.5 / frames))) * strength,
      },
    };
  }
  const passed = frame - at;
  if (passed < 0 || passed >= frames) return effects;
  /** What is left of it, 1 at its beginning. */
  const left = 1 - passed / frames;
  if (look.kind === 'stutter') return { ...effects, held: at };
  if (look.kind === 'punch')
    return { ...effects, scale: effects.scale * (1 + (look.scale - 1) * strength * left ** 3) };
  if (look.kind === 'knock') {
    const far = look.size * strength * left ** 2;
    const turn = 2.4 * passed + 1;
    // Zoom by as much as it is moved at most, so that no edge comes into sight.
    const scale = effects.scale * (1 + 2 * far);
    return { ...effects, scale, x: effects.x + far * Math.cos(turn), y: effects.y + far * Math.sin(turn * 1.3) };
  }
  const amount = strength * (look.falls ? left : 1);
  return amount > (effects.flash?.amount ?? 0) ? { ...effects, flash: { colour: look.colour, amount } } : effects;
}

const soft = (u: number) => u * u * (3 - 2 * u);

function lowerBound(marks: readonly AccentTime[], frame: number): number {
  let [low, high] = [0, marks.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (marks[middle]!.frame < frame) low = middle + 1;
    else high = middle;
  }
  return low;
}
