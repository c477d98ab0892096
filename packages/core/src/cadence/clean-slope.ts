/** A slope in lowest terms: of every `q` timeline frames one is real, where the phase allows it. */
export interface CleanSlope {
  readonly p: number;
  readonly q: number;
}

/** Above this, so few frames are real that their phase is nobody's concern (59.94 on 24: one of 1001). */
const MAX_CLEAN_DENOMINATOR = 8;

/** How far a slope may be from its fraction, relatively: what is left of typed per cents and of divisions. */
const TOLERANCE = 1e-9;

/** The fraction a slope (source frames per timeline frame) stands for, its denominator small enough to matter; `undefined` for any other. */
export function cleanSlope(slope: number): CleanSlope | undefined {
  for (let q = 1; q <= MAX_CLEAN_DENOMINATOR; q++) {
    const p = Math.round(slope * q);
    if (Math.abs(p - slope * q) <= TOLERANCE * Math.max(1, Math.abs(p))) return { p, q };
  }
  return undefined;
}

/** Other clean slopes of the same direction, no further from one than a factor of `ratio`; those with more real frames first, then the nearer. */
export function cleanSlopesNear(slope: number, ratio: number): number[] {
  const found = new Map<number, number>();
  for (let q = 1; q <= MAX_CLEAN_DENOMINATOR; q++)
    for (
      let p = Math.ceil((Math.abs(slope) / ratio) * q - TOLERANCE);
      p <= Math.abs(slope) * ratio * q + TOLERANCE;
      p++
    )
      if (p > 0 && !found.has(p / q) && Math.abs(p / q - Math.abs(slope)) > TOLERANCE) found.set(p / q, q);
  return [...found.entries()]
    .map(([value, q]) => ({ value, q, away: Math.abs(Math.log(value / Math.abs(slope))) }))
    .sort((a, b) => a.q - b.q || a.away - b.away)
    .map(({ value }) => Math.sign(slope) * value);
}
