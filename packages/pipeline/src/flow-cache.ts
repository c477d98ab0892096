import { flowBytes, type Level, type PairFlow } from '@idle-bend/kernels';

type Found = PairFlow | Promise<PairFlow>;

/**
 * The motion of frame pairs, by their numbers and the level: it depends on no curve, so that changing one costs only making
 * the pictures. Bounded; what was used longest ago goes first. What could not be found is forgotten, and tried again.
 */
export class FlowCache {
  private readonly pairs = new Map<string, { readonly found: Found; bytes: number }>();
  private bytes = 0;

  constructor(private readonly maxBytes: number) {}

  has(level: Level, a: number, b: number): boolean {
    return this.pairs.has(`${level} ${a} ${b}`);
  }

  /** The pair's motion, from `find` when it is not here. */
  get(level: Level, a: number, b: number, find: () => Found): Found {
    const key = `${level} ${a} ${b}`;
    let entry = this.pairs.get(key);
    if (entry) this.pairs.delete(key);
    else entry = this.enter(key, find());
    this.pairs.set(key, entry);
    return entry.found;
  }

  private enter(key: string, found: Found) {
    const entry = { found, bytes: 0 };
    const weigh = (pair: PairFlow) => {
      entry.bytes = flowBytes(pair);
      this.bytes += entry.bytes;
      this.drop(key);
    };
    if (found instanceof Promise) found.then(weigh, () => this.pairs.delete(key));
    else weigh(found);
    return entry;
  }

  private drop(keep: string): void {
    for (const [key, { bytes }] of this.pairs) {
      if (this.bytes <= this.maxBytes) return;
      if (key === keep || bytes === 0) continue;
      this.pairs.delete(key);
      this.bytes -= bytes;
    }
  }
}
