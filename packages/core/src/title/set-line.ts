import { FONT } from './outlines.js';
import { rasterize, type Coverage, type Line } from './rasterize.js';

/** A word of a line: how much of each pixel its letters cover. */
export interface SetWord {
  readonly text: string;
  readonly coverage: Coverage;
}

/** What is to be set, and where: a picture's size in pixels, the height of the letters and the line's middle in shares of it. */
export interface TitleSetting {
  readonly text: string;
  readonly width: number;
  readonly height: number;
  /** The height of a capital letter, of the picture's height. */
  readonly size: number;
  /** The middle of the line, of the picture's width and height. */
  readonly x: number;
  readonly y: number;
}

/** A line is no wider than this, of the picture's width: screens may cut the rest off (EBU R 95: 90 % is safe for graphics). */
export const SAFE_SHARE = 0.9;

/** How high a capital is, in units of the font. */
const CAPITAL = highestOf('H');

/** Letters of a text that the font does not have, each once. Spaces are none. */
export const missingLetters = (text: string): string[] => [
  ...new Set([...text.normalize('NFC')].filter((letter) => !/\s/.test(letter) && !FONT.glyphs[letter])),
];

/** The words of a text, as they are counted where each comes by itself. */
export const wordsOf = (text: string): string[] => text.normalize('NFC').split(/\s+/).filter(Boolean);

/** Sets one line: its words, each with its letters' coverage of the picture's pixels. Letters the font does not have are left out. */
export function setLine({ text, width, height, size, x, y }: TitleSetting): SetWord[] {
  const words = wordsOf(text);
  const letters = [...words.join(' ')].flatMap((letter) => (FONT.glyphs[letter] ? [letter] : []));
  const places: number[] = [];
  let pen = 0;
  letters.forEach((letter, i) => {
    pen += FONT.kerning[`${letters[i - 1] ?? ''}${letter}`] ?? 0;
    places.push(pen);
    pen += FONT.glyphs[letter]![0];
  });
  if (pen === 0) return [];
  const scale = Math.min((size * height) / CAPITAL, (SAFE_SHARE * width) / pen);
  const left = x * width - (pen * scale) / 2;
  const baseline = y * height + (CAPITAL * scale) / 2;
  const lines: Line[][] = [[]];
  letters.forEach((letter, i) => {
    if (letter === ' ') lines.push([]);
    else lines.at(-1)!.push(...linesOf(FONT.glyphs[letter]![1], left + places[i]! * scale, baseline, scale));
  });
  return words.map((word, i) => ({ text: word, coverage: rasterize(lines[i]!, width, height) }));
}

/** An outline as straight lines in pixels, y downwards. */
function linesOf(outline: string, left: number, baseline: number, scale: number): Line[] {
  const lines: Line[] = [];
  let [startX, startY, lastX, lastY] = [0, 0, 0, 0];
  const to = (x: number, y: number) => {
    lines.push({ x0: lastX, y0: lastY, x1: x, y1: y });
    [lastX, lastY] = [x, y];
  };
  for (const [, letter = 'Z', rest = ''] of outline.matchAll(/([MLQCZ])([^MLQCZ]*)/g)) {
    const numbers = rest
      .split(' ')
      .map((number, i) => (i % 2 === 0 ? left + Number(number) * scale : baseline - Number(number) * scale));
    const [a, b, c, d, e, f] = numbers as [number, number, number, number, number, number];
    switch (letter) {
      case 'M':
        [startX, startY, lastX, lastY] = [a, b, a, b];
        break;
      case 'L':
        to(a, b);
        break;
      case 'Q': {
        const [x, y] = [lastX, lastY];
        alongCurve(Math.hypot(x - 2 * a + c, y - 2 * b + d), (t, u) =>
          to(u * u * x + 2 * t * u * a + t * t * c, u * u * y + 2 * t * u * b + t * t * d),
        );
        break;
      }
      case 'C': {
        const [x, y] = [lastX, lastY];
        const bend = Math.max(Math.hypot(x - 2 * a + c, y - 2 * b + d), Math.hypot(a - 2 * c + e, b - 2 * d + f));
        alongCurve(3 * bend, (t, u) =>
          to(
            u * u * u * x + 3 * t * u * u * a + 3 * t * t * u * c + t * t * t * e,
            u * u * u * y + 3 * t * u * u * b + 3 * t * t * u * d + t * t * t * f,
          ),
        );
        break;
      }
      default:
        to(startX, startY);
    }
  }
  return lines;
}

/** Goes along a curve in steps so short that no line is a twentieth of a pixel off it; `bend`: its second difference, pixels. */
function alongCurve(bend: number, visit: (t: number, u: number) => void): void {
  const steps = Math.max(1, Math.ceil(Math.sqrt(bend / (4 * 0.05))));
  for (let i = 1; i <= steps; i++) visit(i / steps, 1 - i / steps);
}

function highestOf(letter: string): number {
  const outline = FONT.glyphs[letter]![1];
  const heights = [...outline.matchAll(/-?\d+ (-?\d+)/g)].map(([, y]) => Number(y));
  return Math.max(...heights);
}
