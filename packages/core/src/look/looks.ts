import { InvalidInput } from '../foundation/errors.js';
import { object, oneOf, onlyFields, whole } from '../foundation/readers.js';
import { approach, type Approach } from './approach.js';
import { dip, type Dip } from './dip.js';
import { dissolve, type Dissolve } from './dissolve.js';
import { flash, type Flash } from './flash.js';
import { flicker, type Flicker } from './flicker.js';
import { knock, type Knock } from './knock.js';
import {
  MAX_LOOK_FRAMES,
  readLookField,
  type Effects,
  type LookDefinition,
  type LookField,
  type LookTime,
} from './look.js';
import { pulse, type Pulse } from './pulse.js';
import { punch, type Punch } from './punch.js';
import { push, type Push } from './push.js';
import { shake, type Shake } from './shake.js';
import { slide, type Slide } from './slide.js';
import { stutter, type Stutter } from './stutter.js';
import { sway, type Sway } from './sway.js';
import { title, type Title } from './title.js';
import { turn, type Turn } from './turn.js';
import { whip, type Whip } from './whip.js';
import { zoom, type Zoom } from './zoom.js';

/** What happens to the picture; `frames` is how long, from the mark on; of a transition, about the cut; of what goes on, how long it comes and goes. */
export type AccentLook =
  | (Flash | Punch | Knock | Stutter)
  | (Push | Dissolve | Dip | Zoom | Turn | Slide | Whip)
  | (Shake | Sway | Pulse | Approach | Flicker)
  | Title;
export type AccentKind = AccentLook['kind'];

/** Every kind of accent. To add one: its file here, and its lines in this one. */
export const LOOKS: { readonly [Kind in AccentKind]: LookDefinition<Extract<AccentLook, { kind: Kind }>> } = {
  flash,
  punch,
  knock,
  stutter,
  push,
  dissolve,
  dip,
  zoom,
  turn,
  slide,
  whip,
  shake,
  sway,
  pulse,
  approach,
  flicker,
  title,
};

export const ACCENT_KINDS = Object.keys(LOOKS) as readonly AccentKind[];

/** The definition of a look's kind, for those who do not care which it is. */
export const definitionOf = ({ kind }: Pick<AccentLook, 'kind'>) => LOOKS[kind] as LookDefinition<AccentLook>;

/** The settings of a look beside its length, in the order a panel shows them. */
export const fieldsOf = (
  look: AccentLook,
): readonly (readonly [name: string, definition: LookField, value: unknown])[] =>
  Object.entries<LookField>(definitionOf(look).fields).map(([name, definition]) => [
    name,
    definition,
    (look as unknown as Readonly<Record<string, unknown>>)[name],
  ]);

/** Reads a look from a document, or from a hand that changed one. Throws `InvalidInput` naming the place. */
export function readLook(value: unknown, field: string): AccentLook {
  const look = object(value, field);
  const kind = oneOf(look['kind'], ACCENT_KINDS, `${field}.kind`);
  const fields = Object.entries<LookField>(LOOKS[kind].fields);
  onlyFields(look, ['kind', 'frames', ...fields.map(([name]) => name)], field);
  const frames = whole(look['frames'], `${field}.frames`, 1, MAX_LOOK_FRAMES);
  const own = fields.map(([name, definition]) => [name, readLookField(look[name], definition, `${field}.${name}`)]);
  return { kind, frames, ...Object.fromEntries(own) } as AccentLook;
}

/** Throws `InvalidInput` naming what cannot be. */
export function checkLook(look: AccentLook, field: string): void {
  const { frames } = look;
  if (!(Number.isInteger(frames) && frames >= 1 && frames <= MAX_LOOK_FRAMES))
    throw new InvalidInput(`${field}.frames`, `${frames} is not from 1 to ${MAX_LOOK_FRAMES} frames`);
  for (const [name, definition, value] of fieldsOf(look)) readLookField(value, definition, `${field}.${name}`);
}

/** Frames of a look that are before the place it lies on, and all of them, where nothing is in its way. */
export function spanOf(look: AccentLook): Pick<LookTime, 'frames' | 'lead'> {
  const { acrossCuts, lead } = definitionOf(look);
  return { frames: look.frames, lead: lead?.(look) ?? (acrossCuts ? Math.floor(look.frames / 2) : 0) };
}

/** What a look does to a frame of the reel, on top of `effects`; nothing outside its frames. */
export function withLook(look: AccentLook, effects: Effects, frame: number, time: Omit<LookTime, 'passed'>): Effects {
  const passed = frame - time.at + time.lead;
  if (passed < 0 || passed >= time.frames) return effects;
  return definitionOf(look).effect(look, effects, { ...time, passed });
}
