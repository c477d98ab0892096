import { frameOfSecond, isDownbeat, loudnessAt, PEAKS_PER_SECOND, placeInBar, type Project, type Sound } from '@idle-bend/core';
import type { BenchClip } from '../bench-store.ts';
import { CLIP_BOTTOM, CUE_Y, LANE, laneTop } from './layout.ts';
import { paceOf } from './pace.ts';
import type { X } from './reel-view.ts';

/** What of the reel is many small strokes, and so is drawn on a canvas: pace, speed, waveforms, beats. */
export interface ReelDrawing {
  readonly project: Project;
  readonly clips: readonly BenchClip[];
  readonly active: string;
  readonly x: X;
  readonly peaks: ReadonlyMap<string, Int8Array>;
  readonly colours: Colours;
}

export interface Colours {
  readonly river: string;
  readonly faint: string;
  readonly brass: string;
  readonly brassPale: string;
}

export function coloursOf(element: Element): Colours {
  const style = getComputedStyle(element);
  const of = (name: string) => style.getPropertyValue(name).trim();
  return { river: of('--river'), faint: of('--faint'), brass: of('--brass'), brassPale: of('--brass-pale') };
}

/** Narrower than this, in pixels, a clip shows no pace. */
const LEAST_WIDTH = 14;

export function drawReel(context: CanvasRenderingContext2D, drawing: ReelDrawing): void {
  const { clips, x, project } = drawing;
  const [left, right] = x.range() as [number, number];
  for (const bench of clips) {
    const [from, to] = [x(bench.start), x(bench.start + bench.frames)];
    if (to > left && from < right && to - from >= LEAST_WIDTH) drawPace(context, bench, drawing, from);
  }
  project.reel.sounds.forEach((sound, lane) => {
    drawWave(context, sound, lane, drawing);
    drawBeats(context, sound, lane, drawing);
  });
}

function drawPace(context: CanvasRenderingContext2D, bench: BenchClip, { x, active, colours }: ReelDrawing, from: number): void {
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
  context.stroke();
}

/** The waveform under its gain and fades; a line where it is silent or not known yet. */
function drawWave(context: CanvasRenderingContext2D, sound: Sound, lane: number, { project, x, peaks, colours }: ReelDrawing): void {
  const wave = peaks.get(sound.footageId);
  const middle = laneTop(lane) + LANE / 2;
  const half = LANE / 2 - 3;
  const [low, high] = x.range() as [number, number];
  const from = Math.max(low, x(frameOfSecond(project, sound, sound.from)));
  const to = Math.min(high, x(frameOfSecond(project, sound, sound.to)));
  context.fillStyle = colours.brass;
  context.globalAlpha = 0.55;
  const second = (pixel: number) => sound.from + (x.invert(pixel) * project.reel.rate.den) / project.reel.rate.num - sound.start;
  for (let pixel = Math.floor(from); pixel < to; pixel++) {
    let [least, most] = [0, 0];
    if (wave) {
      const a = Math.max(0, Math.floor(second(pixel) * PEAKS_PER_SECOND));
      const b = Math.min(wave.length / 2 - 1, Math.max(a, Math.ceil(second(pixel + 1) * PEAKS_PER_SECOND) - 1));
      for (let n = a; n <= b; n++) {
        if (wave[2 * n]! < least) least = wave[2 * n]!;
        if (wave[2 * n + 1]! > most) most = wave[2 * n + 1]!;
      }
    }
    const loud = Math.min(1, loudnessAt(sound, Math.min(sound.to - 1e-6, Math.max(sound.from, second(pixel + 0.5)))));
    const [top, bottom] = [(most / 127) * loud * half, (-least / 127) * loud * half];
    context.fillRect(pixel, middle - Math.max(0.5, top), 1, Math.max(1, top + bottom));
  }
  context.globalAlpha = 1;
}

/** Beats stand on the cues' line for the first sound, within their lane for others; first beats of bars are taller and counted. */
function drawBeats(context: CanvasRenderingContext2D, sound: Sound, lane: number, { project, x, colours }: ReelDrawing): void {
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
    if (second < sound.from || second >= sound.to || (down ? barGap : gap) < 3) return;
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
