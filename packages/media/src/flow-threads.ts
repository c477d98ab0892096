import { Worker } from 'node:worker_threads';
import type { Frame } from '@idle-bend/core/frame';
import { partsOf, type Sample } from '@idle-bend/core/sampling';
import type { Keys, Level, PairFlow, PairWish } from '@idle-bend/kernels';
import type { FlowMeans, FrameComposer } from '@idle-bend/pipeline';
import type { FlowStore } from './flow-store.js';
import { loadExposure, loadFlow } from './kernels.js';

/** Motion kept of the pairs last used; at 1920 × 1080 and the default level one takes 12 MiB. */
const CACHE_BYTES = 384 * 2 ** 20;

/** Each thread works a pair ahead, and the frames of those must stay in the reader’s cache. */
const MAX_THREADS = 8;

interface Answer {
  readonly id: number;
  readonly pair?: PairFlow;
  readonly error?: string;
}

/** One thread that finds motion, and what it has been asked. */
class Helper {
  private readonly worker = new Worker(new URL('./flow-thread.js', import.meta.url));
  private readonly waiting = new Map<number, { resolve: (pair: PairFlow) => void; reject: (error: Error) => void }>();
  private next = 0;
  private ended: Error | undefined;

  constructor() {
    const fail = (error: Error) => {
      this.ended ??= error;
      for (const { reject } of this.waiting.values()) reject(error);
      this.waiting.clear();
    };
    this.worker.on('error', fail);
    this.worker.on('exit', () => fail(new Error('the thread that finds motion ended')));
    this.worker.on('message', ({ id, pair, error }: Answer) => {
      const request = this.waiting.get(id);
      this.waiting.delete(id);
      if (pair) request?.resolve(pair);
      else request?.reject(new Error(error));
    });
  }

  get busy(): number {
    return this.waiting.size;
  }

  ask(a: Frame, b: Frame, level: Level, keys: Keys): Promise<PairFlow> {
    if (this.ended) return Promise.reject(this.ended);
    const id = this.next++;
    const answer = new Promise<PairFlow>((resolve, reject) => this.waiting.set(id, { resolve, reject }));
    // A render that stops leaves answers nobody waits for.
    answer.catch(() => undefined);
    this.worker.postMessage({ id, a, b, level, keys } satisfies PairWish);
    return answer;
  }

  close(): void {
    void this.worker.terminate();
  }
}

/**
 * Flow on `threads` threads: this one makes the pictures, the others find the motion of the pairs that come next. What is
 * made is the same for any number.
 */
export class FlowThreads {
  readonly means: FlowMeans;
  private readonly helpers: readonly Helper[];

  private readonly threads: number;

  /** @param store where motion is kept between runs; none keeps it in memory only */
  constructor(threads: number, level: Level, store?: FlowStore) {
    this.threads = Math.min(threads, MAX_THREADS);
    this.helpers = Array.from({ length: this.threads - 1 }, () => new Helper());
    const flow = loadFlow();
    const find = (a: Frame, b: Frame, wanted: Level, keys: Keys) => {
      if (this.helpers.length === 0) return flow.pair(a, b, wanted, keys);
      return this.helpers
        .reduce((least, helper) => (helper.busy < least.busy ? helper : least))
        .ask(a, b, wanted, keys);
    };
    const kept = async (a: Frame, b: Frame, wanted: Level, keys: Keys) => {
      const key = store!.key(a, b, wanted);
      const [first, second] = [copyOf(a), copyOf(b)];
      const known = await store!.get(key);
      if (known) return known;
      const found = await find(first, second, wanted, keys);
      await store!.put(key, found);
      return found;
    };
    this.means = { flow, exposure: loadExposure(), pair: store ? kept : find, level, cacheBytes: CACHE_BYTES };
  }

  /** Gets the motion under way that the frames from `k` on will need, as far ahead as there are threads. */
  async ahead(composer: FrameComposer, sample: (k: number) => Sample, k: number, count: number): Promise<void> {
    if (this.helpers.length === 0) return;
    const pairs = new Set<number>();
    for (let n = k; n < count && pairs.size < this.threads; n++) {
      const coming = sample(n);
      const fresh = partsOf(coming).filter((part) => part.kind === 'flow' && !pairs.has(part.a));
      if (fresh.length === 0) continue;
      for (const part of fresh) if (part.kind === 'flow') pairs.add(part.a);
      await composer.prepare(coming);
    }
  }

  close(): void {
    for (const helper of this.helpers) helper.close();
  }
}

/** The frames belong to their provider and may be gone when the disk has answered. */
const copyOf = ({ format, data }: Frame): Frame => ({ format, data: data.slice() });
