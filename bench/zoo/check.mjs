// What an outsider asks of a finished file: times, count, length, rate, numbers, sound against picture, colour, tags.
import { clicks, packetTimes, pictures, probeFile, rgbOf, sound } from './look.mjs';

/** A patch of a lossy picture may be off by so much of 255. */
const MAX_COLOUR = 2;
/** Seconds. */
const MAX_LATE = 0.001;

/** A screen shows nothing darker than black, or brighter than white. */
const shown = (v) => Math.min(1, Math.max(0, v));
export const frac = ([num, den]) => num / den;
const reduced = (text) => {
  const [num, den] = text.split('/').map(Number);
  const gcd = (a, b) => (b ? gcd(b, a % b) : a);
  return `${num / gcd(num, den)}/${den / gcd(num, den)}`;
};

/** What is in a source, as the eye reads it: numbers and times of its pictures, its clicks, its patches; seconds from its first picture. */
export async function readSource(file) {
  const { video } = probeFile(file);
  const seen = await pictures(file);
  const start = seen[0].time;
  const heard = sound(file);
  return {
    file,
    video,
    numbers: seen.map(({ number }) => number),
    flashes: seen.map(({ flash }) => flash),
    times: seen.map(({ time }) => time - start),
    clicks: heard ? clicks(heard).map((t) => t - start) : undefined,
    patches: seen[0].patches.map((codes) => rgbOf(codes, video)),
    codes: seen[0].patches,
  };
}

/**
 * Everything that is wrong with an output, in short sentences.
 * `wanted`: `rate` as [num, den]; `slower`, by how much a source's own rounding of times is drawn out; `late`, seconds a picture may be off; `pictures`, what each is to show: a number or { flash } for tiny ones; `clicks` in seconds, none where no sound is
 * expected; `patches` as coded R'G'B' of the output's own space; `tags`; `codes` where it has to be equal; `ending` of the file.
 */
export async function checkOutput(file, wanted) {
  const problems = [];
  const say = (text) => problems.push(text);
  const { video, audio, format } = probeFile(file);
  const { times, tick } = packetTimes(file);
  const rate = frac(wanted.rate);
  const count = wanted.pictures.length;
  if (times.length !== count) say(`${times.length} packets, not ${count}`);
  const off = times.findIndex((t, k) => Math.abs(t * tick - k / rate) > (wanted.late ?? tick * (1 + 1e-9)));
  if (off >= 0) say(`picture ${off} at ${(times[off] * tick).toFixed(5)} s, not ${(off / rate).toFixed(5)}`);
  const lasts = Number(video.duration ?? format.duration);
  // Sound is coded in blocks; the last one may stand out.
  const soundEnd = audio ? 0.05 : 0;
  if (!(Math.abs(lasts - count / rate) <= Math.max(tick, soundEnd, 2 * (wanted.late ?? 0)) + 1e-6))
    say(`lasts ${lasts.toFixed(4)} s, not ${(count / rate).toFixed(4)}`);
  const spoken = reduced(video.r_frame_rate);
  // Matroska holds the length of a frame in nanoseconds; ffprobe makes a small fraction of it.
  const isMatroska = /matroska/.test(format.format_name);
  const same = isMatroska
    ? Math.abs(frac(spoken.split('/').map(Number)) / rate - 1) < 1e-6
    : spoken === reduced(wanted.rate.join('/'));
  if (count > 2 && !same && !wanted.late) say(`rate ${spoken}, not ${wanted.rate.join('/')}`);
  const seen = await pictures(file);
  const wrong = seen.findIndex(({ number, flash }, k) => {
    const want = wanted.pictures[k];
    return typeof want === 'object'
      ? flash !== want?.flash
      : number !== want && !(Number.isNaN(want) && Number.isNaN(number));
  });
  if (wrong >= 0 || seen.length !== count) {
    const many = seen.filter(
      ({ number }, k) => typeof wanted.pictures[k] === 'number' && number !== wanted.pictures[k],
    ).length;
    say(
      `picture ${wrong} of ${seen.length} shows ${seen[wrong]?.number}, not ${wanted.pictures[wrong]} (${many} wrong)`,
    );
  }
  const heard = sound(file);
  if (wanted.clicks) {
    if (!heard) say('no sound');
    else {
      const found = clicks(heard);
      // What lies at the very edge may be cut off.
      const inside = wanted.clicks.filter((t) => t > 0.01 && t < count / rate - 0.01);
      const late = inside.map(
        (t) => found.reduce((best, c) => (Math.abs(c - t) < Math.abs(best - t) ? c : best), Infinity) - t,
      );
      const worst = late.reduce((a, b) => (Math.abs(b) > Math.abs(a) ? b : a), 0);
      if (Math.abs(worst) > MAX_LATE * (wanted.slower ?? 1))
        say(
          `sound ${Number.isFinite(worst) ? `${(worst * 1000).toFixed(1)} ms late` : 'missing'} (${late.map((t) => (t * 1000).toFixed(1)).join(' ')})`,
        );
    }
  } else if (wanted.clicks === null && heard) say('has sound');
  if (wanted.patches) {
    const first = seen[wanted.patchFrame ?? 0];
    const apart = first.patches.map(
      (codes, i) =>
        Math.max(...rgbOf(codes, video).map((v, c) => Math.abs(shown(v) - shown(wanted.patches[i][c])))) * 255,
    );
    const worst = Math.max(...apart);
    if (!(worst <= MAX_COLOUR))
      say(`colour off by ${worst.toFixed(1)}/255 (patches ${apart.map((d) => d.toFixed(0)).join(' ')})`);
    if (wanted.codes) {
      const unequal = first.patches.some((codes, i) => codes.some((v, c) => v !== wanted.codes[i][c]));
      if (unequal)
        say(
          `codes ${first.patches.map((c) => c.join('/')).join(' ')}, not ${wanted.codes.map((c) => c.join('/')).join(' ')}`,
        );
    }
  }
  for (const [name, value] of Object.entries(wanted.tags ?? {}))
    if ((video[name] ?? 'unknown') !== value) say(`${name} ${video[name] ?? 'unknown'}, not ${value}`);
  return problems;
}
