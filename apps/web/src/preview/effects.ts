import type { Effects } from '@idle-bend/core';

/** What accents do to a frame, drawn: the same sums in red, green and blue as renders make of luma and chroma. */

/** As renders have it: the share of a frame a push's shutter is open. */
const PUSH_SHUTTER = 0.5;

type Context = OffscreenCanvasRenderingContext2D;

/** @param other the picture on the other side of the cut, while one clip pushes the other; black without one */
export async function drawEffects(
  context: Context,
  { push, scale, x, y, flash }: Effects,
  isBefore: boolean,
  other: CanvasImageSource | undefined,
): Promise<void> {
  if (push) await drawPush(context, push, isBefore, other);
  if (scale !== 1 || x !== 0 || y !== 0) await drawPlaced(context, scale, x, y);
  if (flash) await drawFlash(context, flash);
  context.globalAlpha = 1;
  context.globalCompositeOperation = 'source-over';
}

async function drawPush(
  context: Context,
  { way, come, pace }: NonNullable<Effects['push']>,
  isBefore: boolean,
  other: CanvasImageSource | undefined,
): Promise<void> {
  const { width, height } = context.canvas;
  const here = await createImageBitmap(context.canvas);
  const [dx, dy] = { left: [-1, 0], right: [1, 0], up: [0, -1], down: [0, 1] }[way] as [number, number];
  const [out, into] = isBefore ? [here, other] : [other, here];
  const at = (picture: CanvasImageSource | undefined, far: number) => {
    if (picture) context.drawImage(picture, dx * far * width, dy * far * height, width, height);
    else context.fillRect(dx * far * width, dy * far * height, width, height);
  };
  context.fillStyle = 'black';
  at(out, come);
  at(into, come - 1);
  here.close();
  // The mean of the picture moved a quarter of the way to either side, of that moved an eighth, and so on: all the way, evenly.
  for (let far = (pace * PUSH_SHUTTER) / 4; far * (dx === 0 ? height : width) >= 0.4; far /= 2) {
    const sharper = await createImageBitmap(context.canvas);
    context.globalAlpha = 1;
    at(sharper, -far);
    context.globalAlpha = 0.5;
    at(sharper, far);
    sharper.close();
  }
  context.globalAlpha = 1;
}

async function drawPlaced(context: Context, scale: number, x: number, y: number): Promise<void> {
  const { width, height } = context.canvas;
  const picture = await createImageBitmap(context.canvas);
  context.drawImage(picture, width / 2 + x * width - (scale * width) / 2, height / 2 + y * height - (scale * height) / 2, scale * width, scale * height);
  picture.close();
}

async function drawFlash(context: Context, { colour, amount }: NonNullable<Effects['flash']>): Promise<void> {
  const { width, height } = context.canvas;
  if (colour !== 'inverted') {
    context.globalAlpha = amount;
    context.fillStyle = colour;
    context.fillRect(0, 0, width, height);
    return;
  }
  const inverted = new OffscreenCanvas(width, height);
  const on = inverted.getContext('2d')!;
  on.drawImage(context.canvas, 0, 0);
  on.globalCompositeOperation = 'difference';
  on.fillStyle = 'white';
  on.fillRect(0, 0, width, height);
  context.globalAlpha = amount;
  context.drawImage(inverted, 0, 0);
}
