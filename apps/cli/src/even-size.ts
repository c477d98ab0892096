import { InvalidInput } from '@idle-bend/core/foundation';
import type { Size } from '@idle-bend/core/framing';
import { evenOnly, type Codec } from '@idle-bend/media';

/**
 * Codecs of shared chroma have even sizes only. An odd size that was asked for is refused with those beside it; one that is only there is cut
 * by a column or a row, and that is said.
 */
export function refuseOddSize(codec: Codec, asked: Size | undefined, own: Size, say: (text: string) => void): void {
  if (!evenOnly(codec)) return;
  const { width, height } = asked ?? own;
  const even = (n: number) => n - (n % 2);
  if (even(width) === width && even(height) === height) return;
  if (!asked)
    return say(
      `${codec} has even sizes only: ${width}×${height} is written as ${even(width)}×${even(height)}, its last ${width % 2 ? (height % 2 ? 'column and row' : 'column') : 'row'} left out`,
    );
  const above = (n: number) => n + (n % 2);
  throw new InvalidInput(
    '--size',
    `${codec} has even sizes only; write ${even(width)}x${even(height)} or ${above(width)}x${above(height)}`,
  );
}
