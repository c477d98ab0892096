import type { Frame, FrameFormat } from '@idle-bend/core/frame';
import type { Kernels } from '@idle-bend/kernels';
import type { FrameProvider } from '@idle-bend/pipeline';
import { canDecode } from './can-decode.ts';
import type { Origin } from './messages.ts';
import { OriginalProvider } from './original-provider.ts';
import { ProxyProvider } from './proxy-provider.ts';

/** Pictures of the original that are kept, bytes. */
const CACHE_BYTES = 96 * 2 ** 20;
/** Pieces that are kept open; each keeps its last pictures. */
const MAX_PIECES = 4;
const PIECE_CACHE_BYTES = 48 * 2 ** 20;
/** Where decoding here would take longer, milliseconds, it is no way to look around: the server, which has as far to go from a key frame, does it. */
const SOON_MS = 40;
/** The browser's decoder is tried out when the page has come to rest, milliseconds. */
const AT_REST_MS = 1000;
/** Where somebody looks is told as often, milliseconds. */
const TOLD_MS = 150;
/** How long what pieces there are is believed, milliseconds. */
const BELIEVED_MS = 700;

/**
 * The frames of footage whose proxy is being made, or that this browser cannot decode, by number: from pieces of the proxy where those are
 * there; else of the original, decoded here where the browser can and that is quick; else as the server makes them of it, one by one.
 */
export class ArrivingProvider implements FrameProvider {
  readonly format: FrameFormat;
  /** Pictures of the original, the one used last at the end. */
  private readonly stills = new Map<number, Promise<Frame>>();
  private readonly pieces = new Map<number, Promise<ProxyProvider>>();
  private readonly mostStills: number;
  private made: ReadonlySet<number> = new Set();
  private pieceFrames = Infinity;
  private asked = -Infinity;
  private asking: Promise<void> | undefined;
  private original: OriginalProvider | undefined;
  private isOpening = false;
  private isClosed = false;

  private constructor(
    private readonly footage: string,
    private readonly revision: string,
    private readonly framesPerSecond: number,
    private readonly first: Frame,
    readonly frameCount: number,
    private readonly kernels: Kernels,
  ) {
    const { format } = first;
    this.format = { ...format, colour: { ...format.colour, range: format.colour.range ?? 'limited' } };
    this.mostStills = Math.max(8, Math.floor(CACHE_BYTES / (format.width * format.height * 1.5)));
  }

  /** @param url of the footage; what is made of it lies under it */
  static async open(url: string, revision: string, frameCount: number, framesPerSecond: number, kernels: Kernels) {
    return new ArrivingProvider(url, revision, framesPerSecond, await fetchPicture(url, 0), frameCount, kernels);
  }

  async frames(wanted: readonly number[]): Promise<readonly Frame[]> {
    await this.look();
    const frames = await Promise.all(wanted.map((n) => this.frame(n)));
    void this.openOriginal();
    return frames;
  }

  /** Once something is in sight: it takes a little of the machine, and of the line. */
  private async openOriginal(): Promise<void> {
    if (this.isOpening || !canDecode()) return;
    this.isOpening = true;
    await new Promise((resolve) => setTimeout(resolve, AT_REST_MS));
    // It may have become whole meanwhile.
    await this.look();
    if (this.isClosed || this.pieceFrames === Infinity) return;
    const original = await OriginalProvider.open(this.footage, this.first, this.kernels).catch(() => undefined);
    if (this.isClosed) original?.close();
    else this.original = original;
  }

  /** What is kept goes; frames that are asked for all the same come from the server. */
  close(): void {
    this.isClosed = true;
    this.original?.close();
    this.original = undefined;
    this.stills.clear();
    this.pieces.clear();
  }

  /** Where a frame that was asked for came from. */
  originOf(frame: number): Origin {
    if (this.isInPiece(frame)) return 'proxy';
    return this.original?.has(frame) ? 'original' : 'server';
  }

  private isInPiece(frame: number): boolean {
    return this.made.has(Math.floor(frame / this.pieceFrames));
  }

  /** Pictures of the original are made one after another: what may be wanted would only stand in the way of what is. */
  prefetch(frame: number): void {
    if (this.isInPiece(frame)) this.frame(frame).catch(() => undefined);
  }

  private async frame(n: number): Promise<Frame> {
    const piece = Math.floor(n / this.pieceFrames);
    if (!this.made.has(piece)) return this.ofOriginal(n);
    try {
      const provider = await this.piece(piece);
      const [frame] = await provider.frames([n - piece * this.pieceFrames]);
      return { format: this.format, data: frame!.data };
    } catch {
      // The proxy may have become whole, and its pieces gone, meanwhile.
      this.asked = -Infinity;
      return this.ofOriginal(n);
    }
  }

  private async ofOriginal(n: number): Promise<Frame> {
    const { original } = this;
    if (!original || this.stills.has(n) || original.costOf(n) > SOON_MS) return this.still(n);
    try {
      this.tellLook(n);
      const { data } = await original.frame(n);
      return { format: this.format, data };
    } catch {
      // What it cannot decode once it is not asked for again.
      original.close();
      if (this.original === original) this.original = undefined;
      return this.still(n);
    }
  }

  private looked: { at: number } | undefined;

  /** The server does not hear of pictures that are decoded here; it makes those pieces first that are looked at. */
  private tellLook(n: number): void {
    const tell = (at: number) => fetch(`${this.footage}/pieces?at=${at}`).catch(() => undefined);
    if (this.looked) {
      this.looked.at = n;
      return;
    }
    void tell(n);
    const looked = { at: n };
    this.looked = looked;
    setTimeout(() => {
      this.looked = undefined;
      if (looked.at !== n) this.tellLook(looked.at);
    }, TOLD_MS);
  }

  private piece(number: number): Promise<ProxyProvider> {
    const count = Math.min(this.pieceFrames, this.frameCount - number * this.pieceFrames);
    const url = `${this.footage}/pieces/${number}?revision=${this.revision}`;
    const piece = this.pieces.get(number) ?? ProxyProvider.open(url, count, this.framesPerSecond, PIECE_CACHE_BYTES);
    keepLast(this.pieces, number, piece, MAX_PIECES);
    return piece;
  }

  private still(n: number): Promise<Frame> {
    const picture = this.stills.get(n) ?? this.fetchStill(n);
    keepLast(this.stills, n, picture, this.mostStills);
    return picture;
  }

  private async fetchStill(n: number): Promise<Frame> {
    const { format, data } = await fetchPicture(this.footage, n);
    // Its proxy is made at another size now: the page hears of that, and opens it instead of this.
    if (format.width !== this.format.width || format.height !== this.format.height)
      throw new Error(`frame ${n} is of another size now`);
    return { format: this.format, data };
  }

  /** Asks which pieces there are, now and then. */
  private look(): Promise<void> {
    if (!canDecode() || performance.now() - this.asked < BELIEVED_MS) return Promise.resolve();
    this.asking ??= fetch(`${this.footage}/pieces`)
      .then(async (response) => {
        // A proxy that is whole is not in pieces; the page hears of that, and opens it instead of this.
        const said = (response.ok ? await response.json() : { frames: Infinity, made: [] }) as {
          frames: number;
          made: number[];
        };
        [this.pieceFrames, this.made] = [said.frames, new Set(said.made)];
      })
      .catch(() => undefined)
      .finally(() => ((this.asked = performance.now()), (this.asking = undefined)));
    return this.asking;
  }
}

/** Puts a promise at the end of a map; those longest unused, and those that fail, go. */
function keepLast<T>(map: Map<number, Promise<T>>, key: number, value: Promise<T>, most: number): void {
  map.delete(key);
  map.set(key, value);
  value.catch(() => map.get(key) === value && map.delete(key));
  for (const oldest of map.keys()) {
    if (map.size <= most) break;
    map.delete(oldest);
  }
}

async function fetchPicture(footage: string, frame: number): Promise<Frame> {
  const response = await fetch(`${footage}/pictures/${frame}`);
  if (!response.ok) {
    const { message } = (await response.json().catch(() => ({}))) as { message?: string };
    throw new Error(message?.replace(/\.$/, '') ?? `frame ${frame} could not be fetched`);
  }
  const format = JSON.parse(response.headers.get('X-Frame-Format')!) as FrameFormat;
  return { format, data: new Uint8Array(await response.arrayBuffer()) };
}
