import { isDownbeat, placeInBar } from '@idle-bend/core/beats';
import type { Footage } from '@idle-bend/core/api';
import type { Clip, Project, Sound } from '@idle-bend/core/model';
import { frameOfSecond, loudnessAt } from '@idle-bend/core/reel';
import { PEAKS_PER_SECOND, SOUND_RATE, soundPath, type SoundPath } from '@idle-bend/core/sound';
import { CLIP_BOTTOM, CUE_Y, LANE, laneTop } from './layout.ts';
import type { Thumbs } from '../picture/thumbs.ts';
import type { Strips } from '../strips.ts';
import { drawPictures } from './draw-pictures.ts';
import { paceOf } from './pace.ts';
import type { X } from './reel-view.ts';
import { type BenchClip } from '../../session/bench-state.ts';

/** What of the reel is many small strokes, and so is drawn on a canvas: pace, speed, waveforms, beats. */
export interface ReelDrawing {
  readonly project: Project;
  readonly clips: readonly BenchClip[];
  readonly active: string;
  readonly x: X;
  readonly peaks: ReadonlyMap<string, Int8Array>;
  readonly footage: readonly Footage[];
  readonly strips: Strips;
  readonly thumb: Thumbs;
  readonly colours: Colours;
}

export interface Colours {
  readonly river: string;
  readonly faint: string;
  readonly brass: string;
  readonly brassPale: string;
  readonly sheet: string;
}

export function coloursOf(element: Element): Colours {
  const style = getComputedStyle(element);
  const of = (name: string) => style.getPropertyValue(name).trim();
  return {
    river: of('--river'),
    faint: of('--faint'),
    brass: of('--brass'),
    brassPale: of('--brass-pale'),
    sheet: of('--sheet'),
  };
}

/** Narrower than this, in pixels, a clip shows no pace. */
const MIN_WIDTH = 14;

export function drawReel(context: CanvasRenderingContext2D, drawing: ReelDrawing): void {
  const { clips, x, project } = drawing;
  const [left, right] = x.range() as [number, number];
  for (const bench of clips) {
    const [from, to] = [x(bench.start), x(bench.start + bench.frames)];
    if (!(to > left && from < right && to - from >= MIN_WIDTH)) continue;
    drawPictures(context, bench, drawing);
    drawOwnSound(context, bench, drawing);
    drawPace(context, bench, drawing, from);
  }
  project.reel.sounds.forEach((sound, lane) => {
    drawWave(context, sound, lane, drawing);
    drawBeats(context, sound, lane, drawing);
  });
}

function drawPace(
  context: CanvasRenderingContext2D,
  bench: BenchClip,
  { x, active, colours }: ReelDrawing,
  from: number,
): void {
  const { ticks, speed } = paceOf(bench, x);
  const colour = bench.clip.id === active ? colours.river : colours.faint;
  const [low, high] = x.range() as [number, number];
  context.strokeStyle = colour;
  context.globalAlpha = 0.75;
  context.lineWidth = 1;
  context.beginPath();
  for (const { at, back } of ticks) {
    const place = Math.round(x(bench.start + at)) + 0.5;
    if (place < low || place > high) continue;
    context.moveTo(place, CLIP_BOTTOM - 3);
    context.lineTo(place - (back ? 5 : 0), CLIP_BOTTOM - 17);
  }
  context.stroke();
  context.globalAlpha = 1;
  context.lineWidth = bench.clip.id === active ? 2 : 1.5;
  context.beginPath();
  const step = (x(bench.start + bench.frames) - from) / (speed.length - 1);
  const first = Math.max(0, Math.floor((low - from) / step));
  const last = Math.min(speed.length - 1, Math.ceil((high - from) / step));
  for (let i = first; i <= last; i++) context.lineTo(Math.max(low, Math.min(high, from + i * step)), speed[i]!);
  // It stays readable over pictures.
  context.strokeStyle = colours.sheet;
  context.lineWidth += 3;
  context.stroke();
  context.strokeStyle = colour;
  context.lineWidth -= 3;
  context.stroke();
}

/** Heights of a clip's own waveform on it, from its middle. */
const OWN_MIDDLE = CLIP_BOTTOM - 22;
const OWN_HALF = 13;
/** Louder than it was recorded is drawn up to here. */
const MAX_DRAWN = 1.3;

/** The way of each clip's sound as the clip is now: one is large, and those of all the clips in the undo history would fill the memory. */
const paths = new Map<string, { readonly clip: Clip; readonly frames: number; readonly path: SoundPath }>();
const MAX_PATHS = 1000;

function pathOf({ project, clip, frames }: BenchClip): SoundPath {
  const known = paths.get(clip.id);
  if (known?.clip === clip && known.frames === frames) return known.path;
  const path = soundPath(project, clip, frames);
  paths.delete(clip.id);
  paths.set(clip.id, { clip, frames, path });
  // Clips that are gone make room.
  if (paths.size > MAX_PATHS) paths.delete(paths.keys().next().value!);
  return path;
}

/** A clip's own sound as it will be heard: along its curve, as loud as it is there, silent where it is. */
function drawOwnSound(context: CanvasRenderingContext2D, bench: BenchClip, { x, peaks, colours }: ReelDrawing): void {
  const wave = peaks.get(bench.source.id);
  if (!wave) return;
  const path = pathOf(bench);
  const [low, high] = x.range() as [number, number];
  const perFrame = path.length / bench.frames;
  const sampleAt = (pixel: number) => Math.max(0, Math.min(path.length, (x.invert(pixel) - bench.start) * perFrame));
  const place = (sample: number) => (path.position(sample) / SOUND_RATE) * PEAKS_PER_SECOND;
  const last = Math.min(high, x(bench.start + bench.frames));
  context.fillStyle = colours.brass;
  context.globalAlpha = 0.4;
  for (let pixel = Math.max(low, Math.ceil(x(bench.start))); pixel < last; pixel++) {
    const [a, b] = [sampleAt(pixel), sampleAt(pixel + 1)];
    const { follow, keep } = path.shares((a + b) / 2);
    const loud = Math.min(MAX_DRAWN, follow + keep);
    if (loud <= 0) continue;
    const [from, to] = [place(a), place(b)].sort((p, q) => p - q) as [number, number];
    const [least, most] = extremes(wave, from, to);
    const [top, bottom] = [(most / 127) * loud * OWN_HALF, (-least / 127) * loud * OWN_HALF];
    context.fillRect(pixel, OWN_MIDDLE - top, 1, Math.max(1, top + bottom));
  }
  context.globalAlpha = 1;
}

/** The least and the greatest of a waveform between two places in it. */
function extremes(wave: Int8Array, from: number, to: number): readonly [number, number] {
  let [least, most] = [0, 0];
  const first = Math.max(0, Math.floor(from));
  const last = Math.min(wave.length / 2 - 1, Math.max(first, Math.ceil(to) - 1));
  for (let n = first; n <= last; n++) {
    if (wave[2 * n]! < least) least = wave[2 * n]!;
    if (wave[2 * n + 1]! > most) most = wave[2 * n + 1]!;
  }
  return [least, most];
}

/** The waveform under its gain and fades; a line where it is silent or not known yet. */
function drawWave(
  context: CanvasRenderingContext2D,
  sound: Sound,
  lane: number,
  { project, x, peaks, colours }: ReelDrawing,
): void {
  const wave = peaks.get(sound.footageId);
  const middle = laneTop(lane) + LANE / 2;
  const half = LANE / 2 - 3;
  const [low, high] = x.range() as [number, number];
  const from = Math.max(low, x(frameOfSecond(project, sound, sound.fromSeconds)));
  const to = Math.min(high, x(frameOfSecond(project, sound, sound.toSeconds)));
  context.fillStyle = colours.brass;
  context.globalAlpha = 0.55;
  const second = (pixel: number) =>
    sound.fromSeconds + (x.invert(pixel) * project.reel.rate.den) / project.reel.rate.num - sound.startSeconds;
  for (let pixel = Math.floor(from); pixel < to; pixel++) {
    let [least, most] = [0, 0];
    if (wave) [least, most] = extremes(wave, second(pixel) * PEAKS_PER_SECOND, second(pixel + 1) * PEAKS_PER_SECOND);
    const loud = Math.min(
      1,
      loudnessAt(sound, Math.min(sound.toSeconds - 1e-6, Math.max(sound.fromSeconds, second(pixel + 0.5)))),
    );
    const [top, bottom] = [(most / 127) * loud * half, (-least / 127) * loud * half];
    context.fillRect(pixel, middle - Math.max(0.5, top), 1, Math.max(1, top + bottom));
  }
  context.globalAlpha = 1;
}

/** Beats stand on the cues' line for the first sound, within their lane for others; first beats of bars are taller and counted. */
function drawBeats(
  context: CanvasRenderingContext2D,
  sound: Sound,
  lane: number,
  { project, x, colours }: ReelDrawing,
): void {
  if (!sound.beats) return;
  const { times } = sound.beats;
  const [low, high] = x.range() as [number, number];
  const place = (second: number) => x(frameOfSecond(project, sound, second));
  const gap = times.length > 1 ? (place(times.at(-1)!) - place(times[0]!)) / (times.length - 1) : 0;
  const barGap = gap * sound.beats.bar.beats;
  const top = lane === 0 ? CUE_Y : laneTop(lane);
  const bottom = laneTop(lane) + LANE;
  context.strokeStyle = colours.brass;
  context.fillStyle = colours.brass;
  context.font = '10px "Spline Sans Mono", monospace';
  const every = [1, 2, 4, 8, 16, 32, 64].find((n) => n * barGap > 26) ?? 128;
  times.forEach((second, i) => {
    const down = isDownbeat(sound.beats!, i);
    if (second < sound.fromSeconds || second >= sound.toSeconds || (down ? barGap : gap) < 3) return;
    const at = Math.round(place(second)) + 0.5;
    if (at < low || at > high) return;
    context.globalAlpha = down ? 0.9 : 0.35;
    context.lineWidth = down ? 1.2 : 1;
    context.beginPath();
    context.moveTo(at, top - (down ? 7 : 3));
    context.lineTo(at, down ? bottom : top + 6);
    context.stroke();
    const { bar } = placeInBar(sound.beats!, i);
    if (down && bar > 0 && (bar - 1) % every === 0 && at < high - 14) context.fillText(String(bar), at + 3, bottom - 3);
  });
  context.globalAlpha = 1;
}
