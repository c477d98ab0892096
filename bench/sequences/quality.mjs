// PSNR and SSIM of luma planes.

/** Peak signal to noise ratio in dB, peak 255; equal planes give 100. */
export function psnr(a, b) {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += (a[i] - b[i]) ** 2;
  return sum === 0 ? 100 : Math.min(100, 10 * Math.log10((255 * 255 * a.length) / sum));
}

/** Mean structural similarity over 8 × 8 windows, every fourth sample (Wang et al. 2004). */
export function ssim(a, b, width, height) {
  const [c1, c2] = [(0.01 * 255) ** 2, (0.03 * 255) ** 2];
  let [total, count] = [0, 0];
  for (let y = 0; y + 8 <= height; y += 4) {
    for (let x = 0; x + 8 <= width; x += 4) {
      let [sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0];
      for (let j = 0; j < 8; j++) {
        const row = (y + j) * width + x;
        for (let i = 0; i < 8; i++) {
          const [p, q] = [a[row + i], b[row + i]];
          sa += p;
          sb += q;
          saa += p * p;
          sbb += q * q;
          sab += p * q;
        }
      }
      const [ma, mb] = [sa / 64, sb / 64];
      const [va, vb, cov] = [saa / 64 - ma * ma, sbb / 64 - mb * mb, sab / 64 - ma * mb];
      total += ((2 * ma * mb + c1) * (2 * cov + c2)) / ((ma * ma + mb * mb + c1) * (va + vb + c2));
      count++;
    }
  }
  return total / count;
}
