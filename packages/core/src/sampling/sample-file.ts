import { InvalidInput } from '../foundation/errors.js';
import { array, boolean, finite, object, oneOf, onlyFields, whole } from '../foundation/readers.js';
import { readTuning } from '../model/interpolation.js';
import type { PlainSample, Sample, SimpleSample } from './sample.js';

/** Reads a sample that came from outside. Throws `InvalidInput` naming the field. */
export function parseSample(value: unknown, field = 'sample'): Sample {
  const sample = object(value, field);
  const inner = (name: string) => object(sample[name], `${field}.${name}`);
  if (sample['kind'] === 'shutter') {
    onlyFields(sample, ['kind', 'now', 'edges', 'steps'], field);
    const steps = array(sample['steps'], `${field}.steps`, 243).map((step, i) =>
      readSimple(object(step, `${field}.steps[${i}]`), `${field}.steps[${i}]`),
    );
    const edges = array(sample['edges'], `${field}.edges`, 244).map((edge, i) => finite(edge, `${field}.edges[${i}]`));
    if (steps.length === 0) throw new InvalidInput(`${field}.steps`, 'must be one at least');
    if (edges.length !== steps.length + 1) throw new InvalidInput(`${field}.edges`, 'must be one more than the steps');
    return { kind: 'shutter', now: readPlain(inner('now'), `${field}.now`), edges, steps };
  }
  if (sample['kind'] === 'smear') {
    onlyFields(sample, ['kind', 'now', 'along', 'frames'], field);
    const along = readSimple(inner('along'), `${field}.along`);
    if (along.kind !== 'flow') throw new InvalidInput(`${field}.along`, 'must lie between two frames');
    return {
      kind: 'smear',
      now: readPlain(inner('now'), `${field}.now`),
      along,
      frames: finite(sample['frames'], `${field}.frames`),
    };
  }
  return readPlain(sample, field);
}

function readPlain(sample: Record<string, unknown>, field: string): PlainSample {
  if (sample['kind'] !== 'fade') return readSimple(sample, field);
  onlyFields(sample, ['kind', 'from', 'to', 'share'], field);
  const simple = (name: 'from' | 'to') => readSimple(object(sample[name], `${field}.${name}`), `${field}.${name}`);
  return { kind: 'fade', from: simple('from'), to: simple('to'), share: share(sample['share'], `${field}.share`) };
}

function readSimple(sample: Record<string, unknown>, field: string): SimpleSample {
  const frame = (name: string) => whole(sample[name], `${field}.${name}`, 0);
  const perhaps = (name: string) => (sample[name] === undefined || sample[name] === null ? undefined : frame(name));
  const fraction = () => share(sample['fraction'], `${field}.fraction`);
  const kind = oneOf(sample['kind'], ['source', 'mix', 'flow', 'black'] as const, `${field}.kind`);
  switch (kind) {
    case 'black':
      return { kind };
    case 'source':
      onlyFields(sample, ['kind', 'frame'], field);
      return { kind, frame: frame('frame') };
    case 'mix':
      onlyFields(sample, ['kind', 'a', 'b', 'fraction'], field);
      return { kind, a: frame('a'), b: frame('b'), fraction: fraction() };
    case 'flow': {
      onlyFields(sample, ['kind', 'a', 'b', 'fraction', 'before', 'after', 'tuning', 'knot'], field);
      const between = {
        kind,
        a: frame('a'),
        b: frame('b'),
        fraction: fraction(),
        before: perhaps('before'),
        after: perhaps('after'),
      };
      return {
        ...between,
        ...(sample['tuning'] !== undefined && { tuning: readTuning(sample['tuning'], `${field}.tuning`) }),
        ...(sample['knot'] !== undefined && boolean(sample['knot'], `${field}.knot`) && { knot: true as const }),
      };
    }
  }
}

function share(value: unknown, field: string): number {
  const number = finite(value, field);
  if (!(number >= 0 && number <= 1)) throw new InvalidInput(field, 'must lie in 0 to 1');
  return number;
}
