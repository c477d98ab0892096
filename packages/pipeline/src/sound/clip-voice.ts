import { CROSSED, reachOf, resample, SOUND_RATE, type SoundPath } from '@idle-bend/core/sound';
import { silence, type SoundProvider, type Stereo } from './sound-provider.js';
import { Stretcher, STRETCH_BLOCK } from './stretcher.js';

const { min, max, abs, floor, ceil, round } = Math;

/** Samples made at a time: a whole number of the stretcher's blocks. */
export const VOICE_BLOCK = 16 * STRETCH_BLOCK;
/** A stretcher that starts in the middle has this many blocks to come into swing. */
const RUN_UP = 6;

/** The stretcher draws a sound out by two cleanly; more, and its phases are made at random, which a steady tone loses loudness by. */
const CLEANLY = 0.5;
/** And a pitch is raised by no more than this without a trace. */
const MIN_DRAWN_OUT = 0.2;

/** The part of its speed a sound is read at before it is stretched to a rate. */
const drawnOutBy = (rate: number): number => max(MIN_DRAWN_OUT, min(1, rate / CLEANLY));

/** One clip's own sound along its curve, block by block from its beginning; it goes on a little past its end, for the crossing. */
export class ClipVoice {
  private stretcher: Stretcher | undefined;
  /** The block the stretcher makes next. */
  private nextStretched = 0;

  constructor(
    readonly path: SoundPath,
    private readonly source: SoundProvider,
  ) {}

  /** Samples until it is over, the crossing included. */
  get length(): number {
    return this.path.length + ceil(CROSSED * SOUND_RATE);
  }

  /** Adds block `n` of the voice to `out` from `at` on; what does not fit in is left out. */
  async addBlock(n: number, out: Stereo, at: number): Promise<void> {
    const first = n * VOICE_BLOCK;
    const count = min(VOICE_BLOCK, this.length - first);
    if (count <= 0) return;
    const follow = new Float32Array(count);
    const keep = new Float32Array(count);
    let [follows, keeps] = [false, false];
    for (let i = 0; i < count; i++) {
      const shares = this.path.shares(first + i);
      follow[i] = shares.follow;
      keep[i] = shares.keep;
      if (shares.follow > 0) follows = true;
      if (shares.keep > 0) keeps = true;
    }
    if (follows) add(await this.followed(first, count), follow, out, at);
    if (keeps) add(await this.kept(n, count), keep, out, at);
  }

  private async followed(first: number, count: number): Promise<Stereo> {
    const [positions, rates] = [new Float64Array(count), new Float64Array(count)];
    let [low, high, fastest] = [Infinity, -Infinity, 0];
    for (let i = 0; i < count; i++) {
      const at = (positions[i] = this.path.position(first + i));
      rates[i] = this.path.rate(first + i);
      low = min(low, at);
      high = max(high, at);
      fastest = max(fastest, abs(rates[i]!));
    }
    const around = reachOf(fastest);
    const from = floor(low) - around;
    const read = await this.source.read(from, ceil(high) + around - from + 1);
    const out = silence(count);
    resample(read, from, positions, rates, out);
    return out;
  }

  private async kept(n: number, count: number): Promise<Stereo> {
    const blocks = VOICE_BLOCK / STRETCH_BLOCK;
    if (!this.stretcher || this.nextStretched > n * blocks || this.nextStretched < (n - 1) * blocks) {
      this.stretcher = await Stretcher.make();
      this.nextStretched = max(0, n * blocks - RUN_UP);
    }
    const out = silence(count);
    const unheard = silence(STRETCH_BLOCK);
    for (; this.nextStretched < (n + 1) * blocks; this.nextStretched++) {
      const at = (this.nextStretched - n * blocks) * STRETCH_BLOCK;
      if (at >= count) break;
      await this.stretchBlock(this.stretcher, this.nextStretched * STRETCH_BLOCK, at < 0 ? unheard : out, max(0, at));
    }
    this.nextStretched = (n + 1) * blocks;
    return out;
  }

  /** What is heard at `sample` is put in as long before as the stretcher takes. */
  private async stretchBlock(stretcher: Stretcher, sample: number, out: Stereo, at: number): Promise<void> {
    const due = sample + stretcher.late;
    const [rate, position] = [this.path.rate(due), round(this.path.position(due))];
    const { ahead, looksAt } = stretcher;
    const drawnOut = drawnOutBy(abs(rate));
    if (drawnOut < 1)
      return stretcher.next(
        await this.drawnOut(position, ahead, looksAt, rate < 0 ? -drawnOut : drawnOut),
        abs(rate) / drawnOut,
        out,
        at,
        drawnOut,
      );
    if (rate >= 0) return stretcher.next(await this.source.read(position + ahead - looksAt, looksAt), rate, out, at);
    // Backward the source is put in the other way round.
    const [left, right] = await this.source.read(position - ahead, looksAt);
    stretcher.next([left.slice().reverse(), right.slice().reverse()], -rate, out, at);
  }

  /** Input about a position, read at a part of its speed; below 0 backward. */
  private async drawnOut(position: number, ahead: number, count: number, by: number): Promise<Stereo> {
    const positions = Float64Array.from({ length: count }, (_, i) => position + (ahead - count + i) * by);
    const [low, high] = [min(positions[0]!, positions[count - 1]!), max(positions[0]!, positions[count - 1]!)];
    const around = reachOf(1);
    const from = floor(low) - around;
    const out = silence(count);
    resample(
      await this.source.read(from, ceil(high) + around - from + 1),
      from,
      positions,
      new Float64Array(count).fill(by),
      out,
    );
    return out;
  }
}

function add([left, right]: Stereo, share: Float32Array, out: Stereo, at: number): void {
  const count = min(share.length, out[0].length - at);
  for (let i = max(0, -at); i < count; i++) {
    out[0][at + i]! += left[i]! * share[i]!;
    out[1][at + i]! += right[i]! * share[i]!;
  }
}
