import { blackFrame, type Frame } from '@idle-bend/core/frame';
import {
  nowOf,
  partsOf,
  type FlowSample,
  type PlainSample,
  type Sample,
  type SimpleSample,
} from '@idle-bend/core/sampling';
import {
  cameraMotion,
  canFlow,
  isCut,
  motionOfCamera,
  motionOfInstant,
  motionOfPair,
  usualReach,
  sideOfCut,
  type ErrorTerms,
  type Exposure,
  type Flow,
  type Kernels,
  type Keys,
  type Level,
  type BetweenOptions,
  type Instant,
  type KeptShares,
  type MotionGrid,
  type PairFlow,
} from '@idle-bend/kernels';
import { FlowCache } from './flow-cache.js';
import type { FrameProvider } from './frame-provider.js';

/** What Flow needs. Without it a composer makes no such frames. */
export interface FlowMeans {
  readonly flow: Flow;
  readonly exposure: Exposure;
  /** Finds a pair's motion; another thread may do it. It takes what it needs of the frames before it returns. */
  readonly pair: (a: Frame, b: Frame, level: Level, keys: Keys) => PairFlow | Promise<PairFlow>;
  readonly level: Level;
  /** Bound of the motion kept, in bytes. */
  readonly cacheBytes: number;
}

/** Composers of several sources may share one Flow, which knows pictures by number: each has numbers of its own. */
const NUMBERS_EACH = 2 ** 32;
let composers = 0;

type Shutter = Extract<Sample, { kind: 'shutter' }>;
type Smear = Extract<Sample, { kind: 'smear' }>;

/**
 * A part of an exposure is drawn out along its motion by no more than about this share of the picture's width, or a few pixels; at
 * `moving`, one part is all there is.
 */
const PART: Readonly<Record<Level, { readonly share: number; readonly pixels: number }>> = {
  moving: { share: Infinity, pixels: Infinity },
  quick: { share: 0.04, pixels: 14 },
  default: { share: 0.02, pixels: 7 },
  best: { share: 0.01, pixels: 4 },
};

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
  async compose(sample: Sample, level?: Level, evidence?: ErrorTerms): Promise<Frame> {
    if (sample.kind === 'shutter' && this.canBlur(sample))
      return this.composeShutter(sample, level ?? this.need().level, evidence);
    if (sample.kind === 'smear' && this.canBlur(sample))
      return this.composeSmear(sample, level ?? this.need().level, evidence);
    return this.composePlain(nowOf(sample), level, evidence);
  }

  private async composePlain(sample: PlainSample, level?: Level, evidence?: ErrorTerms): Promise<Frame> {
    if (sample.kind !== 'fade') return this.composeSimple(sample, 0, level, evidence);
    const from = await this.composeSimple(sample.from, 0, level, evidence);
    const room = this.room(from, 0);
    // The provider's frames are its own and may go with the next request.
    if (from.data !== room) room.set(from.data);
    const to = await this.composeSimple(sample.to, 1, level);
    return {
      format: from.format,
      data: this.kernels.blend({ format: from.format, data: room }, to, sample.share, room),
    };
  }

  private async composeSimple(
    sample: SimpleSample,
    slot: number,
    level: Level | undefined,
    evidence?: ErrorTerms,
  ): Promise<Frame> {
    if (sample.kind === 'black') return (this.black ??= blackFrame(this.provider.format));
    if (sample.kind === 'source') return (await this.provider.frames([sample.frame]))[0]!;
    if (sample.kind === 'flow' && canFlow(this.provider.format))
      return this.composeFlow(sample, slot, level ?? this.need().level, evidence);
    const [a, b] = (await this.provider.frames([sample.a, sample.b])) as [Frame, Frame];
    return { format: a.format, data: this.kernels.blend(a, b, sample.fraction, this.room(a, slot)) };
  }

  /** Whether a sample can be made without finding any motion first. */
  isReady(sample: Sample, level?: Level): boolean {
    if (!canFlow(this.provider.format)) return true;
    return flowsOf(sample).every((flow) =>
      endsOf(flow).every((end) => !end || this.motion!.has(level ?? this.need().level, ...end)),
    );
  }

  /** Starts finding the motion a sample will need, where that is another thread's work. Makes frames got before stale. */
  async prepare(sample: Sample, level?: Level): Promise<void> {
    if (!canFlow(this.provider.format)) return;
    for (const flow of flowsOf(sample)) await this.start(flow, level ?? this.need().level, []);
  }

  /** The motion a Flow sample goes by; none for others, and across a cut. */
  async moment(sample: Sample, level?: Level): Promise<Instant | undefined> {
    const [flow] = flowsOf(nowOf(sample));
    if (!flow || !canFlow(this.provider.format)) return undefined;
    return this.momentOf(flow, level ?? this.need().level);
  }

  /** The share of a Flow sample that motion keeps, block by block; none for others, and across a cut. */
  async kept(sample: Sample, level?: Level): Promise<KeptShares | undefined> {
    const [flow] = flowsOf(nowOf(sample));
    if (!flow || !canFlow(this.provider.format)) return undefined;
    const { a, b, pair, around } = await this.found(flow, level ?? this.need().level);
    return isCut(pair) ? undefined : this.need().flow.kept(a, b, pair, flow.fraction, this.optionsOf(flow, around));
  }

  private async momentOf(flow: FlowSample, level: Level): Promise<Instant | undefined> {
    const { a, b, pair, around } = await this.found(flow, level);
    return isCut(pair) ? undefined : this.need().flow.moment(a, b, pair, flow.fraction, this.optionsOf(flow, around));
  }

  private optionsOf({ a, b, tuning, knot }: FlowSample, around: BetweenOptions['around']): BetweenOptions {
    return { around, keys: this.keys(a, b), tuning, knot };
  }

  private canBlur(sample: Shutter | Smear): boolean {
    return this.means !== undefined && canFlow(this.provider.format) && flowsOf(sample).length > 0;
  }

  /** The mean of moments while the shutter is open, as many as the motion needs, each drawn out until the next. */
  private async composeShutter({ edges, steps }: Shutter, level: Level, evidence?: ErrorTerms): Promise<Frame> {
    const { exposure } = this.need();
    const count = await this.partsNeeded(edges, steps, level);
    const { format } = this.provider;
    exposure.begin(format);
    for (let part = 0; part < count; part++) {
      const [from, to] = [part, part + 1].map((n) => Math.round((n * steps.length) / count)) as [number, number];
      const step = steps[(from + to - 1) >> 1]!;
      const motion = await this.motionOfStep(steps, step, level);
      const picture = await this.composeSimple(step, 0, level, evidence);
      exposure.add(picture, motion, edges[to]! - edges[from]!, to - from);
    }
    return { format, data: exposure.end(this.room((this.black ??= blackFrame(format)), 2)) };
  }

  /** Enough parts that no part is drawn out further than the level allows. */
  private async partsNeeded(edges: readonly number[], steps: readonly SimpleSample[], level: Level): Promise<number> {
    const longest = Math.max(PART[level].pixels, PART[level].share * this.provider.format.width);
    if (longest === Infinity) return 1;
    let fastest = 0;
    for (const step of [steps[0]!, steps[steps.length >> 1]!, steps.at(-1)!]) {
      const motion = await this.motionOfStep(steps, step, level, true);
      if (motion) fastest = Math.max(fastest, usualReach(motion));
    }
    const way = edges.reduce((sum, edge, i) => (i === 0 ? 0 : sum + Math.abs(edge - edges[i - 1]!)), 0);
    return Math.max(1, Math.min(steps.length, Math.ceil((fastest * way) / longest)));
  }

  /** The motion a part goes by: at its very moment, or, roughly, that of the frames around. None across a cut. */
  private async motionOfStep(
    steps: readonly SimpleSample[],
    step: SimpleSample,
    level: Level,
    roughly = level === 'quick' || level === 'moving',
  ): Promise<MotionGrid | undefined> {
    if (step.kind === 'flow' && !roughly) {
      const moment = await this.momentOf(step, level);
      return moment && motionOfInstant(moment);
    }
    const flow = step.kind === 'flow' ? step : nearestFlow(steps, steps.indexOf(step));
    if (!flow || step.kind === 'black') return undefined;
    const { pair } = await this.found(flow, level);
    return isCut(pair) ? undefined : motionOfPair(pair);
  }

  /** The picture drawn out along the common motion there. */
  private async composeSmear({ now, along, frames }: Smear, level: Level, evidence?: ErrorTerms): Promise<Frame> {
    const { exposure } = this.need();
    const { pair } = await this.found(along, level);
    const picture = await this.composePlain(now, level, evidence);
    if (isCut(pair)) return picture;
    exposure.begin(picture.format);
    exposure.add(picture, motionOfCamera(cameraMotion(pair), picture.format), frames);
    return { format: picture.format, data: exposure.end(this.room(picture, 2)) };
  }

  private async composeFlow(
    sample: FlowSample,
    slot: number,
    level: Level,
    evidence: ErrorTerms | undefined,
  ): Promise<Frame> {
    const { a, b, pair, around } = await this.found(sample, level);
    const options = { ...this.optionsOf(sample, around), evidence };
    if (!isCut(pair))
      return {
        format: a.format,
        data: this.need().flow.between(a, b, pair, sample.fraction, this.room(a, slot), options),
      };
    if (evidence) Object.assign(evidence, this.need().flow.evidence(a, b, pair, sample.fraction, options));
    return sideOfCut(sample.fraction, around) === 0 ? a : b;
  }

  /** The frames of a Flow sample and the motion between and around them. */
  private async found(sample: FlowSample, level: Level) {
    const { pairs, frames } = await this.start(sample, level, [sample.a, sample.b]);
    const [a, b] = frames as [Frame, Frame];
    const [before, pair, after] = await Promise.all(pairs.map(async (found) => found));
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
    const pairs = ends.map(
      (end) => end && motion.get(level, ...end, () => pair(frame(end[0]), frame(end[1]), level, this.keys(...end))),
    );
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

/** The parts of a sample that Flow makes, one for each pair of frames. */
function flowsOf(sample: Sample): FlowSample[] {
  const flows = partsOf(sample).filter((part) => part.kind === 'flow');
  return flows.filter((flow, i) => flows.findIndex((other) => other.a === flow.a && other.b === flow.b) === i);
}

/** The part next to step `i` that lies between frames. */
function nearestFlow(steps: readonly SimpleSample[], i: number): FlowSample | undefined {
  for (let off = 1; off < steps.length; off++)
    for (const step of [steps[i + off], steps[i - off]]) if (step?.kind === 'flow') return step;
  return undefined;
}

/** The pair before, the pair itself and the pair after. */
function endsOf({ a, b, before, after }: FlowSample): readonly (readonly [number, number] | undefined)[] {
  return [before === undefined ? undefined : [before, a], [a, b], after === undefined ? undefined : [b, after]];
}
