type Context = OffscreenCanvasRenderingContext2D;

/** Two pictures next to each other, the clip on the left. */
export function drawSide(context: Context, clip: ImageData, other: ImageData): void {
  context.putImageData(clip, 0, 0);
  context.putImageData(other, clip.width, 0);
}

/** The clip left of an edge and the other right of it, with a line between. */
export function drawWipe(context: Context, clip: ImageData, other: ImageData, edge: number): void {
  const x = Math.round(clip.width * edge);
  context.putImageData(clip, 0, 0);
  context.putImageData(other, 0, 0, x, 0, clip.width - x, clip.height);
  context.fillStyle = '#ffffff';
  context.fillRect(Math.max(0, x - 1), 0, 2, clip.height);
}

/** How long each picture of a blink stands: slow enough that nothing flashes. */
const BLINK_MILLISECONDS = 600;

/** One picture, then the other, until the timer that is returned is cleared. */
export function drawBlink(context: Context, clip: ImageData, other: ImageData): ReturnType<typeof setInterval> {
  let second = false;
  const turn = () => {
    context.putImageData(second ? other : clip, 0, 0);
    second = !second;
  };
  turn();
  return setInterval(turn, BLINK_MILLISECONDS);
}

/** Where the two differ: mid grey is no difference, and one grey level stands out as four. */
export function drawDifference(context: Context, clip: ImageData, other: ImageData): void {
  const out = new ImageData(clip.width, clip.height);
  const [a, b] = [clip.data, other.data];
  for (let i = 0; i < a.length; i += 4) {
    for (let c = 0; c < 3; c++) out.data[i + c] = 128 + 4 * (a[i + c]! - b[i + c]!);
    out.data[i + 3] = 255;
  }
  context.putImageData(out, 0, 0);
}
