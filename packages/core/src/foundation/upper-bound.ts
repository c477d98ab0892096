/** How many entries of a rising list are ≤ value. */
export function upperBound(list: ArrayLike<number>, value: number): number {
  let low = 0;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (list[middle]! <= value) low = middle + 1;
    else high = middle;
  }
  return low;
}
