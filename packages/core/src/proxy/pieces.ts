import { framesPerSecond, type Rate } from '../time/rate.js';

/** Frames from one key frame of a proxy to the next; nothing in it is reordered. */
export const PROXY_GROUP = 12;

/** How long a piece of a proxy is, about, seconds. */
const PIECE_SECONDS = 2;

/** How a proxy is cut into pieces: whole groups of pictures, about two seconds each; the last one may be shorter. */
export interface PieceLayout {
  /** Frames of every piece but the last. */
  readonly frames: number;
  readonly count: number;
  first(piece: number): number;
  framesIn(piece: number): number;
  /** The piece a frame is in. */
  of(frame: number): number;
}

/** The pieces of a source of so many frames at this rate. */
export function piecesOf({ frames: all, rate }: { readonly frames: number; readonly rate: Rate }): PieceLayout {
  const frames = PROXY_GROUP * Math.max(1, Math.round((PIECE_SECONDS * framesPerSecond(rate)) / PROXY_GROUP));
  const first = (piece: number) => piece * frames;
  return {
    ...{ frames, first },
    count: Math.max(1, Math.ceil(all / frames)),
    framesIn: (piece) => Math.max(0, Math.min(all, first(piece + 1)) - first(piece)),
    of: (frame) => Math.floor(frame / frames),
  };
}
