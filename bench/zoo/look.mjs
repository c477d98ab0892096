// The outsider's eye: reads files with ffmpeg and ffprobe alone. Shares no code with the product.
import { spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { BITS, formatOf, PATCHES, planesOf, ROWS, WEIGHTS } from './draw.mjs';

function run(program, args) {
  const { status, stdout, stderr } = spawnSync(program, args, { maxBuffer: 2 ** 30 });
  if (status !== 0) throw new Error(`${program} ${args.join(' ')}\n${stderr}`);
  return stdout;
}

/** Streams and format as ffprobe says them. */
export function probeFile(file) {
  const read = JSON.parse(run('ffprobe', ['-v', 'error', '-of', 'json', '-show_streams', '-show_format', file]));
  return {
    video: read.streams.find((s) => s.codec_type === 'video'),
    audio: read.streams.find((s) => s.codec_type === 'audio'),
    format: read.format,
  };
}

/** Presentation times of the picture's packets, in ticks, in order of presentation; and what a tick is, in seconds. */
export function packetTimes(file) {
  const { video } = probeFile(file);
  const rows = run('ffprobe', [
    '-v',
    'error',
    '-select_streams',
    'v:0',
    '-show_entries',
    'packet=pts',
    '-of',
    'csv=p=0',
    file,
  ]).toString();
  const times = rows
    .split('\n')
    .map((row) => row.replace(/,.*/, ''))
    .filter((row) => row !== '')
    .map(Number);
  const [num, den] = video.time_base.split('/').map(Number);
  return { times: times.sort((a, b) => a - b), tick: num / den };
}

const average = (data, wide, plane, [left, right], [top, bottom]) => {
  // The middle of a cell, a quarter of it left out on every side.
  const span = (from, to, size) => {
    const low = Math.floor((from + (to - from) / 4) * size);
    return [low, Math.max(low + 1, Math.floor((to - (to - from) / 4) * size))];
  };
  const [x0, x1] = span(left, right, plane.width);
  const [y0, y1] = span(top, bottom, plane.height);
  let sum = 0;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++)
      sum += wide
        ? data.readUInt16LE(plane.offset + 2 * (y * plane.width + x))
        : data[plane.offset + y * plane.width + x];
  return sum / ((x1 - x0) * (y1 - y0));
};

/** What a decoded picture says: its number, whether its flash is lit, the codes of its patches. */
export function readPicture(data, layout, width, height) {
  const wide = layout.bits > 8;
  let offset = 0;
  const planes = planesOf(layout, width, height).map((plane) => {
    const placed = { ...plane, offset };
    offset += plane.bytes;
    return placed;
  });
  const luma = layout.model === 'rgb' ? planes[0] : planes[0];
  const middle = 2 ** (layout.bits - 1);
  if (width < BITS + 2)
    return { number: undefined, flash: average(data, wide, luma, [0, 1], [0, 1]) > middle, patches: [] };
  const cell = (i) => average(data, wide, luma, [i / (BITS + 2), (i + 1) / (BITS + 2)], ROWS.number) > middle;
  let number = 0;
  for (let i = 0; i < BITS; i++) number |= cell(i) ? 1 << i : 0;
  const parity = [...number.toString(2)].filter((bit) => bit === '1').length % 2;
  const whole = cell(BITS) === (parity === 1) && cell(BITS + 1) === (parity === 0);
  const flash = average(data, wide, luma, [0.2, 0.8], ROWS.flash) > middle;
  const colours = planes.slice(0, layout.model === 'gray' ? 1 : 3);
  const patches = PATCHES.map((_, i) =>
    colours.map((plane) => average(data, wide, plane, [i / PATCHES.length, (i + 1) / PATCHES.length], ROWS.patches)),
  );
  return { number: whole ? number : NaN, flash, patches };
}

/** Every picture of a file, in order of presentation, as its decoder gives it, with its time in seconds. */
export async function pictures(file) {
  const { video } = probeFile(file);
  // Formats that are not planar are read as the planar one that loses nothing.
  const named =
    { rgb24: 'gbrp', bgr0: 'gbrp', bgra: 'gbrap', rgba: 'gbrap', pal8: 'gbrap', gray10le: 'yuv444p10le' }[
      video.pix_fmt
    ] ?? video.pix_fmt;
  const layout = formatOf(named);
  const rotation = video.side_data_list?.find((d) => d.rotation !== undefined)?.rotation ?? 0;
  const [width, height] = rotation % 180 === 0 ? [video.width, video.height] : [video.height, video.width];
  const bytes = planesOf(layout, width, height).reduce((sum, p) => sum + p.bytes, 0);
  const args = [
    '-hide_banner',
    '-nostats',
    '-nostdin',
    '-loglevel',
    'info',
    '-copyts',
    '-i',
    file,
    '-map',
    '0:v:0',
    '-vf',
    'showinfo=checksum=0',
    '-fps_mode',
    'passthrough',
    '-pix_fmt',
    named,
    '-f',
    'rawvideo',
    'pipe:1',
  ];
  const child = spawn('ffmpeg', args, { stdio: ['ignore', 'pipe', 'pipe'] });
  const found = [];
  let log = '';
  child.stderr.on('data', (chunk) => (log += chunk));
  const closed = once(child, 'close');
  // A picture of 8K comes in hundreds of pieces: each is copied once.
  const picture = Buffer.alloc(bytes);
  let held = 0;
  for await (const chunk of child.stdout) {
    for (let at = 0; at < chunk.length;) {
      const part = Math.min(chunk.length - at, bytes - held);
      chunk.copy(picture, held, at, at + part);
      [at, held] = [at + part, held + part];
      if (held < bytes) break;
      found.push(readPicture(picture, layout, width, height));
      held = 0;
    }
  }
  await closed;
  // Seconds are logged with six figures only; ticks are exact.
  const [num, den] = /config in time_base: (\d+)\/(\d+)/.exec(log)?.slice(1).map(Number) ?? [1, 1];
  const times = [...log.matchAll(/Parsed_showinfo[^\n]* n: *\d+ pts: *(-?\d+) /g)].map(
    (m) => (Number(m[1]) * num) / den,
  );
  if (times.length !== found.length)
    throw new Error(`${file}: ${found.length} pictures but ${times.length} times\n${log.slice(-2000)}`);
  return found.map((picture, i) => ({ ...picture, time: times[i] }));
}

/** A file's sound, one channel, and the time of its first sample in seconds: every decoded block is laid where its own time says. */
export function sound(file) {
  const { audio } = probeFile(file);
  if (!audio) return undefined;
  const rate = Number(audio.sample_rate);
  const { status, stdout, stderr } = spawnSync(
    'ffmpeg',
    [
      '-hide_banner',
      '-nostats',
      '-nostdin',
      '-loglevel',
      'info',
      '-copyts',
      '-i',
      file,
      '-map',
      '0:a:0',
      '-af',
      'ashowinfo,pan=mono|c0=c0',
      '-f',
      'f32le',
      'pipe:1',
    ],
    { maxBuffer: 2 ** 30 },
  );
  if (status !== 0) throw new Error(String(stderr));
  // Decoded sound is timed in samples.
  const blocks = [...String(stderr).matchAll(/n:\d+ pts:(-?\d+) .*?nb_samples:(\d+)/g)].map((m) => ({
    time: Number(m[1]) / rate,
    count: Number(m[2]),
  }));
  const samples = new Float32Array(
    stdout.buffer.slice(stdout.byteOffset, stdout.byteOffset + stdout.length - (stdout.length % 4)),
  );
  const start = blocks[0]?.time ?? 0;
  const end = blocks.reduce((latest, { time, count }) => Math.max(latest, time + count / rate), start);
  const laid = new Float32Array(Math.ceil((end - start) * rate) + 1);
  let at = 0;
  for (const { time, count } of blocks) {
    laid.set(samples.subarray(at, at + count), Math.round((time - start) * rate));
    at += count;
  }
  return { samples: laid, rate, start, end };
}

/** The middles of clicks, seconds of the file's clock: where energy gathers, weighed within 6 ms of the loudest sample. */
export function clicks({ samples, rate, start }) {
  let loudest = 0;
  for (const value of samples) loudest = Math.max(loudest, Math.abs(value));
  if (loudest < 0.02) return [];
  const found = [];
  const reach = Math.round(0.006 * rate);
  for (let i = 0; i < samples.length; i++) {
    if (Math.abs(samples[i]) < loudest * 0.4) continue;
    let peak = i;
    for (let j = i; j < Math.min(samples.length, i + 2 * reach); j++)
      if (Math.abs(samples[j]) > Math.abs(samples[peak])) peak = j;
    let [weight, sum] = [0, 0];
    for (let j = Math.max(0, peak - reach); j < Math.min(samples.length, peak + reach); j++) {
      const energy = samples[j] ** 2;
      weight += energy;
      sum += energy * j;
    }
    found.push(start + sum / weight / rate);
    i = peak + 3 * reach;
  }
  return found;
}

/** Coded R'G'B' of codes, as the file's tags say; untagged by the usual rule. */
export function rgbOf(codes, { pix_fmt, color_space, color_range, height }) {
  const { model, bits } = formatOf(
    { rgb24: 'gbrp', bgr0: 'gbrp', bgra: 'gbrap', rgba: 'gbrap', pal8: 'gbrap' }[pix_fmt] ?? pix_fmt,
  );
  const top = 2 ** bits - 1;
  if (model === 'rgb') return [codes[2], codes[0], codes[1]].map((v) => v / top);
  const full = color_range === 'pc' || pix_fmt.startsWith('yuvj');
  const scale = 2 ** (bits - 8);
  const y = full ? codes[0] / top : (codes[0] / scale - 16) / 219;
  const [cb, cr] = [1, 2].map((i) => (full ? (codes[i] - 2 ** (bits - 1)) / top : (codes[i] / scale - 128) / 224));
  const [kr, kb] = WEIGHTS[color_space] ?? (height >= 720 ? WEIGHTS.bt709 : WEIGHTS.smpte170m);
  const r = y + 2 * (1 - kr) * cr;
  const b = y + 2 * (1 - kb) * cb;
  return [r, (y - kr * r - kb * b) / (1 - kr - kb), b];
}
