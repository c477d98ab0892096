import { effectsOf } from '../accent/effects.js';
import type { Project } from '../model/project.js';
import { placeItems } from '../reel/places.js';
import { resolveClip, type ClipFrame } from '../resolve/resolve-clip.js';
import { frameOfPosition, usableFrames } from '../sampling/dropped-repeats.js';
import { isInSource, nowOf } from '../sampling/sample.js';

/** What a frame of the reel shows, as a render makes it. */
export interface ShownFrame {
  readonly shown: ClipFrame;
  /** Where that is in the file, in its own frames, a real number: ends held or looped, repeats left out, a stutter standing still. */
  readonly native: number;
}

/** What every frame of the reel shows; `undefined` where it is black. Frames that stand still (a stutter) show what they stand on. */
export function shownFrames(project: Project): (ShownFrame | undefined)[] {
  const effectsAt = effectsOf(project);
  return placeItems(project).flatMap(({ item, start, frames }) => {
    if (item.kind === 'gap') return Array.from({ length: frames }, () => undefined);
    const show = resolveClip(project, item);
    return Array.from({ length: frames }, (_, k) => {
      const { held } = effectsAt(start + k);
      const shown = show(held === undefined ? k : Math.max(0, held - start));
      return shown && shownFrame(shown);
    });
  });
}

function shownFrame(shown: ClipFrame): ShownFrame | undefined {
  const now = nowOf(shown.sample);
  if (now.kind === 'black') return undefined;
  const { source, position, clip } = shown;
  const count = usableFrames(source);
  // What lies beyond the source's ends is what is shown there.
  const inside =
    clip.end === 'loop' ? ((position % count) + count) % count : Math.min(Math.max(position, 0), count - 1);
  return { shown, native: frameOfPosition(source, isInSource(position, count) ? position : inside) };
}
