import { InvalidInput } from '../foundation/errors.js';
import { boolean, finite, oneOf, string } from '../foundation/readers.js';

/** What a flash is of: white, black, the picture inverted, or a colour as #rrggbb. */
export type FlashColour = 'white' | 'black' | 'inverted' | `#${string}`;

export const PUSH_WAYS = ['left', 'right', 'up', 'down'] as const;
export type PushWay = (typeof PUSH_WAYS)[number];

/** What accents do to a frame of the reel. */
export interface Effects {
  /** The frame that is shown in its place, while one stands still. */
  readonly held: number | undefined;
  /** About the picture's middle, and moved by shares of its width and height. */
  readonly scale: number;
  readonly x: number;
  readonly y: number;
  readonly flash: { readonly colour: FlashColour; readonly amount: number } | undefined;
  /** The picture is drawn out along a line, at 0° its rows, at 90° its columns, over this share of its width or height. */
  readonly streak: { readonly degrees: number; readonly share: number } | undefined;
  /** One clip gives way to the next. */
  readonly across: Across | undefined;
  /** Lines of text over the picture, one above the other in this order. */
  readonly titles: readonly TitleShown[];
}

/** A line of text: its middle and the height of its capitals in shares of the picture, and how much of each word is there, 0 … 1. */
export interface TitleShown {
  readonly text: string;
  readonly size: number;
  readonly x: number;
  readonly y: number;
  readonly colour: FlashColour;
  readonly words: readonly number[];
}

/** Where a frame is between two clips: the reel frame of the cut, how far the second has come, 0 … 1, and how far a frame goes there. */
export interface Across {
  readonly cut: number;
  readonly come: number;
  readonly pace: number;
  readonly passage: Passage;
}

/** What of two clips is seen while one gives way to the other. */
export type Passage =
  /** One pushes the other out; between them is black, `gap` of the picture wide. */
  | { readonly kind: 'push'; readonly way: PushWay; readonly gap: number }
  /** One fades into the other. */
  | { readonly kind: 'dissolve' }
  /** The second grows out of the middle of the first, which comes closer by `scale`. */
  | { readonly kind: 'zoom'; readonly scale: number }
  /** Both turn by so many degrees, the second into its place, while one fades into the other. */
  | { readonly kind: 'turn'; readonly degrees: number };

export const NO_EFFECTS: Effects = {
  ...{ held: undefined, scale: 1, x: 0, y: 0 },
  ...{ flash: undefined, streak: undefined, across: undefined, titles: [] },
};

/** Begins and ends gently. */
export const soft = (u: number) => u * u * (3 - 2 * u);

/** The most frames an accent lasts. */
export const MAX_LOOK_FRAMES = 240;

/** A setting of a look beside its length: how it is checked, and how a panel asks for it. */
export type LookField =
  /** Shown as per cent: of `from` more than the value says (1 where 1.1 is shown as 10 %), in steps of `step`. */
  | {
      readonly kind: 'share';
      readonly label: string;
      readonly min: number;
      readonly max: number;
      readonly from: number;
      readonly step: number;
    }
  | { readonly kind: 'choice'; readonly label: string; readonly options: readonly string[] }
  | { readonly kind: 'degrees'; readonly label: string; readonly min: number; readonly max: number }
  /** `isPlain`: not the picture's inverse. */
  | { readonly kind: 'colour'; readonly label: string; readonly isPlain?: boolean }
  /** A line of so many letters at most. */
  | { readonly kind: 'text'; readonly label: string; readonly longest: number }
  | { readonly kind: 'flag'; readonly label: string };

/** Where a frame of the reel is in an accent. */
export interface LookTime {
  /** The reel frame the accent lies on. */
  readonly at: number;
  /** Frames since it began, from 0. */
  readonly passed: number;
  /** The frames it lasts there, and how many of them lie before `at`. */
  readonly frames: number;
  readonly lead: number;
  /** 0 … 1. */
  readonly strength: number;
  /** Frames since the last beat of the music, where there is one: what goes on over a stretch may follow it. */
  readonly sinceBeat: number | undefined;
  /** Frames of the reel that cues and beats of the music lie on, real numbers, increasing: words of a title may come on them. */
  readonly cues: readonly number[];
  readonly beats: readonly number[];
  /** Tells one set's chance from another's. */
  readonly seed: number;
}

/** One kind of accent, all of it: what it is called and asks for, its limits, and what it does to a frame. */
export interface LookDefinition<L extends { readonly kind: string; readonly frames: number }> {
  /** What it does, for the editor who chooses one. */
  readonly title: string;
  /** What a new one begins with. */
  readonly initial: L;
  readonly fields: Readonly<Record<Exclude<keyof L, 'kind' | 'frames'>, LookField>>;
  /** It goes on over a stretch of the reel; its frames say how long it takes to come and to go. */
  readonly sustained?: boolean;
  /** It goes from clip to clip, so it lies on cuts alone, some of it before them. */
  readonly acrossCuts?: boolean;
  /** Both clips go on beyond the cut, on source frames that are left: where there are fewer it is shorter. */
  readonly runsOn?: boolean;
  /** It goes from one clip to the other wholly, whatever its strength. */
  readonly isWhole?: boolean;
  /** What the sounds of both clips do meanwhile; they are cut where it does not say. */
  readonly sound?: 'cross' | 'fade';
  /** Frames of it that lie before the cut; half of them where it does not say. */
  lead?(look: L): number;
  effect(look: L, effects: Effects, time: LookTime): Effects;
}

/** Reads one setting from a document. Throws `InvalidInput` naming the place. */
export function readLookField(value: unknown, definition: LookField, field: string): unknown {
  switch (definition.kind) {
    case 'share': {
      const share = finite(value, field);
      const { min, max } = definition;
      if (!(share >= min && share <= max)) throw new InvalidInput(field, `${share} is not between ${min} and ${max}`);
      return share;
    }
    case 'degrees': {
      const degrees = finite(value, field);
      const { min, max } = definition;
      if (!(degrees >= min && degrees <= max))
        throw new InvalidInput(field, `${degrees}° is not between ${min}° and ${max}°`);
      return degrees;
    }
    case 'choice':
      return oneOf(value, definition.options, field);
    case 'flag':
      return boolean(value, field);
    case 'colour': {
      const colour = string(value, field, 20);
      if (!/^(white|black|inverted|#[0-9a-f]{6})$/i.test(colour) || (definition.isPlain && colour === 'inverted'))
        throw new InvalidInput(field, `"${colour}" is not a colour`);
      return colour;
    }
    case 'text':
      return string(value, field, definition.longest);
  }
}

/** The share of a transition that lies before its cut, as a setting of its own. */
export const BEFORE: LookField = {
  ...{ kind: 'share', label: 'Before the cut' },
  ...{ min: 0, max: 1, from: 0, step: 0.05 },
};
export const leadOf = ({ frames, before }: { readonly frames: number; readonly before: number }): number =>
  Math.round(frames * before);

/** How far the second clip has come in the middle of a frame. */
export const comeAt = ({ passed, frames }: Pick<LookTime, 'passed' | 'frames'>): number => (passed + 0.5) / frames;

/** How near a frame is to the cut, from just above 0 at both ends to 1 at the frames beside it. */
export const nearCut = ({ passed, frames, lead }: Pick<LookTime, 'passed' | 'frames' | 'lead'>): number =>
  passed < lead ? (passed + 1) / lead : (frames - passed) / (frames - lead);

/** How much of a look that goes on is there, 0 … its strength: it comes and goes over its own frames. */
export const presence = (fade: number, { passed, frames, strength }: LookTime): number =>
  strength * Math.min(1, (passed + 1) / fade, (frames - passed) / fade);

/** Chance that changes gently: −1 … 1, another value every `period` frames and between them what lies between. */
export function wander(frame: number, period: number, seed: number): number {
  const place = frame / period;
  const n = Math.floor(place);
  return chance(n, seed) + (chance(n + 1, seed) - chance(n, seed)) * soft(place - n);
}

/** −1 … 1 for a whole number, the same every time. A hash by multiplying and shifting (C. Wellons, "lowbias32", 2018). */
function chance(n: number, seed: number): number {
  let x = (n + Math.imul(seed, 0x9e3779b9)) | 0;
  x = Math.imul(x ^ (x >>> 16), 0x7feb352d);
  x = Math.imul(x ^ (x >>> 15), 0x846ca68b);
  return ((x ^ (x >>> 16)) >>> 0) / 2 ** 31 - 1;
}

/** The picture moved by shares of its width and height, and closer by as much as no edge comes into sight. */
export const moved = (effects: Effects, x: number, y: number): Effects => ({
  ...effects,
  scale: effects.scale * (1 + 2 * Math.max(Math.abs(x), Math.abs(y))),
  x: effects.x + x,
  y: effects.y + y,
});
