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
  /** One clip pushes the other: how far it has come, 0 … 1, and how far a frame goes there. */
  readonly push:
    { readonly cut: number; readonly way: PushWay; readonly come: number; readonly pace: number } | undefined;
}

export const NO_EFFECTS: Effects = { held: undefined, scale: 1, x: 0, y: 0, flash: undefined, push: undefined };

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
  | { readonly kind: 'colour'; readonly label: string }
  | { readonly kind: 'flag'; readonly label: string };

/** Where a frame of the reel is in an accent. */
export interface LookTime {
  /** The reel frame the accent lies on. */
  readonly at: number;
  /** Frames since it began, from 0. */
  readonly passed: number;
  /** 0 … 1. */
  readonly strength: number;
}

/** One kind of accent, all of it: what it is called and asks for, its limits, and what it does to a frame. */
export interface LookDefinition<L extends { readonly kind: string; readonly frames: number }> {
  /** What it does, for the editor who chooses one. */
  readonly title: string;
  /** What a new one begins with. */
  readonly initial: L;
  readonly fields: Readonly<Record<Exclude<keyof L, 'kind' | 'frames'>, LookField>>;
  /** It goes from clip to clip, so it lies on cuts alone, half of it before them. */
  readonly acrossCuts?: boolean;
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
    case 'choice':
      return oneOf(value, definition.options, field);
    case 'flag':
      return boolean(value, field);
    case 'colour': {
      const colour = string(value, field, 20);
      if (!/^(white|black|inverted|#[0-9a-f]{6})$/i.test(colour))
        throw new InvalidInput(field, `"${colour}" is not a colour`);
      return colour;
    }
  }
}
