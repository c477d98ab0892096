import type { Clip } from '../model/clip.js';
import type { Source } from '../model/group.js';
import type { Steady } from '../model/steady.js';
import { frameOfPosition } from '../sampling/dropped-repeats.js';
import { positionAt } from '../time-map/evaluate.js';

/** The source frames that a clip shows from its frame `first` to `last`, both included. */
export function shownStretch(
  { map }: Clip,
  source: Source,
  first: number,
  last: number,
): readonly [from: number, to: number] {
  let [low, high] = [Infinity, -Infinity];
  for (let k = Math.max(0, first); k <= last; k++) {
    const frame = frameOfPosition(source, positionAt(map, k));
    low = Math.min(low, frame);
    high = Math.max(high, frame);
  }
  return [Math.max(0, Math.floor(low)), Math.min(source.frames - 1, Math.ceil(high))];
}

/** In words: which frames are held, and what it costs of the picture. */
export const steadySentence = ({ from, to, scale, patch }: Steady): string =>
  `${patch ? 'The patch' : 'The picture'} is held from source frame ${from} to ${to}; to fill the frame it is shown ` +
  `${Math.round((scale - 1) * 1000) / 10} % closer, ${Math.round(100 / (scale * scale))} % of it in sight.`;
