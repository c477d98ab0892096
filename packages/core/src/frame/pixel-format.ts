/** How many bits, which planes and how much smaller the colour planes are. Samples over 8 bits are 16-bit little-endian words. */
export interface PixelLayout {
  readonly model: 'yuv' | 'gray' | 'rgb';
  readonly bitDepth: number;
  /** log2 of how many luma samples share one chroma sample, across and down. */
  readonly chromaShiftX: number;
  readonly chromaShiftY: number;
  readonly alpha: boolean;
}

export interface PlaneSize {
  /** In samples. */
  readonly width: number;
  readonly height: number;
  readonly bytes: number;
}

export function bytesPerSample(layout: PixelLayout): 1 | 2 {
  return layout.bitDepth > 8 ? 2 : 1;
}

/** The planes of a picture, in order: luma or green first, then the colour planes, then alpha. Odd sizes round chroma up. */
export function planeSizes(layout: PixelLayout, width: number, height: number): PlaneSize[] {
  const sample = bytesPerSample(layout);
  const full = { width, height, bytes: width * height * sample };
  const planes: PlaneSize[] = [full];
  if (layout.model !== 'gray') {
    const w = (width + (1 << layout.chromaShiftX) - 1) >> layout.chromaShiftX;
    const h = (height + (1 << layout.chromaShiftY) - 1) >> layout.chromaShiftY;
    const chroma = { width: w, height: h, bytes: w * h * sample };
    planes.push(chroma, chroma);
  }
  if (layout.alpha) planes.push(full);
  return planes;
}

export function frameBytes(layout: PixelLayout, width: number, height: number): number {
  return planeSizes(layout, width, height).reduce((sum, p) => sum + p.bytes, 0);
}

const SUBSAMPLING: Readonly<Record<string, readonly [number, number]>> = {
  '420': [1, 1],
  '422': [1, 0],
  '444': [0, 0],
  '440': [0, 1],
  '411': [2, 0],
};

/**
 * Reads a planar pixel format by its usual name (`yuv420p`, `yuva444p12le`, `gbrp10le`, `gray`). `undefined` for any
 * other, packed ones among them: those are converted when they are decoded.
 */
export function parsePixelFormat(name: string): PixelLayout | undefined {
  const yuv = /^yuv([aj]?)(\d{3})p(?:(9|10|12|14|16)le)?$/.exec(name);
  if (yuv) {
    const shifts = SUBSAMPLING[yuv[2]!];
    if (!shifts) return undefined;
    return {
      model: 'yuv',
      bitDepth: Number(yuv[3] ?? 8),
      chromaShiftX: shifts[0],
      chromaShiftY: shifts[1],
      alpha: yuv[1] === 'a',
    };
  }
  const rgb = /^gbr(a?)p(?:(9|10|12|14|16)le)?$/.exec(name);
  if (rgb)
    return { model: 'rgb', bitDepth: Number(rgb[2] ?? 8), chromaShiftX: 0, chromaShiftY: 0, alpha: rgb[1] === 'a' };
  const gray = /^gray(?:(9|10|12|14|16)le)?$/.exec(name);
  if (gray) return { model: 'gray', bitDepth: Number(gray[1] ?? 8), chromaShiftX: 0, chromaShiftY: 0, alpha: false };
  return undefined;
}

/** The planar format like another one, with at least so many bits, and with transparency where asked for. Grey cannot have transparency: it becomes colour. */
export function deepened(name: string, bitDepth: number, alpha: boolean): string {
  const layout = parsePixelFormat(name)!;
  const bits = Math.max(layout.bitDepth, bitDepth);
  const gainsAlpha = alpha && !layout.alpha;
  if (bits === layout.bitDepth && !gainsAlpha) return name;
  const tail = bits > 8 ? `${bits}le` : '';
  if (layout.model === 'rgb') return `gbr${alpha || layout.alpha ? 'a' : ''}p${tail}`;
  if (layout.model === 'gray' && !alpha) return `gray${tail}`;
  const { chromaShiftX: x, chromaShiftY: y } = layout;
  // Transparency goes with these three ways to share colour.
  const shared =
    layout.model === 'gray'
      ? '444'
      : (Object.entries(SUBSAMPLING).find(([, [sx, sy]]) => sx === x && sy === y)?.[0] ?? '444');
  const kept = alpha && !['420', '422', '444'].includes(shared) ? '444' : shared;
  return `yuv${alpha || layout.alpha ? 'a' : ''}${kept}p${tail}`;
}

/** The planar format like another one with fewer bits and without transparency, where it has more than so many, or must not have any. */
export function reduced(name: string, bitDepth: number, alpha: boolean): string {
  const layout = parsePixelFormat(name)!;
  const bits = Math.min(layout.bitDepth, bitDepth);
  if (bits === layout.bitDepth && (alpha || !layout.alpha)) return name;
  return name.replace(/(9|1[0-6])le$/, bits > 8 ? `${bits}le` : '').replace(/^(yuv|gbr)a/, alpha ? '$1a' : '$1');
}
