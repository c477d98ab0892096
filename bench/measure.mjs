/** Seconds that `work` takes, the median of `runs`, after one run that is not counted when `warm`. */
export function seconds(work, { runs = 5, warm = true } = {}) {
  if (warm) work();
  return median(
    Array.from({ length: runs }, () => {
      const start = performance.now();
      work();
      return (performance.now() - start) / 1000;
    }),
  );
}

export function median(values) {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)];
}

export const times = (a, b) => `${(a / b).toFixed(2)} ×`;
export const millions = (n) => `${(n / 1e6).toFixed(1)} million/s`;
