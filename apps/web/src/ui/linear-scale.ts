/** A straight map of numbers to pixels; `invert` is the way back. */
export interface LinearScale {
  (value: number): number;
  invert(pixel: number): number;
  domain(): readonly [number, number];
  range(): readonly [number, number];
}

/** Maps `from` … `to` onto `start` … `end`, and what lies beyond on beyond them. An empty domain lies in the middle. */
export function linearScale(
  [from, to]: readonly [number, number],
  [start, end]: readonly [number, number],
): LinearScale {
  const width = to - from;
  const scale = (value: number) => (width === 0 ? (start + end) / 2 : start + ((value - from) / width) * (end - start));
  const invert = (pixel: number) =>
    end === start ? (from + to) / 2 : from + ((pixel - start) / (end - start)) * width;
  return Object.assign(scale, {
    invert,
    domain: () => [from, to] as const,
    range: () => [start, end] as const,
  });
}
