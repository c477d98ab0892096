import type { Effects, FlashColour } from '@idle-bend/core/look';
import type { Size } from '@idle-bend/core/framing';
import { bytesPerSample, colourFrame, invertInto, planeSizes, type Frame } from '@idle-bend/core/frame';
import type { Kernels, Part } from '@idle-bend/kernels';

/** What a push is blurred by: the share of a frame its shutter is open. */
const PUSH_SHUTTER = 0.5;

/** Draws what accents do to finished pictures. Owns the buffers; a picture stays as it is until the next call of the same kind. */
export class Accents {
  private readonly colours = new Map<string, Frame>();
  private readonly rooms: Uint8Array[] = [];

  constructor(private readonly kernels: Kernels) {}

  /** A picture gives way to a colour, or to its own inverse. */
  flashed(frame: Frame, { colour, amount }: NonNullable<Effects['flash']>): Frame {
    const full =
      colour === 'inverted' ? this.with(frame, 0, (out) => invertInto(frame, out)) : this.colour(frame, colour);
    return this.with(frame, 1, (out) => this.kernels.blend(frame, full, amount, out));
  }

  /**
   * One picture pushes the other out, blurred along its way.
   * @param goes whether `frame` is the one that goes; `other` is the one that comes then
   */
  pushed(frame: Frame, other: Frame, { way, come, pace }: NonNullable<Effects['push']>, goes: boolean): Frame {
    const { width, height } = frame.format;
    const across = way === 'left' || way === 'right';
    const towards = way === 'left' || way === 'up' ? -1 : 1;
    // Whole pixels, and even ones, so that coarser chroma goes along.
    const far = 2 * Math.round((come * (across ? width : height)) / 2) * towards;
    const [out, into] = goes ? [frame, other] : [other, frame];
    const joined = this.with(frame, 2, (room) => besideEachOther(out, into, across, far, room));
    const length = pace * PUSH_SHUTTER * (across ? width : height);
    if (length < 1) return joined;
    return this.with(frame, 2, (room) => this.kernels.streak(joined, length, !across, room));
  }

  private colour({ format }: Frame, colour: FlashColour): Frame {
    const key = `${colour} ${JSON.stringify(format)}`;
    let frame = this.colours.get(key);
    if (!frame) this.colours.set(key, (frame = colourFrame(format, shareOf(colour))));
    return frame;
  }

  private with({ format, data }: Frame, slot: number, make: (room: Uint8Array) => Uint8Array): Frame {
    if (this.rooms[slot]?.length !== data.length) this.rooms[slot] = new Uint8Array(data.length);
    return { format, data: make(this.rooms[slot]) };
  }
}

/** What of a picture is seen while one pushes the other: of the one that goes, or of the one that comes. */
export function seenOf({ width, height }: Size, { way, come }: NonNullable<Effects['push']>, goes: boolean): Part {
  // A few pixels more than that: how far it has come is rounded to whole ones.
  const margin = 4 / (way === 'left' || way === 'right' ? width : height);
  const [near, far] = goes ? [come - margin, 1] : [0, come + margin];
  const [from, to] = way === 'left' || way === 'up' ? [near, far] : [1 - far, 1 - near];
  const [low, high] = [Math.max(0, from), Math.min(1, to)];
  return way === 'left' || way === 'right'
    ? { left: low, right: high, top: 0, bottom: 1 }
    : { left: 0, right: 1, top: low, bottom: high };
}

/** A colour as shares of red, green and blue. */
function shareOf(colour: FlashColour): readonly [number, number, number] {
  if (colour === 'white') return [1, 1, 1];
  if (colour === 'black' || colour === 'inverted') return [0, 0, 0];
  return [1, 3, 5].map((i) => parseInt(colour.slice(i, i + 2), 16) / 255) as unknown as [number, number, number];
}

/** The first picture moved by `far` pixels, and the second behind it. */
function besideEachOther(first: Frame, second: Frame, across: boolean, far: number, room: Uint8Array): Uint8Array {
  const { layout, width, height } = first.format;
  const size = bytesPerSample(layout);
  let start = 0;
  for (const plane of planeSizes(layout, width, height)) {
    const [row, rows] = [plane.width * size, plane.height];
    const moved = across ? Math.round((far * plane.width) / width) * size : Math.round((far * rows) / height) * row;
    const whole = across ? row : row * rows;
    const lines = across ? rows : 1;
    const [from, to] = moved < 0 ? [first, second] : [second, first];
    const cut = moved < 0 ? whole + moved : moved;
    // Before the seam the picture that is on the left or the top, in one go; what that puts after it, the other one covers.
    room.set(from.data.subarray(start + whole - cut, start + plane.bytes), start);
    for (let at = start; at < start + lines * whole; at += whole)
      room.set(to.data.subarray(at, at + whole - cut), at + cut);
    start += plane.bytes;
  }
  return room;
}
