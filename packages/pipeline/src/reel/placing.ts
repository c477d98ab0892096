import { placePicture, type Size } from '@idle-bend/core/framing';
import type { Framing, Similarity } from '@idle-bend/core/model';
import type { Placing } from '@idle-bend/kernels';

/** What a picture is laid by: its framing, what holds it steady, and how close the reel's picture has come. */
export interface Laying {
  readonly framing: Framing | null | undefined;
  readonly laid: Similarity | undefined;
  /** About the reel's middle, and moved by shares of its width and height. */
  readonly scale: number;
  readonly x: number;
  readonly y: number;
  /** Turned about the reel's middle after all that, radians, the way of a clock's hands. */
  readonly turned?: number;
}

/**
 * Where in a picture each point of the reel's picture comes from. Framing, steadying and coming closer are one step, so that a picture is
 * resampled once: from the reel's middle the point goes back through them in turn, the last one first.
 */
export function placingOf(picture: Size, canvas: Size, { framing, laid, scale, x, y, turned = 0 }: Laying): Placing {
  const place = placePicture(picture.width / picture.height, canvas, framing ?? undefined);
  const [scaleX, scaleY] = [place.width / picture.width, place.height / picture.height];
  const centre = [
    place.left + (place.width - canvas.width) / 2,
    place.top + (place.height - canvas.height) / 2,
  ] as const;
  const steady = laid ?? { scale: 1, angle: 0, x: 0, y: 0 };
  const [cos, sin] = [Math.cos(steady.angle) / steady.scale, Math.sin(steady.angle) / steady.scale];
  // Shifts that hold a picture steady are in widths, both of them.
  const fromX = -((x * canvas.width) / scale + centre[0]) / scaleX - steady.x * picture.width;
  const fromY = -((y * canvas.height) / scale + centre[1]) / scaleY - steady.y * picture.width;
  const [a, b, c, d] = [
    ...[cos / (scale * scaleX), sin / (scale * scaleY), -sin / (scale * scaleX), cos / (scale * scaleY)],
  ] as [number, number, number, number];
  const [turnCos, turnSin] = [Math.cos(turned), Math.sin(turned)];
  return {
    matrix: [
      ...[a * turnCos - b * turnSin, a * turnSin + b * turnCos],
      ...[c * turnCos - d * turnSin, c * turnSin + d * turnCos],
    ] as unknown as Placing['matrix'],
    shift: [cos * fromX + sin * fromY, cos * fromY - sin * fromX],
  };
}

/** Whether a picture is the reel's as it is. */
export const isWhole = (picture: Size, canvas: Size, { matrix: [a, b, c, d], shift: [x, y] }: Placing): boolean =>
  picture.width === canvas.width &&
  picture.height === canvas.height &&
  a === 1 &&
  d === 1 &&
  b === 0 &&
  c === 0 &&
  x === 0 &&
  y === 0;
