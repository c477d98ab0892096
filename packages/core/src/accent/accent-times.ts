import { isDownbeat } from '../beats/grid.js';
import type { AccentPlaces, AccentSet } from '../model/accent.js';
import type { Project } from '../model/project.js';
import { placeItems, reelFrames } from '../reel/places.js';
import { spanAt } from './span.js';
import { everyNth } from './every-nth.js';
import { frameOfSecond } from '../reel/sound-time.js';

/** One accent: the frame of the reel it begins at, and what it is tied to. */
export interface AccentTime {
  readonly set: AccentSet;
  /** As the music has it, a real number; the accent begins at the nearest frame. */
  readonly at: number;
  readonly frame: number;
  /** The second of the sound, where it lies on music. */
  readonly second: number | undefined;
  /** The frames it lasts, and how many of them are before `frame`: fewer than its look says where there is no room across a cut. */
  readonly frames: number;
  readonly lead: number;
}

/** Every accent on the reel, in the order of their frames. They are where what they are tied to is now. */
export function accentTimes(project: Project): readonly AccentTime[] {
  let marks = known.get(project);
  if (!marks) {
    const end = reelFrames(project);
    marks = project.reel.accents
      .flatMap((set) =>
        placesOf(project, set.on).map(({ at, second, index, frames }) => ({
          ...{
            set,
            at,
            second,
            frame: Math.round(at),
            ...(frames === undefined ? spanAt(project, set.look, index) : { frames, lead: 0 }),
          },
        })),
      )
      .filter(({ frame }) => frame >= 0 && frame < end)
      .sort((a, b) => a.at - b.at);
    known.set(project, marks);
  }
  return marks;
}

/** Projects are values: what was placed once stays there. */
const known = new WeakMap<Project, readonly AccentTime[]>();

interface Place {
  readonly at: number;
  readonly second?: number;
  /** Of a cut, the item of the reel that begins there. */
  readonly index?: number;
  /** Of a range, how long it is. */
  readonly frames?: number;
}

function placesOf(project: Project, on: AccentPlaces): Place[] {
  if (on.kind === 'cues')
    return project.reel.cues.filter(({ id }) => on.cueIds.includes(id)).map(({ frame }) => ({ at: frame }));
  if (on.kind === 'cuts')
    return placeItems(project).flatMap(({ item, start }, index) =>
      start > 0 && on.clipIds.includes(item.id) ? [{ at: start, index }] : [],
    );
  if (on.kind === 'range') return [{ at: on.from, frames: on.to - on.from }];
  const sound = project.reel.sounds.find(({ id }) => id === on.soundId);
  if (!sound) return [];
  return hitsOf(on, sound.beats).flatMap((second) =>
    second >= sound.fromSeconds &&
    second < sound.toSeconds &&
    !on.without.some((left) => Math.abs(left - second) < 1e-3)
      ? [{ at: frameOfSecond(project, sound, second), second }]
      : [],
  );
}

/** The seconds a pattern chooses. */
function hitsOf(
  { of, every, first, from, to, hits }: Extract<AccentPlaces, { kind: 'music' }>,
  beats: Project['reel']['sounds'][number]['beats'],
): number[] {
  const times = beats?.times ?? [];
  const all = of === 'beats' ? times : of === 'bars' ? times.filter((_, i) => isDownbeat(beats!, i)) : hits;
  const within = all.filter((second) => second >= (from ?? -Infinity) && second <= (to ?? Infinity));
  if (of === 'beats' || of === 'bars') return within.filter((_, i) => i % every === first);
  return everyNth(within, times, every, first);
}
