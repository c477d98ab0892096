import { bytesPerSample, planeSizes, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import type { TitleShown } from '@idle-bend/core/look';
import type { Coverage } from '@idle-bend/core/title';

/** Lines kept as they were set: a title stands for many frames. */
const MOST_KEPT = 16;

/** Draws titles over finished pictures, in the codes of the picture. Letters are set and cut into pixels once for each line. */
export class Titles {
  private readonly set = new Map<string, Coverage[][]>();
  private room: Uint8Array | undefined;

  /** `colour` gives a picture that is that colour all over. The result stays as it is until the next call. */
  async over(frame: Frame, titles: readonly TitleShown[], colour: (title: TitleShown) => Frame): Promise<Frame> {
    const { format } = frame;
    if (this.room?.length !== frame.data.length) this.room = new Uint8Array(frame.data.length);
    this.room.set(frame.data);
    for (const title of titles) {
      const words = await this.words(title, format);
      const letters = colour(title);
      words.forEach((planes, i) => {
        const amount = title.words[i] ?? 0;
        if (amount > 0) blendOver(this.room!, letters.data, format, planes, amount);
      });
    }
    return { format, data: this.room };
  }

  /** Each word's coverage, plane by plane. */
  private async words({ text, size, x, y }: TitleShown, format: FrameFormat): Promise<Coverage[][]> {
    const { width, height, layout } = format;
    const key = JSON.stringify([text, size, x, y, width, height, layout]);
    let words = this.set.get(key);
    if (!words) {
      // The letters' outlines are loaded where there is a title, and nowhere else.
      const { setLine } = await import('@idle-bend/core/title');
      words = setLine({ text, width, height, size, x, y }).map(({ coverage }) => planesOf(coverage, format));
      if (this.set.size >= MOST_KEPT) this.set.delete(this.set.keys().next().value!);
      this.set.set(key, words);
    }
    return words;
  }
}

/** A coverage of the picture's pixels for each of its planes: a sample that stands for several pixels is covered as they are on average. */
function planesOf(coverage: Coverage, { layout, width, height }: FrameFormat): Coverage[] {
  return planeSizes(layout, width, height).map((plane) => {
    const shiftX = plane.width < width ? layout.chromaShiftX : 0;
    const shiftY = plane.height < height ? layout.chromaShiftY : 0;
    if (shiftX === 0 && shiftY === 0) return coverage;
    const left = coverage.left >> shiftX;
    const top = coverage.top >> shiftY;
    const across = ((coverage.left + coverage.width - 1) >> shiftX) - left + 1;
    const down = ((coverage.top + coverage.height - 1) >> shiftY) - top + 1;
    const sums = new Uint16Array(across * down);
    for (let y = 0; y < coverage.height; y++) {
      const row = (((coverage.top + y) >> shiftY) - top) * across;
      for (let x = 0; x < coverage.width; x++)
        sums[row + ((coverage.left + x) >> shiftX) - left]! += coverage.data[y * coverage.width + x]!;
    }
    const pixels = 1 << (shiftX + shiftY);
    return { left, top, width: across, height: down, data: Uint8Array.from(sums, (sum) => Math.round(sum / pixels)) };
  });
}

function blendOver(
  out: Uint8Array,
  letters: Uint8Array,
  { layout, width, height }: FrameFormat,
  planes: readonly Coverage[],
  amount: number,
): void {
  const bytes = bytesPerSample(layout);
  const samples = (data: Uint8Array) =>
    bytes === 2 ? new Uint16Array(data.buffer, data.byteOffset, data.length >> 1) : data;
  const [to, from] = [samples(out), samples(letters)];
  let start = 0;
  planeSizes(layout, width, height).forEach((plane, i) => {
    const covered = planes[i]!;
    for (let y = 0; y < covered.height; y++) {
      const row = start + (covered.top + y) * plane.width + covered.left;
      for (let x = 0; x < covered.width; x++) {
        const share = covered.data[y * covered.width + x]!;
        if (share === 0) continue;
        const at = row + x;
        to[at] = Math.round(to[at]! + ((from[at]! - to[at]!) * share * amount) / 255);
      }
    }
    start += plane.bytes / bytes;
  });
}
