import { InvalidInput } from '../foundation/errors.js';
import { array, finite, object, oneOf, onlyFields, readId, unique, whole } from '../foundation/readers.js';

/** What stands in for the clip's own way over a stretch of its source: held pictures, blends, or one picture frozen. */
const MEND_WAYS = ['step', 'mix', 'hold'] as const;

export type MendWay = (typeof MEND_WAYS)[number];

/** A stretch of a clip's source, in native frames, where in-betweens are made another way. It stays there however the clip is bent. */
export interface Mend {
  readonly id: string;
  readonly from: number;
  readonly to: number;
  readonly way: MendWay;
  /** Source frames over which it is handed over from the clip's own way, and back; 0 at once. */
  readonly soft: number;
}

/** How in-between frames are made: the nearest before, a linear blend of the two around, or moved to where things are by then. */
export const METHODS = ['step', 'mix', 'flow'] as const;

export type Method = (typeof METHODS)[number];

/** What is shown where the map asks for source that is not there. */
export const END_CHOICES = ['hold', 'loop', 'black'] as const;

export type EndChoice = (typeof END_CHOICES)[number];

/** Quality levels of Flow, from fast to good. */
export const FLOW_LEVELS = ['quick', 'default', 'best'] as const;

export type FlowLevel = (typeof FLOW_LEVELS)[number];

/** How Flow makes its pictures where the evidence leaves a choice. */
export interface FlowTuning {
  /** How far motion is trusted: 1 everywhere; less, and the places least sure are blended as Mix does; 0 nowhere. */
  readonly trust: number;
  /**
   * Where the two pictures do not agree: 0 their mean by the distance in time; towards 1 (keen) one of the two, crisp, at the risk of
   * tears; towards −1 (calm) both, and motion evened out, soft and without tears.
   */
  readonly keenness: number;
}

export const DEFAULT_TUNING: FlowTuning = { trust: 1, keenness: 0 };

/** A reach whose in-betweens are made another way than the clip's. */
export interface ReachMethod {
  readonly reach: number;
  readonly method: Method;
}

/** Whether two tempers make the same pictures. */
export const sameTuning = (a: FlowTuning, b: FlowTuning): boolean => a.trust === b.trust && a.keenness === b.keenness;

export function readTuning(value: unknown, field: string): FlowTuning {
  const tuning = object(value, field);
  onlyFields(tuning, ['trust', 'keenness'], field);
  const [trust, keenness] = [
    finite(tuning['trust'], `${field}.trust`),
    finite(tuning['keenness'], `${field}.keenness`),
  ];
  if (!(trust >= 0 && trust <= 1)) throw new InvalidInput(`${field}.trust`, 'must lie in 0 to 1');
  if (!(keenness >= -1 && keenness <= 1)) throw new InvalidInput(`${field}.keenness`, 'must lie in −1 to 1');
  return { trust, keenness };
}

export function readReachMethods(value: unknown, field: string, reaches: number): ReachMethod[] {
  const entries = array(value, field, reaches).map((entry, i) => {
    const at = `${field}[${i}]`;
    const one = object(entry, at);
    onlyFields(one, ['reach', 'method'], at);
    return {
      reach: whole(one['reach'], `${at}.reach`, 0, reaches - 1),
      method: oneOf(one['method'], METHODS, `${at}.method`),
    };
  });
  const unordered = entries.findIndex(({ reach }, i) => i > 0 && reach <= entries[i - 1]!.reach);
  if (unordered >= 0) throw new InvalidInput(`${field}[${unordered}].reach`, 'must be greater than the one before it');
  return entries;
}

export function readMends(value: unknown, field: string, frames: number): Mend[] {
  const mends = array(value, field, 10_000).map((entry, i) => {
    const at = `${field}[${i}]`;
    const mend = object(entry, at);
    onlyFields(mend, ['id', 'from', 'to', 'way', 'soft'], at);
    const [from, to, soft] = (['from', 'to', 'soft'] as const).map((name) => finite(mend[name], `${at}.${name}`)) as [
      number,
      number,
      number,
    ];
    if (!(from >= 0 && to > from && to <= frames))
      throw new InvalidInput(at, `must be a stretch of the source, which has frames 0 to ${frames - 1}`);
    if (!(soft >= 0 && soft <= 1000)) throw new InvalidInput(`${at}.soft`, 'must lie in 0 to 1000');
    return { id: readId(mend['id'], `${at}.id`), from, to, way: oneOf(mend['way'], MEND_WAYS, `${at}.way`), soft };
  });
  unique(mends, field);
  return mends;
}
