/** The root of a function that is negative at `low` and positive at `high`, to the last bit. */
export function bisect(low: number, high: number, f: (t: number) => number): number {
  for (let i = 0; i < 200; i++) {
    const middle = (low + high) / 2;
    if (middle <= low || middle >= high) break;
    if (f(middle) < 0) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}
