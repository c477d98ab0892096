import type { Size } from '@idle-bend/core/framing';
import type { Across, Passage } from '@idle-bend/core/look';
import type { Part } from '@idle-bend/kernels';

/** How the picture of one of two clips lies while one gives way to the other. */
export interface Side {
  /** The part of it that is seen; all of it where this does not say. */
  readonly seen: Part | undefined;
  readonly closer: number;
  /** Radians, the way of a clock's hands. */
  readonly turned: number;
}

export const AS_IT_IS: Side = { seen: undefined, closer: 1, turned: 0 };

/** The picture of the clip that goes, and that of the one that comes. */
export function sidesOf(size: Size, { passage, come }: Across): readonly [Side, Side] {
  switch (passage.kind) {
    case 'push':
      return [
        { ...AS_IT_IS, seen: seenOf(size, passage, come, true) },
        { ...AS_IT_IS, seen: seenOf(size, passage, come, false) },
      ];
    case 'dissolve':
      return [AS_IT_IS, AS_IT_IS];
    case 'zoom':
      return [
        { ...AS_IT_IS, closer: passage.scale ** come },
        { ...AS_IT_IS, closer: smallerAt(passage.scale, come) },
      ];
    case 'turn': {
      const whole = (passage.degrees * Math.PI) / 180;
      return [turnedBy(size, whole * come), turnedBy(size, whole * (come - 1))];
    }
  }
}

/** The size of the picture that grows out of another, 1 / scale … 1. */
export const smallerAt = (scale: number, come: number): number => scale ** (come - 1);

/** Turned, and as much closer as no corner of the screen stays empty. */
function turnedBy({ width, height }: Size, angle: number): Side {
  const longer = Math.max(width / height, height / width);
  const [cos, sin] = [Math.abs(Math.cos(angle)), Math.abs(Math.sin(angle))];
  return { seen: undefined, closer: cos + longer * sin, turned: angle };
}

/** What of a picture is seen while one pushes the other: of the one that goes, or of the one that comes. */
function seenOf(
  { width, height }: Size,
  { way, gap }: Extract<Passage, { kind: 'push' }>,
  come: number,
  goes: boolean,
): Part {
  // A few pixels more than that: how far it has come is rounded to whole ones.
  const margin = 4 / (way === 'left' || way === 'right' ? width : height);
  const [gone, here] = [come * (1 + gap), 1 - (1 - come) * (1 + gap)];
  const [near, far] = goes ? [gone - margin, 1] : [0, here + margin];
  const [from, to] = way === 'left' || way === 'up' ? [near, far] : [1 - far, 1 - near];
  const [low, high] = [Math.max(0, Math.min(1, from)), Math.max(0, Math.min(1, to))];
  return way === 'left' || way === 'right'
    ? { left: low, right: high, top: 0, bottom: 1 }
    : { left: 0, right: 1, top: low, bottom: high };
}
