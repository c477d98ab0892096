import type { Across, Effects, FlashColour } from '@idle-bend/core/look';
import { bytesPerSample, colourFrame, invertInto, planeSizes, type Frame } from '@idle-bend/core/frame';
import type { Kernels } from '@idle-bend/kernels';
import { smallerAt } from './passage.js';

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

  /** A picture drawn out along a line. */
  streaked(frame: Frame, { degrees, share }: NonNullable<Effects['streak']>): Frame {
    const { width, height } = frame.format;
    const angle = (degrees * Math.PI) / 180;
    const length = share * Math.hypot(width * Math.cos(angle), height * Math.sin(angle));
    return length < 1 ? frame : this.with(frame, 3, (room) => this.kernels.streak(frame, length, degrees, room));
  }

  /** What is seen of two pictures, laid as `sidesOf` says, while the first gives way to the second. */
  between(first: Frame, second: Frame, { passage, come, pace }: Across): Frame {
    switch (passage.kind) {
      case 'push':
        return this.pushed(first, second, passage, come, pace);
      case 'dissolve':
      case 'turn':
        return this.with(first, 2, (room) => this.kernels.blend(first, second, come, room));
      case 'zoom': {
        // It is whole from half way on.
        const mixed = this.with(first, 2, (room) => this.kernels.blend(first, second, Math.min(1, 2 * come), room));
        outsideOf(first, smallerAt(passage.scale, come), mixed.data);
        return mixed;
      }
    }
  }

  /** One picture pushes the other out, blurred along its way. */
  private pushed(
    first: Frame,
    second: Frame,
    { way, gap }: Extract<Across['passage'], { kind: 'push' }>,
    come: number,
    pace: number,
  ): Frame {
    const { width, height } = first.format;
    const across = way === 'left' || way === 'right';
    const towards = way === 'left' || way === 'up' ? -1 : 1;
    const size = across ? width : height;
    // Whole pixels, and even ones, so that coarser chroma goes along.
    const far = 2 * Math.round((come * (1 + gap) * size) / 2) * towards;
    const wide = 2 * Math.round((gap * size) / 2);
    const joined = this.with(first, 2, (room) =>
      besideEachOther(first, second, this.colour(first, 'black'), { across, far, wide }, room),
    );
    const length = pace * PUSH_SHUTTER * size;
    if (length < 1) return joined;
    return this.with(first, 2, (room) => this.kernels.streak(joined, length, across ? 0 : 90, room));
  }

  /** A picture of a frame's format that is one colour all over. */
  colour({ format }: Frame, colour: FlashColour): Frame {
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

/** A colour as shares of red, green and blue. */
function shareOf(colour: FlashColour): readonly [number, number, number] {
  if (colour === 'white') return [1, 1, 1];
  if (colour === 'black' || colour === 'inverted') return [0, 0, 0];
  return [1, 3, 5].map((i) => parseInt(colour.slice(i, i + 2), 16) / 255) as unknown as [number, number, number];
}

interface Slid {
  /** Along rows, or along columns. */
  readonly across: boolean;
  /** Pixels the first has gone, below 0 to the left or up; and those between the two. */
  readonly far: number;
  readonly wide: number;
}

/** The first picture moved by `far` pixels, the second behind it, `black` between them. */
function besideEachOther(
  first: Frame,
  second: Frame,
  black: Frame,
  { across, far, wide }: Slid,
  room: Uint8Array,
): Uint8Array {
  const { layout, width, height } = first.format;
  const size = bytesPerSample(layout);
  let start = 0;
  for (const plane of planeSizes(layout, width, height)) {
    const [row, rows] = [plane.width * size, plane.height];
    const bytesOf = (pixels: number) =>
      across ? Math.round((pixels * plane.width) / width) * size : Math.round((pixels * rows) / height) * row;
    const whole = across ? row : row * rows;
    const [moved, apart] = [Math.abs(bytesOf(far)), bytesOf(wide)];
    // A line, from its end that the first picture goes to: what is left of that, the gap, what is there of the second.
    const stays = Math.max(0, whole - moved);
    const comes = Math.max(0, moved - apart);
    for (let at = start; at < start + plane.bytes; at += whole) {
      if (apart > 0) room.set(black.data.subarray(at, at + whole), at);
      if (far < 0) {
        room.set(first.data.subarray(at + whole - stays, at + whole), at);
        room.set(second.data.subarray(at, at + comes), at + whole - comes);
      } else {
        room.set(first.data.subarray(at, at + stays), at + whole - stays);
        room.set(second.data.subarray(at + whole - comes, at + whole), at);
      }
    }
    start += plane.bytes;
  }
  return room;
}

/** Puts a picture back into `room` everywhere but in the middle, `share` of its width and height. */
function outsideOf({ format, data }: Frame, share: number, room: Uint8Array): void {
  const size = bytesPerSample(format.layout);
  let start = 0;
  for (const { width, height, bytes } of planeSizes(format.layout, format.width, format.height)) {
    // Whole samples that the smaller picture covers wholly.
    const inset = (whole: number) => Math.min(whole >> 1, Math.ceil((whole * (1 - share)) / 2));
    const [left, top] = [inset(width), inset(height)];
    for (let y = 0; y < height; y++) {
      const at = start + y * width * size;
      const [from, to] = y < top || y >= height - top ? [width, width] : [left, width - left];
      room.set(data.subarray(at, at + from * size), at);
      room.set(data.subarray(at + to * size, at + width * size), at + to * size);
    }
    start += bytes;
  }
}
