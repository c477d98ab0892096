import kernelsUrl from '@idle-bend/kernels/kernels.wasm?url';
import { Flow, Kernels } from '@idle-bend/kernels';
import { FrameComposer, planClip, planMap, type ClipPlan, type Level } from '@idle-bend/pipeline';
import { appearances, madeOf, partsOf, type Frame, type Making, type Sample } from '@idle-bend/core';
import { drawBlink, drawDifference, drawSide, drawWipe } from './compare.ts';
import { crc32 } from './crc32.ts';
import { drawLook } from './look.ts';
import { MadeFrames } from './made-frames.ts';
import type { Compared, FromPreview, Look, PreviewClip, ToPreview } from './messages.ts';
import { motionThread } from './motion.ts';
import { ProxyProvider } from './proxy-provider.ts';

/** The thread that decodes the proxy, makes each frame with the pipeline renders use, and draws it. */

const say = (message: FromPreview, transfer: Transferable[] = []) => postMessage(message, { transfer });
const compiled = WebAssembly.compileStreaming(fetch(kernelsUrl));
const kernels = compiled.then((module) => new Kernels(module));
const opened = new Map<string, Promise<ProxyProvider>>();
const findPair = motionThread();

/** What renders make Flow frames at, and what is quick enough to keep time while playing or looking around. */
const SETTLED: Level = 'default';
const MOVING: Level = 'quick';
/** A frame of playback that takes longer than this, in milliseconds, is late at 24 fps: then made frames drop a level. */
const IN_TIME = 34;
let usualMilliseconds = 0;
/** Motion kept while a clip is bent; a pair of a 640 × 360 proxy takes 1.3 MiB. */
const MOTION_BYTES = 256 * 2 ** 20;
/** Frames made ahead and kept; one of a 960 × 540 proxy takes 0.75 MiB. */
const MADE_BYTES = 512 * 2 ** 20;
const madeFrames = new MadeFrames(MADE_BYTES);

let canvas: OffscreenCanvas | undefined;
let clip: PreviewClip | undefined;
let plan: ClipPlan | undefined;
let compared: (Compared & { readonly plan: ClipPlan }) | undefined;
let look: Look = 'picture';
let blink: ReturnType<typeof setInterval> | undefined;
let composer: { readonly provider: ProxyProvider; readonly composer: FrameComposer } | undefined;
/** Pictures as they are drawn, one for each place. */
const pictures: (ImageData | undefined)[] = [];

let wanted: Extract<ToPreview, { kind: 'show' }> | undefined;
let smoothing: { readonly from: number; readonly to: number; next: number } | undefined;
let thumbs: number[] = [];
let busy = false;

addEventListener('message', ({ data }: MessageEvent<ToPreview>) => {
  if (data.kind === 'canvas') canvas = data.canvas;
  else if (data.kind === 'clip') {
    clip = data.clip;
    plan = planMap(clip.map, clip.length, choiceOf(clip, clip.making));
    smoothing = undefined;
    if (compared) compared = { ...compared, plan: planOf(clip, compared.map, compared.making) };
  } else if (data.kind === 'compare') compared = data.other && clip && { ...data.other, plan: planOf(clip, data.other.map, data.other.making) };
  else if (data.kind === 'look') look = data.look;
  else if (data.kind === 'next') void foresee(data.clip, data.k);
  else if (data.kind === 'smooth') smoothing = data.stretch && { ...data.stretch, next: data.stretch.from };
  else if (data.kind === 'thumbs') thumbs = [...data.frames];
  else wanted = data;
  void work();
});

const choiceOf = ({ frames, skips, end }: PreviewClip, making: Making) => ({ sourceFrames: frames, skips, making, end });
/** A curve the clip is compared with has its own length. */
const planOf = (ofClip: PreviewClip, map: PreviewClip['map'], making: Making) => planClip(map, choiceOf(ofClip, making));

/** Shows the newest wish; wishes that were overtaken are dropped, so a scrub never queues. What is made ahead waits for it. */
async function work(): Promise<void> {
  if (busy) return;
  busy = true;
  while (clip && plan && canvas && (wanted || smoothing || thumbs.length > 0)) {
    const wish = wanted;
    wanted = undefined;
    try {
      const source = await sourceOf(clip);
      if (wish) await show(wish, source, clip, plan, canvas);
      else if (thumbs.length > 0) await drawThumb(source, clip.footageId, thumbs.shift()!);
      else await smoothNext(clip, plan);
      // Whoever has spoken meanwhile is heard first.
      await new Promise((resolve) => setTimeout(resolve));
    } catch (error) {
      smoothing = undefined;
      thumbs = [];
      say({ kind: 'problem', message: (error as Error).message });
    }
  }
  busy = false;
}

function openedSource({ url, frames, framesPerSecond }: PreviewClip): Promise<ProxyProvider> {
  let provider = opened.get(url);
  if (!provider) {
    provider = ProxyProvider.open(url, frames, framesPerSecond);
    provider.catch(() => opened.delete(url));
    opened.set(url, provider);
  }
  return provider;
}

/** Opens a clip's proxy and decodes what its frame k and those after it are made of. */
async function foresee(next: PreviewClip, k: number): Promise<void> {
  const source = await openedSource(next).catch(() => undefined);
  const { sample } = planMap(next.map, next.length, choiceOf(next, next.making));
  for (const at of [k, k + 4]) if (at < next.length) for (const frame of framesOf(sample(at))) source?.prefetch(frame);
}

async function sourceOf(ofClip: PreviewClip): Promise<ProxyProvider> {
  const source = await openedSource(ofClip);
  if (composer?.provider !== source) composer = { provider: source, composer: await composerOf(source) };
  return source;
}

async function composerOf(source: ProxyProvider): Promise<FrameComposer> {
  return new FrameComposer(await kernels, source, { flow: new Flow(await compiled), pair: findPair, level: SETTLED, cacheBytes: MOTION_BYTES });
}

async function show(
  wish: Extract<ToPreview, { kind: 'show' }>,
  source: ProxyProvider,
  ofClip: PreviewClip,
  ofPlan: ClipPlan,
  on: OffscreenCanvas,
): Promise<void> {
  const started = performance.now();
  const k = Math.max(0, Math.min(ofPlan.frameCount - 1, wish.k));
  const showAt = (level: Level, settled: boolean) => present(ofClip, ofPlan, k, { wish, level, settled, started }, on);
  const sample = ofPlan.sample(k);
  const moving = wish.direction !== 0 && usualMilliseconds > IN_TIME ? 'moving' : MOVING;
  // What comes next is found meanwhile, on the other thread.
  if (wish.direction !== 0) for (const next of comingPairs(ofPlan, k, wish.direction)) await composer!.composer.prepare(next, moving);
  // A still picture whose motion is not known yet comes quickly first and is refined, unless something else is wanted by then.
  const refine = wish.settled && !madeFrames.has(ofClip.url, sample) && !composer!.composer.isReady(sample);
  if (refine || !wish.settled) await showAt(moving, false);
  if (refine) await new Promise((resolve) => setTimeout(resolve));
  if (wish.settled && !(refine && wanted)) await showAt(SETTLED, true);
  for (const ahead of lookAhead(ofPlan, k, wish.direction)) source.prefetch(ahead);
}

interface Showing {
  readonly wish: Extract<ToPreview, { kind: 'show' }>;
  readonly level: Level;
  readonly settled: boolean;
  readonly started: number;
}

/** Makes frame k, and what it is compared with, draws them and says so. */
async function present(ofClip: PreviewClip, ofPlan: ClipPlan, k: number, { wish, level, settled, started }: Showing, on: OffscreenCanvas): Promise<void> {
  const sample = ofPlan.sample(k);
  const kept = madeFrames.get(ofClip.url, sample);
  const frame: Frame = kept ? { format: composer!.provider.format, data: kept } : await composer!.composer.compose(sample, level);
  const fingerprint = settled ? crc32(frame.data) : undefined;
  const picture = await drawn(frame, 0);
  const other = compared && (await composeOther(compared, ofPlan, k, level));
  if (compared && other) drawBoth(on, picture, other.picture, compared);
  else await drawAlone(on, picture, sample, kept ? SETTLED : level);
  say({
    kind: 'shown',
    k: wish.k,
    position: ofPlan.position(k),
    sample,
    level: partsOf(sample).some((part) => part.kind === 'flow') ? (kept ? SETTLED : level) : undefined,
    other: other?.position,
    fingerprint,
    milliseconds: performance.now() - started,
  });
  // At the lower level it stays there: what it takes now says nothing of what the other would.
  if (wish.direction === 0) usualMilliseconds = 0;
  else if (level === MOVING && !kept) usualMilliseconds += (performance.now() - started - usualMilliseconds) / 8;
}

/** A frame in red, green and blue; each place has its own picture. */
async function drawn(frame: Frame, place: number): Promise<ImageData> {
  const { width, height } = frame.format;
  let picture = pictures[place];
  if (picture?.width !== width || picture.height !== height) pictures[place] = picture = new ImageData(width, height);
  (await kernels).toRgba(frame, picture.data);
  return picture;
}

/** The frame of the other curve that stands beside frame k: the same timeline frame's, or the nearest to show the same source moment. */
async function composeOther({ plan: otherPlan, map, by, level: own }: Compared & { plan: ClipPlan }, ofPlan: ClipPlan, k: number, level: Level) {
  const meets = (s: number) => appearances(map, s).flatMap(({ from, to }) => (k >= from && k <= to ? [k] : [from, to]));
  const nearest = (times: number[]) => times.reduce((best, t) => (Math.abs(t - k) < Math.abs(best - k) ? t : best));
  const times = by === 'source' ? meets(ofPlan.position(k)) : [k];
  const at = Math.max(0, Math.min(otherPlan.frameCount - 1, Math.round(times.length > 0 ? nearest(times) : k)));
  const frame = await composer!.composer.compose(otherPlan.sample(at), level === SETTLED ? (own ?? level) : level);
  return { picture: await drawn(frame, 1), position: otherPlan.position(at) };
}

function contextOf(on: OffscreenCanvas, width: number, height: number): OffscreenCanvasRenderingContext2D {
  clearInterval(blink);
  if (on.width !== width || on.height !== height) {
    on.width = width;
    on.height = height;
  }
  return on.getContext('2d', { willReadFrequently: true })!;
}

function drawBoth(on: OffscreenCanvas, first: ImageData, second: ImageData, { how, edge }: Compared): void {
  const context = contextOf(on, first.width * (how === 'side' ? 2 : 1), first.height);
  if (how === 'side') drawSide(context, first, second);
  else if (how === 'wipe') drawWipe(context, first, second, edge);
  else if (how === 'difference') drawDifference(context, first, second);
  else blink = drawBlink(context, first, second);
}

async function drawAlone(on: OffscreenCanvas, picture: ImageData, sample: Sample, level: Level): Promise<void> {
  const { width, height } = picture;
  const made = madeOf(sample);
  if (look === 'neighbours' && made) return drawNeighbours(on, picture, made);
  const context = contextOf(on, width, height);
  context.putImageData(picture, 0, 0);
  const moment = look === 'picture' || look === 'neighbours' ? undefined : await composer!.composer.moment(sample, level);
  if (moment) drawLook(context, look, moment);
}

/** The made frame, and under it at half its size the two real ones. */
async function drawNeighbours(on: OffscreenCanvas, picture: ImageData, { a, b }: { a: number; b: number }): Promise<void> {
  const { width, height } = picture;
  const context = contextOf(on, width, height * 1.5);
  context.putImageData(picture, 0, 0);
  for (const [x, frame] of [
    [0, a],
    [width / 2, b],
  ] as const) {
    const real = await createImageBitmap(await drawn((await composer!.provider.frames([frame]))[0]!, 2));
    context.drawImage(real, x, height, width / 2, height / 2);
    real.close();
  }
}

/** Makes one frame of the stretch that is made smooth; the motion of the next is found meanwhile. */
async function smoothNext(ofClip: PreviewClip, ofPlan: ClipPlan): Promise<void> {
  const stretch = smoothing!;
  const k = stretch.next++;
  const last = Math.min(stretch.to, ofPlan.frameCount - 1);
  const sample = ofPlan.sample(k);
  const { composer: own } = composer!;
  if (madeOf(sample) && !madeFrames.has(ofClip.url, sample)) {
    for (const next of comingPairs(ofPlan, k, 1)) await own.prepare(next, SETTLED);
    madeFrames.keep(ofClip.url, sample, (await own.compose(sample, SETTLED)).data);
  }
  if (k >= last && smoothing === stretch) smoothing = undefined;
  say({ kind: 'smooth', done: Math.min(k, last) - stretch.from + 1, total: last - stretch.from + 1 });
}

const THUMB_WIDTH = 192;

async function drawThumb(source: ProxyProvider, footageId: string, frame: number): Promise<void> {
  if (frame < 0 || frame >= source.frameCount) return;
  const picture = await drawn((await source.frames([frame]))[0]!, 2);
  const small = await createImageBitmap(picture, { resizeWidth: THUMB_WIDTH, resizeQuality: 'medium' });
  say({ kind: 'thumb', footageId, frame, picture: small }, [small]);
}

/** This many frames ahead the motion is found. */
const PREPARED = 12;

/** Samples of the frames to come that lie between another two frames than the one before them. */
function comingPairs(ofPlan: ClipPlan, k: number, direction: number): Sample[] {
  const coming: Sample[] = [];
  let pair = madeOf(ofPlan.sample(k))?.a;
  for (let n = 1; n <= PREPARED && coming.length < 2; n++) {
    const at = k + n * Math.sign(direction);
    if (at < 0 || at >= ofPlan.frameCount) break;
    const sample = ofPlan.sample(at);
    const made = madeOf(sample);
    if (!made || made.a === pair) continue;
    pair = made.a;
    coming.push(sample);
  }
  return coming;
}

/** Source frames that playback, or a step either way, will want next. */
function lookAhead(ofPlan: ClipPlan, k: number, direction: number): number[] {
  const steps = direction === 0 ? [1, -1] : [2, 4, 8, 12].map((n) => n * Math.sign(direction));
  return steps
    .map((n) => k + n)
    .filter((n) => n >= 0 && n < ofPlan.frameCount)
    .flatMap((n) => framesOf(ofPlan.sample(n)));
}

const framesOf = (sample: Sample): number[] =>
  partsOf(sample).flatMap((part) => {
    if (part.kind === 'source') return [part.frame];
    const made = madeOf(part);
    return made ? [made.a, made.b] : [];
  });
