import { blackFrame, type Frame, type Sample } from '@idle-bend/core';
import { canFlow, isCut, type Flow, type Kernels, type Keys, type Level, type PairFlow } from '@idle-bend/kernels';
import { FlowCache } from './flow-cache.js';
import type { FrameProvider } from './frame-provider.js';

/** What Flow needs. Without it a composer makes no such frames. */
export interface FlowMeans {
  readonly flow: Flow;
  /** Finds a pair's motion; another thread may do it. It takes what it needs of the frames before it returns. */
  readonly pair: (a: Frame, b: Frame, level: Level, keys: Keys) => PairFlow | Promise<PairFlow>;
  readonly level: Level;
  /** Bound of the motion kept, in bytes. */
  readonly cacheBytes: number;
}

/** Composers of several sources may share one Flow, which knows pictures by number: each has numbers of its own. */
const NUMBERS_EACH = 2 ** 32;
let composers = 0;

type FlowSample = Extract<Sample, { kind: 'flow' }>;

/** Makes output frames of one source. Owns the one buffer made frames are written to; used by preview and export alike. */
export class FrameComposer {
  private made: Uint8Array | undefined;
  private black: Frame | undefined;
  private readonly motion: FlowCache | undefined;
  private readonly firstKey = NUMBERS_EACH * composers++;

  constructor(
    private readonly kernels: Kernels,
    private readonly provider: FrameProvider,
    private readonly means?: FlowMeans,
  ) {
    if (means) this.motion = new FlowCache(means.cacheBytes);
  }

  /**
   * The pixels of a sample, in-betweens of Flow at `level`, the means' own without one. A source frame passes through
   * untouched, bit for bit. The frame stays as it is until the next call.
   */
  async compose(sample: Sample, level?: Level): Promise<Frame> {
    if (sample.kind === 'black') return (this.black ??= blackFrame(this.provider.format));
    if (sample.kind === 'source') return (await this.provider.frames([sample.frame]))[0]!;
    if (sample.kind === 'flow' && canFlow(this.provider.format)) return this.composeFlow(sample, level ?? this.need().level);
    const [a, b] = (await this.provider.frames([sample.a, sample.b])) as [Frame, Frame];
    return { format: a.format, data: this.kernels.blend(a, b, sample.fraction, this.room(a)) };
  }

  /** Whether a sample can be made without finding any motion first. */
  isReady(sample: Sample, level?: Level): boolean {
    if (sample.kind !== 'flow' || !canFlow(this.provider.format)) return true;
    const wanted = level ?? this.need().level;
    return endsOf(sample).every((end) => !end || this.motion!.has(wanted, ...end));
  }

  /** Starts finding the motion a sample will need, where that is another thread's work. Makes frames got before stale. */
  async prepare(sample: Sample): Promise<void> {
    if (sample.kind === 'flow' && canFlow(this.provider.format)) await this.start(sample, this.need().level, []);
  }

  private async composeFlow(sample: FlowSample, level: Level): Promise<Frame> {
    const { flow } = this.need();
    const { pairs, frames } = await this.start(sample, level, [sample.a, sample.b]);
    const [a, b] = frames as [Frame, Frame];
    const [before, pair, after] = await Promise.all(pairs);
    if (isCut(pair!)) return sample.fraction < 0.5 ? a : b;
    const around = { before: before && !isCut(before) ? before : undefined, after: after && !isCut(after) ? after : undefined };
    return { format: a.format, data: flow.between(a, b, pair!, sample.fraction, this.room(a), around, this.keys(sample.a, sample.b)) };
  }

  /** The motion of the pair and of those around it, found or being found, and the frames asked for. */
  private async start(sample: FlowSample, level: Level, wanted: readonly number[]) {
    const { pair } = this.need();
    const motion = this.motion!;
    const ends = endsOf(sample);
    const missing = ends.flatMap((end) => (end && !motion.has(level, ...end) ? end : []));
    const numbers = [...new Set([...wanted, ...missing])];
    const got = numbers.length > 0 ? await this.provider.frames(numbers) : [];
    const frame = (n: number) => got[numbers.indexOf(n)]!;
    const pairs = ends.map((end) => end && motion.get(level, ...end, () => pair(frame(end[0]), frame(end[1]), level, this.keys(...end))));
    return { pairs, frames: wanted.map(frame) };
  }

  private keys(a: number, b: number): Keys {
    return [this.firstKey + a, this.firstKey + b];
  }

  private need(): FlowMeans {
    if (!this.means) throw new Error('this composer was not given the means to make Flow frames');
    return this.means;
  }

  private room({ data }: Frame): Uint8Array {
    if (this.made?.length !== data.length) this.made = new Uint8Array(data.length);
    return this.made;
  }
}

/** The pair before, the pair itself and the pair after. */
function endsOf({ a, b, before, after }: FlowSample): readonly (readonly [number, number] | undefined)[] {
  return [before === undefined ? undefined : [before, a], [a, b], after === undefined ? undefined : [b, after]];
}
