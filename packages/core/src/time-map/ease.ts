import { InvalidInput } from '../foundation/errors.js';

/** The handles of a cubic Bézier from (0,0) to (1,1); x1, x2 in 0…1, y free. */
export type BezierEase = readonly [x1: number, y1: number, x2: number, y2: number];

export const NAMED_EASES = ['straight', 'soft', 'silk', 'early', 'late'] as const;

type NamedEase = (typeof NAMED_EASES)[number];

export type Ease = NamedEase | BezierEase;

/**
 * How a bend's speed goes from the one before it (0) to the one after (1), as functions of u in 0…1:
 * `value` is E(u), `area` its exact integral from 0 to u, `mean` is Ē = area(1), `turns` the u where E stops rising
 * or falling (so that between them it is monotone).
 */
export interface EaseCurve {
  readonly value: (u: number) => number;
  readonly area: (u: number) => number;
  readonly mean: number;
  readonly turns: readonly number[];
}

const NAMED: Readonly<Record<NamedEase, EaseCurve>> = {
  straight: { value: (u) => u, area: (u) => (u * u) / 2, mean: 1 / 2, turns: [] },
  soft: { value: (u) => u * u * (3 - 2 * u), area: (u) => u * u * u * (1 - u / 2), mean: 1 / 2, turns: [] },
  silk: {
    value: (u) => u * u * u * (10 + u * (6 * u - 15)),
    area: (u) => u * u * u * u * (2.5 + u * (u - 3)),
    mean: 1 / 2,
    turns: [],
  },
  early: { value: (u) => 1 - (1 - u) ** 3, area: (u) => u - (1 - (1 - u) ** 4) / 4, mean: 3 / 4, turns: [] },
  late: { value: (u) => u ** 3, area: (u) => u ** 4 / 4, mean: 1 / 4, turns: [] },
};

const bezierCache = new Map<string, EaseCurve>();

/** The curve of an ease. Throws `InvalidInput` when a hand-drawn one leaves its limits (see `checkEase`). */
export function easeCurve(ease: Ease): EaseCurve {
  if (typeof ease === 'string') return NAMED[ease];
  const key = ease.join();
  let curve = bezierCache.get(key);
  if (!curve) {
    curve = bezierCurve(checkBezier(ease, 'ease'));
    if (bezierCache.size > 500) bezierCache.clear();
    bezierCache.set(key, curve);
  }
  return curve;
}

/** Reads an ease that came from outside. Throws `InvalidInput` naming `field`. */
export function checkEase(value: unknown, field: string): Ease {
  if (typeof value === 'string') {
    if ((NAMED_EASES as readonly string[]).includes(value)) return value as NamedEase;
    throw new InvalidInput(field, `"${value}" is not an ease; use ${NAMED_EASES.join(', ')} or four numbers`);
  }
  if (!Array.isArray(value) || value.length !== 4 || !value.every((n) => typeof n === 'number' && Number.isFinite(n)))
    throw new InvalidInput(field, `an ease is one of ${NAMED_EASES.join(', ')} or four numbers [x1, y1, x2, y2]`);
  return checkBezier([value[0], value[1], value[2], value[3]] as BezierEase, field);
}

function checkBezier(ease: BezierEase, field: string): BezierEase {
  const [x1, y1, x2, y2] = ease;
  if (!(x1 >= 0 && x1 <= 1 && x2 >= 0 && x2 <= 1))
    throw new InvalidInput(field, `x1 and x2 must be within 0 to 1, not ${x1} and ${x2}`);
  const mean = bezierArea(ease, 1);
  if (!(mean >= 0 && mean <= 1) || Math.abs(y1) > 1e6 || Math.abs(y2) > 1e6)
    throw new InvalidInput(field, `the ease overshoots so far that its mean, ${mean.toFixed(3)}, leaves 0 to 1`);
  return ease;
}

/** ∫ y(p) x′(p) dp from 0 to p: y is a cubic, x′ a quadratic in p, so the integral is a polynomial of degree 6. */
function bezierArea([x1, y1, x2, y2]: BezierEase, p: number): number {
  const [b1, b2, b3] = [3 * y1, 3 * y2 - 6 * y1, 1 + 3 * y1 - 3 * y2];
  const [a0, a1, a2] = [3 * x1, 6 * x2 - 12 * x1, 3 + 9 * x1 - 9 * x2];
  const c2 = (b1 * a0) / 2;
  const c3 = (b1 * a1 + b2 * a0) / 3;
  const c4 = (b1 * a2 + b2 * a1 + b3 * a0) / 4;
  const c5 = (b2 * a2 + b3 * a1) / 5;
  const c6 = (b3 * a2) / 6;
  return p * p * (c2 + p * (c3 + p * (c4 + p * (c5 + p * c6))));
}

/** A cubic Bézier from 0 to 1 with handles a and b, at parameter p. */
const cubic = (a: number, b: number, p: number) => p * (3 * a + p * (3 * b - 6 * a + p * (1 + 3 * a - 3 * b)));

/** The parameter at which x is u. x is monotone for x1, x2 in 0…1: Newton's steps, kept inside a shrinking bracket. */
function bezierParameter([x1, , x2]: BezierEase, u: number): number {
  if (u <= 0) return 0;
  if (u >= 1) return 1;
  const slope = (p: number) => 3 * x1 + p * (6 * x2 - 12 * x1 + p * (3 + 9 * x1 - 9 * x2));
  let low = 0;
  let high = 1;
  let p = u;
  for (let i = 0; i < 80; i++) {
    const miss = cubic(x1, x2, p) - u;
    if (miss === 0) break;
    if (miss > 0) high = p;
    else low = p;
    let next = p - miss / slope(p);
    if (!(next > low && next < high)) next = (low + high) / 2;
    if (Math.abs(next - p) < 1e-17 || next === p) break;
    p = next;
  }
  return p;
}

function bezierCurve(ease: BezierEase): EaseCurve {
  const [x1, y1, x2, y2] = ease;
  const x = (p: number) => cubic(x1, x2, p);
  const y = (p: number) => cubic(y1, y2, p);
  const parameter = (u: number) => bezierParameter(ease, u);

  const turns = quadraticRoots(3 + 9 * y1 - 9 * y2, 6 * y2 - 12 * y1, 3 * y1)
    .filter((p) => p > 0 && p < 1)
    .map(x)
    .sort((a, b) => a - b);
  return {
    value: (u) => y(parameter(u)),
    area: (u) => bezierArea(ease, parameter(u)),
    mean: bezierArea(ease, 1),
    turns,
  };
}

/** The named eases that are cubics of u, as Béziers with x(p) = p. */
const AS_BEZIER: Readonly<Partial<Record<NamedEase, BezierEase>>> = {
  soft: [1 / 3, 0, 2 / 3, 1],
  early: [1 / 3, 1, 2 / 3, 1],
  late: [1 / 3, 0, 2 / 3, 0],
};

/**
 * The two eases an ease consists of before and after u (0 < u < 1), each from 0 to 1 over its own part. Béziers are divided by
 * de Casteljau's construction, exactly; of `silk`, a quintic, each part becomes the cubic with the same area that leaves
 * or arrives as flat. Throws `InvalidInput`
 * where a part would overshoot without bound or have a handle outside 0…1.
 */
export function splitEase(ease: Ease, u: number): readonly [before: Ease, after: Ease] {
  if (ease === 'straight') return ['straight', 'straight'];
  const { value, area, mean } = easeCurve(ease);
  const reached = value(u);
  if (!(Math.abs(reached) > 1e-9 && Math.abs(1 - reached) > 1e-9))
    throw new InvalidInput('ease', 'it is where it starts or ends in its middle');
  if (ease === 'silk') {
    const before = area(u) / (u * reached);
    const after = (mean - area(u) - reached * (1 - u)) / ((1 - u) * (1 - reached));
    return [
      checkBezier([1 / 3, 0, 2 / 3, 4 * before - 1], 'ease'),
      checkBezier([1 / 3, 4 * after - 2, 2 / 3, 1], 'ease'),
    ];
  }
  const [x1, y1, x2, y2] = typeof ease === 'string' ? AS_BEZIER[ease]! : ease;
  const p = bezierParameter([x1, y1, x2, y2], u);
  const divide = (a: number, b: number) => {
    const [ab, bc, cd] = [a * p, a + (b - a) * p, b + (1 - b) * p];
    const [abc, bcd] = [ab + (bc - ab) * p, bc + (cd - bc) * p];
    const middle = abc + (bcd - abc) * p;
    const after = (n: number) => (n - middle) / (1 - middle);
    return { before: [ab / middle, abc / middle], after: [after(bcd), after(cd)] } as const;
  };
  const x = divide(x1, x2);
  const y = divide(y1, y2);
  // Rounding may leave the limits by a hair; a part whose handle truly lies outside them is refused.
  const near = (n: number) => (n < 0 && n > -1e-12 ? 0 : n > 1 && n < 1 + 1e-12 ? 1 : n);
  return [
    checkBezier([near(x.before[0]), y.before[0], near(x.before[1]), y.before[1]], 'ease'),
    checkBezier([near(x.after[0]), y.after[0], near(x.after[1]), y.after[1]], 'ease'),
  ];
}

function quadraticRoots(a: number, b: number, c: number): number[] {
  if (Math.abs(a) < 1e-12) return Math.abs(b) < 1e-12 ? [] : [-c / b];
  const discriminant = b * b - 4 * a * c;
  if (discriminant <= 0) return [];
  const q = -(b + Math.sign(b || 1) * Math.sqrt(discriminant)) / 2;
  return q === 0 ? [0] : [q / a, c / q];
}
