import { spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';

/** Clips whose every picture carries its number, as 16 bits in black and white blocks along the top. */
export const WIDTH = 320;
export const HEIGHT = 192;
const BLOCK = WIDTH / 16;
const STRIP = 32;

const SLOPE = 160;
const slopes = new Map<number, Buffer[]>();

/** Rows of a picture below its number, by where their slope begins. */
function slopesOf(width: number): Buffer[] {
  let rows = slopes.get(width);
  if (!rows) {
    rows = Array.from({ length: SLOPE }, (_, begin) =>
      Buffer.from(Uint8Array.from({ length: width }, (_, x) => 40 + ((x * 2 + begin) % SLOPE))),
    );
    slopes.set(width, rows);
  }
  return rows;
}

/** One 4:2:0 picture: the number on top, a moving slope below so that codecs have motion to predict. */
function numberedPicture(n: number, width = WIDTH, height = HEIGHT): Buffer {
  const chroma = ((width + 1) >> 1) * ((height + 1) >> 1);
  const picture = Buffer.alloc(width * height + 2 * chroma, 128);
  const rows = slopesOf(width);
  const number = Buffer.from(
    Uint8Array.from({ length: width }, (_, x) => ((n >> Math.floor((x * 16) / width)) & 1 ? 235 : 16)),
  );
  for (let y = 0; y < height; y++) (y < STRIP ? number : rows[(y + n * 5) % SLOPE]!).copy(picture, y * width);
  return picture;
}

export interface ClipRecipe {
  readonly file: string;
  readonly frames: number;
  readonly rate: string;
  /** Encoder and container options of ffmpeg, after the input. */
  readonly options: readonly string[];
  readonly width?: number;
  readonly height?: number;
  /** The number frame n carries; n without it. */
  readonly numberOf?: (n: number) => number;
}

export async function makeNumberedClip({
  file,
  frames,
  rate,
  options,
  width = WIDTH,
  height = HEIGHT,
  numberOf = (n) => n,
}: ClipRecipe): Promise<string> {
  const child = spawn(
    'ffmpeg',
    [
      '-v',
      'error',
      '-y',
      '-f',
      'rawvideo',
      '-pix_fmt',
      'yuv420p',
      '-s',
      `${width}x${height}`,
      '-framerate',
      rate,
      '-i',
      'pipe:0',
      ...options,
      file,
    ],
    {
      stdio: ['pipe', 'ignore', 'inherit'],
    },
  );
  const closed = once(child, 'close') as Promise<[number]>;
  child.stdin.on('error', () => undefined);
  for (let n = 0; n < frames; n++)
    if (!child.stdin.write(numberedPicture(numberOf(n), width, height)))
      await Promise.race([once(child.stdin, 'drain'), closed]);
  child.stdin.end();
  const [code] = await closed;
  if (code !== 0) throw new Error(`ffmpeg ended with ${code} making ${file}`);
  return file;
}

/** The numbers in a file's pictures, in order of presentation, read by an ffmpeg of the test's own. */
export function readNumbers(file: string, inputOptions: readonly string[] = [], crop?: string): number[] {
  const { stdout, status, stderr } = spawnSync(
    'ffmpeg',
    [
      '-v',
      'error',
      ...inputOptions,
      '-i',
      file,
      '-map',
      '0:v:0',
      '-fps_mode',
      'passthrough',
      '-vf',
      `${crop ? `${crop},` : ''}scale=${WIDTH}:${HEIGHT},format=gray`,
      '-f',
      'rawvideo',
      'pipe:1',
    ],
    { maxBuffer: 2 ** 31 - 1 },
  );
  if (status !== 0) throw new Error(stderr.toString());
  const size = WIDTH * HEIGHT;
  return Array.from({ length: stdout.length / size }, (_, i) => numberIn(stdout.subarray(i * size, (i + 1) * size)));
}

/** The number in one luma plane of the standard size. */
export function numberIn(luma: Uint8Array): number {
  let n = 0;
  for (let bit = 0; bit < 16; bit++) if (luma[(STRIP / 2) * WIDTH + bit * BLOCK + BLOCK / 2]! > 128) n |= 1 << bit;
  return n;
}

export const H264 = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '20', '-pix_fmt', 'yuv420p'];
