import type { Instant, KeptShares } from '@idle-bend/kernels';
import type { Look } from './messages.ts';

type Context = OffscreenCanvasRenderingContext2D;

/** Below this share of the weight a picture is hidden at a point. */
const HIDDEN = 0.02;
/** Colours of the interface: vermilion for what the first picture hides, river for the second. */
const FIRST = [255, 122, 92] as const;
const SECOND = [108, 196, 194] as const;
/** Brass for what is blended. */
const BLENDED = [226, 168, 61] as const;

/** Draws a moment's motion over the picture that is there. */
export function drawLook(context: Context, look: Look, moment: Instant): void {
  if (look === 'arrows') drawArrows(context, moment);
  else if (look === 'colour') tint(context, moment, motionColour(moment));
  else if (look === 'hidden') tint(context, moment, hiddenColour(moment));
}

/** Pixels between arrows. */
const APART = 28;

/** From where each point is in the first picture to where it is in the second. */
function drawArrows(context: Context, { width, height, shift, vectors }: Instant): void {
  const scale = 2 ** shift;
  const step = Math.max(1, Math.round(APART / scale));
  const shafts = new Path2D();
  const heads = new Path2D();
  for (let y = step >> 1; y < height; y += step)
    for (let x = step >> 1; x < width; x += step) {
      const i = 4 * (y * width + x);
      const place = (n: 0 | 2): [number, number] => [
        (x + 0.5 + vectors[i + n]!) * scale,
        (y + 0.5 + vectors[i + n + 1]!) * scale,
      ];
      const [[ax, ay], [bx, by]] = [place(0), place(2)];
      const length = Math.hypot(bx - ax, by - ay);
      if (length < 0.5) {
        heads.rect(ax - 1, ay - 1, 2, 2);
        continue;
      }
      shafts.moveTo(ax, ay);
      shafts.lineTo(bx, by);
      const [ux, uy] = [(bx - ax) / length, (by - ay) / length];
      const head = Math.min(6, 2 + length / 3);
      heads.moveTo(bx, by);
      heads.lineTo(bx - head * (ux - 0.5 * uy), by - head * (uy + 0.5 * ux));
      heads.lineTo(bx - head * (ux + 0.5 * uy), by - head * (uy - 0.5 * ux));
      heads.closePath();
    }
  context.lineCap = 'round';
  for (const [colour, wide] of [
    ['rgb(0 0 0 / 0.65)', 3.5],
    ['#ffffff', 1.4],
  ] as const) {
    context.strokeStyle = context.fillStyle = colour;
    context.lineWidth = wide;
    context.stroke(shafts);
    if (wide > 2) context.stroke(heads);
    context.fill(heads);
  }
}

type Colour = (point: number) => { readonly rgb: readonly number[]; readonly strength: number };

/** Hue by direction, strength by how far against the furthest. */
function motionColour({ width, height, vectors }: Instant): Colour {
  let most = 1e-6;
  const way = (i: number): [number, number] => [
    vectors[4 * i + 2]! - vectors[4 * i]!,
    vectors[4 * i + 3]! - vectors[4 * i + 1]!,
  ];
  for (let i = 0; i < width * height; i++) most = Math.max(most, Math.hypot(...way(i)));
  return (i) => {
    const [u, v] = way(i);
    const angle = Math.atan2(v, u);
    const rgb = [0, 2, 4].map((third) => 128 + 127 * Math.cos(angle - (third * Math.PI) / 3));
    return { rgb, strength: 0.85 * Math.min(1, Math.hypot(u, v) / most) };
  };
}

function hiddenColour({ weights }: Instant): Colour {
  return (i) => {
    const [first, second] = [weights[2 * i]!, weights[2 * i + 1]!];
    const share = first / (first + second);
    if (share < HIDDEN) return { rgb: FIRST, strength: 0.8 };
    if (share > 1 - HIDDEN) return { rgb: SECOND, strength: 0.8 };
    return { rgb: FIRST, strength: 0 };
  };
}

/** Colours what is blended of the two frames in place of being moved. */
export function drawBlended(context: Context, { columns, side, shares }: KeptShares): void {
  const grid = { width: columns, height: shares.length / columns, shift: Math.log2(side) };
  tint(context, grid, (block) => ({ rgb: BLENDED, strength: 0.8 * (1 - shares[block]!) }));
}

/** Lays colours over the picture, which loses its own. */
function tint(context: Context, grid: Pick<Instant, 'width' | 'height' | 'shift'>, colour: Colour): void {
  const { width, height } = context.canvas;
  const picture = context.getImageData(0, 0, width, height);
  const { data } = picture;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = 4 * (y * width + x);
      const grey = 0.3 * data[i]! + 0.59 * data[i + 1]! + 0.11 * data[i + 2]!;
      const point = Math.min(grid.height - 1, y >> grid.shift) * grid.width + Math.min(grid.width - 1, x >> grid.shift);
      const { rgb, strength } = colour(point);
      for (let c = 0; c < 3; c++) data[i + c] = grey * (1 - strength) + rgb[c]! * strength;
    }
  context.putImageData(picture, 0, 0);
}
