// Draws pictures and sounds whose truth is known, and has ffmpeg make files of them. Shares no code with the product.
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** A picture's number is written in so many black and white cells; two more say whether it was read right. */
export const BITS = 16;
/** Where things lie, in shares of the height: the number, the flash, the patches. */
export const ROWS = { number: [0, 0.35], flash: [0.35, 0.55], patches: [0.55, 1] };
/** Coded R'G'B' of the patches. */
export const PATCHES = [
  [1, 1, 1],
  [0, 0, 0],
  [0.75, 0.1, 0.1],
  [0.1, 0.7, 0.2],
  [0.15, 0.2, 0.8],
  [0.8, 0.6, 0.5],
  [0.5, 0.5, 0.5],
  [0.25, 0.25, 0.25],
];
/** Every so many pictures one is white in its middle, and a click is heard as it begins. */
const FLASH_EVERY = 24;
const FIRST_FLASH = 8;
const isFlash = (n) => n % FLASH_EVERY === FIRST_FLASH;

/** Luma weights of red and blue: ITU-R BT.709-6, BT.601-7, BT.2020-2. */
export const WEIGHTS = {
  bt709: [0.2126, 0.0722],
  smpte170m: [0.299, 0.114],
  bt470bg: [0.299, 0.114],
  bt2020nc: [0.2627, 0.0593],
};

/** Y'CbCr codes of a coded R'G'B'. */
function codesOf([r, g, b], { matrix, range }, bits) {
  const [kr, kb] = WEIGHTS[matrix];
  const y = kr * r + (1 - kr - kb) * g + kb * b;
  const [cb, cr] = [(b - y) / (2 * (1 - kb)), (r - y) / (2 * (1 - kr))];
  const scale = 2 ** (bits - 8);
  const top = 2 ** bits - 1;
  if (range === 'pc')
    return [y * top, cb * top + 2 ** (bits - 1), cr * top + 2 ** (bits - 1)].map((v) =>
      Math.min(top, Math.max(0, Math.round(v))),
    );
  return [(16 + 219 * y) * scale, (128 + 224 * cb) * scale, (128 + 224 * cr) * scale].map(Math.round);
}

const SHARED = { 420: [1, 1], 422: [1, 0], 444: [0, 0] };

/** Planar formats by ffmpeg's names: model, shifts of chroma, bits, alpha. */
export const formatOf = (name) => {
  const [, yuv, shared, rgb, bits] = /^(?:(yuv[aj]?)(420|422|444)p|(gbra?)p|gray)(?:(\d+)le)?$/.exec(name) ?? [];
  if (!yuv && !rgb && !name.startsWith('gray')) throw new Error(`the zoo does not draw or read ${name}`);
  const [sx, sy] = SHARED[shared] ?? [0, 0];
  return {
    model: yuv ? 'yuv' : rgb ? 'rgb' : 'gray',
    sx,
    sy,
    bits: Number(bits ?? 8),
    alpha: yuv === 'yuva' || rgb === 'gbra',
  };
};
export const planesOf = ({ model, sx, sy, bits, alpha }, width, height) => {
  const bytes = bits > 8 ? 2 : 1;
  const chroma = model === 'yuv' ? [(width + (1 << sx) - 1) >> sx, (height + (1 << sy) - 1) >> sy] : [width, height];
  const sizes = model === 'gray' ? [[width, height]] : [[width, height], chroma, chroma];
  if (alpha) sizes.push([width, height]);
  return sizes.map(([w, h]) => ({ width: w, height: h, bytes: w * h * bytes }));
};

/** The coded R'G'B' at a place of picture n. */
function colourAt(n, x, y) {
  if (y < ROWS.number[1]) {
    const cell = Math.min(BITS + 1, Math.floor(x * (BITS + 2)));
    const parity = [...n.toString(2)].filter((bit) => bit === '1').length % 2;
    const bit = cell < BITS ? (n >> cell) & 1 : cell === BITS ? parity : 1 - parity;
    return bit ? PATCHES[0] : PATCHES[1];
  }
  if (y < ROWS.flash[1]) return isFlash(n) ? PATCHES[0] : PATCHES[1];
  return PATCHES[Math.min(PATCHES.length - 1, Math.floor(x * PATCHES.length))];
}

/** Picture n. One of a single sample is black or white by turns; tiny ones have no number. */
function drawPicture(n, width, height, format, colour) {
  const layout = formatOf(format);
  const planes = planesOf(layout, width, height);
  const data = Buffer.alloc(planes.reduce((sum, { bytes }) => sum + bytes, 0));
  const wide = layout.bits > 8;
  const known = new Map();
  const valuesOf = (rgb) => {
    if (!known.has(rgb)) {
      const top = 2 ** layout.bits - 1;
      known.set(
        rgb,
        layout.model === 'rgb'
          ? [rgb[1], rgb[2], rgb[0]].map((v) => Math.round(v * top))
          : codesOf(rgb, colour, layout.bits),
      );
    }
    return known.get(rgb);
  };
  let offset = 0;
  planes.forEach((plane, i) => {
    const isAlpha = layout.alpha && i === planes.length - 1;
    const rows = new Map();
    for (let y = 0; y < plane.height; y++) {
      const v = (y + 0.5) / plane.height;
      const band = v < ROWS.number[1] ? 0 : v < ROWS.flash[1] ? 1 : 2;
      let row = rows.get(band);
      if (!row) {
        row = Buffer.alloc(plane.width * (wide ? 2 : 1));
        for (let x = 0; x < plane.width; x++) {
          const rgb = width < BITS + 2 ? PATCHES[n % 2] : colourAt(n, (x + 0.5) / plane.width, v);
          const value = isAlpha ? 2 ** layout.bits - 1 - (x % 2 === 0 ? 0 : 1) : valuesOf(rgb)[i];
          if (wide) row.writeUInt16LE(value, 2 * x);
          else row[x] = value;
        }
        rows.set(band, row);
      }
      row.copy(data, offset);
      offset += row.length;
    }
  });
  return data;
}

/** Clicks a second: bursts of 2 kHz under a bell 0.8 ms wide, whose middles are at those seconds. `from` is the first sample's time. */
function drawClicks(seconds, rate, channels, from, length) {
  const samples = Math.round(length * rate);
  const data = new Float32Array(samples * channels);
  for (const at of seconds) {
    const middle = (at - from) * rate;
    for (let i = Math.max(0, Math.floor(middle - 0.006 * rate)); i < Math.min(samples, middle + 0.006 * rate); i++) {
      const t = (i - middle) / rate;
      const value = 0.8 * Math.exp(-((t / 0.0008) ** 2) / 2) * Math.cos(2 * Math.PI * 2000 * t);
      for (let c = 0; c < channels; c++) data[i * channels + c] = value;
    }
  }
  return Buffer.from(data.buffer);
}

export async function ffmpeg(args, feed) {
  const child = spawn('ffmpeg', ['-v', 'error', '-nostdin', '-y', ...args], {
    stdio: [feed ? 'pipe' : 'ignore', 'ignore', 'pipe'],
  });
  let complaint = '';
  child.stderr.on('data', (chunk) => (complaint += chunk));
  const closed = once(child, 'close');
  if (feed) {
    child.stdin.on('error', () => undefined);
    for (const piece of feed()) if (!child.stdin.write(piece)) await Promise.race([once(child.stdin, 'drain'), closed]);
    child.stdin.end();
  }
  const [code] = await closed;
  if (code !== 0) throw new Error(`ffmpeg ${args.join(' ')}\n${complaint}`);
}

/** Seconds at which the pictures of a recipe are shown. */
const timesOf = ({ frames, rate, times }) =>
  Array.from({ length: frames }, (_, n) => (times ? times(n) : (n * rate[1]) / rate[0]));

/**
 * Makes a source. `picture` and `sound` are encoder options, `container` the muxer's; sound begins at `sound.start` against the first picture.
 * Returns the seconds of its flashes.
 */
export async function makeSource(recipe, file) {
  const {
    rate,
    size = [320, 180],
    format = 'yuv420p',
    colour,
    picture,
    sound,
    container = [],
    filters = [],
    after,
  } = recipe;
  const [width, height] = size;
  const scratch = await mkdtemp(join(tmpdir(), 'zoo-'));
  try {
    const times = timesOf(recipe);
    const tagged =
      colour.tags === false
        ? []
        : ['-colorspace', colour.matrix, '-color_primaries', colour.primaries, '-color_trc', colour.transfer];
    const range = colour.tags === false && colour.range !== 'pc' ? [] : ['-color_range', colour.range];
    // Without -r ffmpeg takes 119.88 for 120.
    const inputs = [
      '-f',
      'rawvideo',
      '-pix_fmt',
      format,
      '-s',
      `${width}x${height}`,
      '-framerate',
      rate.join('/'),
      '-r',
      rate.join('/'),
      ...range,
      '-i',
      'pipe:0',
    ];
    if (sound) {
      const { start = 0, channels = 2, sampleRate = 48000, layout } = sound;
      const end = sound.end ?? times.at(-1) + rate[1] / rate[0];
      const raw = join(scratch, 'sound.f32');
      const flashes = times.filter((_, n) => isFlash(n));
      await writeFile(raw, drawClicks(flashes, sampleRate, channels, start, end - start));
      inputs.push(
        '-itsoffset',
        String(start),
        '-f',
        'f32le',
        '-ar',
        String(sampleRate),
        '-ac',
        String(channels),
        ...(layout ? ['-channel_layout', layout] : []),
        '-i',
        raw,
      );
    }
    const pts = recipe.times ? [`settb=1/90000,setpts=${listed(times)}`] : [];
    const model = formatOf(format).model;
    const vf = [...pts, ...filters];
    const args = [
      ...inputs,
      ...(vf.length > 0 ? ['-vf', vf.join(',')] : []),
      ...(recipe.times ? ['-fps_mode', 'passthrough', '-enc_time_base', '1/90000'] : []),
      ...picture,
      ...(model === 'yuv' ? [...tagged, ...range] : []),
      ...(sound ? sound.codec : []),
      ...container,
    ];
    const target = after ? join(scratch, `whole.${file.split('.').pop()}`) : file;
    await ffmpeg([...args, target], () => pictures(recipe));
    if (after) await after(target, file, scratch);
  } finally {
    await rm(scratch, { recursive: true, force: true });
  }
}

function* pictures({ frames, size: [width, height] = [320, 180], format = 'yuv420p', colour, numberOf = (n) => n }) {
  for (let n = 0; n < frames; n++) yield drawPicture(numberOf(n), width, height, format, colour);
}

/** The times of a few pictures as an expression of ffmpeg, in ticks of 1/90000. */
const listed = (times) => `'${times.map((t, n) => `eq(N,${n})*${Math.round(t * 90000)}`).join('+')}'`;
