import { blackFrame, type Frame, type Sample, type SimpleSample } from '@idle-bend/core';
import { canFlow, isCut, sideOfCut, type Evidence, type Flow, type Kernels, type Keys, type Level, type Moment, type PairFlow } from '@idle-bend/kernels';
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

/** Makes output frames of one source. Owns the buffers made frames are written to; used by preview and export alike. */
export class FrameComposer {
  private readonly rooms: (Uint8Array | undefined)[] = [];
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
   * untouched, bit for bit. The frame stays as it is until the next call. `evidence` gets what speaks against a Flow frame.
   */
  async compose(sample: Sample, level?: Level, evidence?: Evidence): Promise<Frame> {
    if (sample.kind !== 'fade') return this.composeSimple(sample, 0, level, evidence);
    const from = await this.composeSimple(sample.from, 0, level, evidence);
    const room = this.room(from, 0);
    // The provider's frames are its own and may go with the next request.
    if (from.data !== room) room.set(from.data);
    const to = await this.composeSimple(sample.to, 1, level);
    return { format: from.format, data: this.kernels.blend({ format: from.format, data: room }, to, sample.share, room) };
  }

  private async composeSimple(sample: SimpleSample, slot: number, level: Level | undefined, evidence?: Evidence): Promise<Frame> {
    if (sample.kind === 'black') return (this.black ??= blackFrame(this.provider.format));
    if (sample.kind === 'source') return (await this.provider.frames([sample.frame]))[0]!;
    if (sample.kind === 'flow' && canFlow(this.provider.format)) return this.composeFlow(sample, slot, level ?? this.need().level, evidence);
    const [a, b] = (await this.provider.frames([sample.a, sample.b])) as [Frame, Frame];
    return { format: a.format, data: this.kernels.blend(a, b, sample.fraction, this.room(a, slot)) };
  }

  /** Whether a sample can be made without finding any motion first. */
  isReady(sample: Sample, level?: Level): boolean {
    const flow = flowOf(sample);
    if (!flow || !canFlow(this.provider.format)) return true;
    const wanted = level ?? this.need().level;
    return endsOf(flow).every((end) => !end || this.motion!.has(wanted, ...end));
  }

  /** Starts finding the motion a sample will need, where that is another thread's work. Makes frames got before stale. */
  async prepare(sample: Sample, level?: Level): Promise<void> {
    const flow = flowOf(sample);
    if (flow && canFlow(this.provider.format)) await this.start(flow, level ?? this.need().level, []);
  }

  /** The motion a Flow sample goes by; none for others, and across a cut. */
  async moment(sample: Sample, level?: Level): Promise<Moment | undefined> {
    const flow = flowOf(sample);
    if (!flow || !canFlow(this.provider.format)) return undefined;
    const { a, b, pair, around } = await this.found(flow, level ?? this.need().level);
    return isCut(pair) ? undefined : this.need().flow.moment(a, b, pair, flow.fraction, { around, keys: this.keys(flow.a, flow.b), temper: flow.temper });
  }

  private async composeFlow(sample: FlowSample, slot: number, level: Level, evidence: Evidence | undefined): Promise<Frame> {
    const { a, b, pair, around } = await this.found(sample, level);
    const options = { around, keys: this.keys(sample.a, sample.b), temper: sample.temper, evidence };
    if (!isCut(pair)) return { format: a.format, data: this.need().flow.between(a, b, pair, sample.fraction, this.room(a, slot), options) };
    if (evidence) Object.assign(evidence, this.need().flow.evidence(a, b, pair, sample.fraction, options));
    return sideOfCut(sample.fraction, around) === 0 ? a : b;
  }

  /** The frames of a Flow sample and the motion between and around them. */
  private async found(sample: FlowSample, level: Level) {
    const { pairs, frames } = await this.start(sample, level, [sample.a, sample.b]);
    const [a, b] = frames as [Frame, Frame];
    const [before, pair, after] = await Promise.all(pairs);
    return { a, b, pair: pair!, around: { before, after } };
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

  private room({ data }: Frame, slot: number): Uint8Array {
    if (this.rooms[slot]?.length !== data.length) this.rooms[slot] = new Uint8Array(data.length);
    return this.rooms[slot];
  }
}

/** The part of a sample that Flow makes. */
function flowOf(sample: Sample): FlowSample | undefined {
  if (sample.kind === 'fade') return flowOf(sample.from) ?? flowOf(sample.to);
  return sample.kind === 'flow' ? sample : undefined;
}

/** The pair before, the pair itself and the pair after. */
function endsOf({ a, b, before, after }: FlowSample): readonly (readonly [number, number] | undefined)[] {
  return [before === undefined ? undefined : [before, a], [a, b], after === undefined ? undefined : [b, after]];
}
