import kernelsUrl from '@idle-bend/kernels/kernels.wasm?url';
import { Kernels } from '@idle-bend/kernels';
import type { Level } from '@idle-bend/pipeline';
import type { Frame } from '@idle-bend/core/frame';
import type { ResolvedFrame, ClipFrame } from '@idle-bend/core/resolve';
import { madeOf, partsOf, type Sample } from '@idle-bend/core/sampling';
import { appearances } from '@idle-bend/core/time-map';
import { BLACK, filmOf, filmOfOther, type ClipFilm } from './clip-film.ts';
import { Compositors } from './compositors.ts';
import { drawBlink, drawDifference, drawSide, drawWipe } from './compare.ts';
import { Films, type OpenFilm } from './films.ts';
import { drawBlended, drawLook } from './look.ts';
import { FrameCache } from './frame-cache.ts';
import type { Compared, FromPreview, Look, PreviewClip, ToPreview } from './messages.ts';
import { motionThread } from './motion.ts';

/** The thread that decodes proxies and shows what the reel's compositor makes of them. */

const say = (message: FromPreview, transfer: Transferable[] = []) => postMessage(message, { transfer });
const compiled = WebAssembly.compileStreaming(fetch(kernelsUrl));
const kernels = compiled.then((module) => new Kernels(module));
/** What renders make Flow frames at, and what is quick enough to keep time while playing or looking around. */
const SETTLED: Level = 'default';
const MOVING: Level = 'quick';
/** A frame of playback that takes longer than this, in milliseconds, is late at 24 fps: then made frames drop a level. */
const IN_TIME = 34;
let usualMilliseconds = 0;
/** Frames made ahead and kept; one of a 960 × 540 proxy takes 0.75 MiB. */
const MADE_BYTES = 512 * 2 ** 20;
const madeFrames = new FrameCache(MADE_BYTES);
const films = new Films(compiled, kernels, motionThread(), SETTLED);

const compositors = new Compositors(kernels, films, madeFrames);

let canvas: OffscreenCanvas | undefined;
let clip: PreviewClip | undefined;
let film: ClipFilm | undefined;
let compared: (Compared & { readonly film: ClipFilm }) | undefined;
let look: Look = 'picture';
let blink: ReturnType<typeof setInterval> | undefined;
/** Pictures as they are drawn, one for each place. */
const pictures: (ImageData | undefined)[] = [];

let wanted: Extract<ToPreview, { kind: 'show' }> | undefined;
let smoothing: { readonly from: number; readonly to: number; next: number } | undefined;
/** No more are waited for: what was asked for last is wanted most. */
const MOST_THUMBS = 64;

let thumbs: { readonly sourceId: string; readonly frame: number }[] = [];
let busy = false;

addEventListener('message', ({ data }: MessageEvent<ToPreview>) => {
  if (data.kind === 'canvas') canvas = data.canvas;
  else if (data.kind === 'clip') {
    clip = data.clip;
    film = filmOf(clip);
    smoothing = undefined;
  } else if (data.kind === 'compare') compared = data.other && { ...data.other, film: filmOfOther(data.other) };
  else if (data.kind === 'look') look = data.look;
  else if (data.kind === 'next') foresee(data.clip, data.k);
  else if (data.kind === 'smooth') smoothing = data.stretch && { ...data.stretch, next: data.stretch.from };
  else if (data.kind === 'thumbs') {
    const { sourceId, frames } = data;
    const others = thumbs.filter((thumb) => thumb.sourceId !== sourceId || !frames.includes(thumb.frame));
    thumbs = [...frames.map((frame) => ({ sourceId, frame })), ...others].slice(0, MOST_THUMBS);
  } else wanted = data;
  void work();
});

/** Shows the newest request; requests that were overtaken are dropped, so a scrub never queues. What is made ahead waits for it. */
async function work(): Promise<void> {
  if (busy) return;
  busy = true;
  while (clip && film && canvas && (wanted || smoothing || thumbs.length > 0)) {
    const request = wanted;
    wanted = undefined;
    try {
      if (request) await show(request, clip, film, canvas);
      else if (thumbs.length > 0) await drawThumb(clip, thumbs.shift()!);
      else await smoothNext(clip, film);
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

/** Opens a clip's proxies and decodes what its frame k and those after it are made of. */
function foresee(next: PreviewClip, k: number): void {
  const { frameCount, shown } = filmOf(next);
  for (const at of [k, k + 4]) if (at < frameCount) prefetch(next, shown(at));
}

function prefetch({ films: addresses }: PreviewClip, shown: ClipFrame | undefined): void {
  const address = shown && addresses[shown.source.id];
  if (address) films.prefetch(address, framesOf(shown.sample));
}

/** The film a frame is of; where it is black for want of a clip, the first one, whose shape that black has. */
function openFilm({ films: addresses }: PreviewClip, shown: ClipFrame | undefined): Promise<OpenFilm> {
  const address = shown ? addresses[shown.source.id] : Object.values(addresses)[0];
  if (!address) throw new Error('the footage it shows is not prepared yet');
  return films.of(address);
}

async function show(
  request: Extract<ToPreview, { kind: 'show' }>,
  ofClip: PreviewClip,
  ofFilm: ClipFilm,
  on: OffscreenCanvas,
): Promise<void> {
  const started = performance.now();
  const asked = Math.max(0, Math.min(ofFilm.frameCount - 1, request.k));
  const resolved = ofFilm.resolve(asked);
  const { clipFrame } = resolved;
  const sample = clipFrame?.sample ?? BLACK;
  // A stuttering picture stands still; what is said of the frame is of the one it stands on.
  const k = resolved.effects.held ?? asked;
  const open = await openFilm(ofClip, clipFrame);
  const showAt = (level: Level, settled: boolean) =>
    present({ ofClip, ofFilm, k, resolved, open }, { request, level, settled, started }, on);
  const moving = request.direction !== 0 && usualMilliseconds > IN_TIME ? 'moving' : MOVING;
  // What comes next is found meanwhile, on the other thread.
  if (request.direction !== 0)
    for (const next of comingPairs(ofFilm, k, request.direction)) await open.composer.prepare(next, moving);
  // A still picture whose motion is not known yet comes quickly first and is refined, unless something else is wanted by then.
  const refine = request.settled && !madeFrames.has(open.key, sample) && !open.composer.isReady(sample);
  if (refine || !request.settled) await showAt(moving, false);
  if (refine) await new Promise((resolve) => setTimeout(resolve));
  if (request.settled && !(refine && wanted)) await showAt(SETTLED, true);
  for (const ahead of lookAhead(ofFilm, k, request.direction)) prefetch(ofClip, ahead);
}

/** A frame of a clip, and the film it is of. */
interface Place {
  readonly ofClip: PreviewClip;
  readonly ofFilm: ClipFilm;
  /** The frame that is shown: where the picture stands still, another than was asked for. */
  readonly k: number;
  readonly resolved: ResolvedFrame;
  readonly open: OpenFilm;
}

interface Showing {
  readonly request: Extract<ToPreview, { kind: 'show' }>;
  readonly level: Level;
  readonly settled: boolean;
  readonly started: number;
}

/** Makes frame k, and what it is compared with, draws them and says so. */
async function present(
  place: Place,
  { request, level, settled, started }: Showing,
  on: OffscreenCanvas,
): Promise<void> {
  const { ofClip, ofFilm, k, resolved, open } = place;
  const { clipFrame } = resolved;
  const sample = clipFrame?.sample ?? BLACK;
  const isKept = madeFrames.has(open.key, sample);
  const compositor = await compositors.of(ofClip);
  const frame = await compositor.frame(resolved, level);
  const fingerprint = settled || request.checksums ? (await kernels).checksum(frame.data) : undefined;
  const picture = await drawn(frame, 0);
  const other = compared && (await composeOther(compared, place, level));
  const address = clipFrame && ofClip.films[clipFrame.source.id];
  const origin = address ? await films.originOf(address, framesOf(sample)) : 'proxy';
  if (compared && other) drawBoth(on, picture, other.picture, compared);
  else await drawAlone(on, picture, place, isKept ? SETTLED : level);
  say({
    kind: 'shown',
    k: request.k,
    direction: request.direction,
    position: ofFilm.position(k),
    sample,
    film: clipFrame && {
      sourceId: clipFrame.source.id,
      name: clipFrame.clip === ofClip.clip ? '' : clipFrame.clip.name,
      position: clipFrame.position,
    },
    origin,
    level: partsOf(sample).some((part) => part.kind === 'flow') ? (isKept ? SETTLED : level) : undefined,
    other: other?.position,
    fingerprint,
    milliseconds: performance.now() - started,
  });
  // At the lower level it stays there: what it takes now says nothing of what the other would.
  if (request.direction === 0) usualMilliseconds = 0;
  else if (level === MOVING && !isKept) usualMilliseconds += (performance.now() - started - usualMilliseconds) / 8;
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
async function composeOther(
  { film: other, by, level: own }: Compared & { film: ClipFilm },
  { ofClip, ofFilm, k, resolved }: Place,
  level: Level,
) {
  const meets = (s: number) =>
    appearances(other.map, s).flatMap(({ from, to }) => (k >= from && k <= to ? [k] : [from, to]));
  const nearest = (times: number[]) => times.reduce((best, t) => (Math.abs(t - k) < Math.abs(best - k) ? t : best));
  const times = by === 'source' ? meets(ofFilm.position(k)) : [k];
  const at = Math.max(0, Math.min(other.frameCount - 1, Math.round(times.length > 0 ? nearest(times) : k)));
  const compositor = await compositors.of(ofClip, level === SETTLED && own !== undefined && own !== level);
  // Only what the curves show is compared: accents, and what pushes, are the same on both sides.
  const frame = await compositor.frame(
    { ...resolved, clipFrame: other.shown(at) },
    level === SETTLED ? (own ?? level) : level,
  );
  return { picture: await drawn(frame, 1), position: other.position(at) };
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

/** The picture or, where a look asks for it, what the picture is made of: then as it is before it is laid into the reel's. */
async function drawAlone(
  on: OffscreenCanvas,
  picture: ImageData,
  { resolved: { clipFrame }, open }: Place,
  level: Level,
): Promise<void> {
  const sample = clipFrame?.sample ?? BLACK;
  const made = madeOf(sample);
  if (look === 'picture' || (look === 'neighbours' && !made))
    return contextOf(on, picture.width, picture.height).putImageData(picture, 0, 0);
  const raw = await drawn(await open.composer.compose(sample, level), 3);
  if (look === 'neighbours') return drawNeighbours(on, raw, made!, open);
  const context = contextOf(on, raw.width, raw.height);
  context.putImageData(raw, 0, 0);
  if (look === 'blended') {
    const kept = await open.composer.kept(sample, level);
    if (kept) drawBlended(context, kept);
    return;
  }
  const moment = await open.composer.moment(sample, level);
  if (moment) drawLook(context, look, moment);
}

/** The made frame, and under it at half its size the two real ones. */
async function drawNeighbours(
  on: OffscreenCanvas,
  picture: ImageData,
  { a, b }: { a: number; b: number },
  { provider }: OpenFilm,
): Promise<void> {
  const { width, height } = picture;
  const context = contextOf(on, width, height * 1.5);
  context.putImageData(picture, 0, 0);
  for (const [x, frame] of [
    [0, a],
    [width / 2, b],
  ] as const) {
    const real = await createImageBitmap(await drawn((await provider.frames([frame]))[0]!, 2));
    context.drawImage(real, x, height, width / 2, height / 2);
    real.close();
  }
}

/** Makes one frame of the stretch that is made smooth; the motion of the next is found meanwhile. */
async function smoothNext(ofClip: PreviewClip, ofFilm: ClipFilm): Promise<void> {
  const stretch = smoothing!;
  const k = stretch.next++;
  const last = Math.min(stretch.to, ofFilm.frameCount - 1);
  const shown = ofFilm.shown(k);
  if (shown && (madeOf(shown.sample) || isBlurred(shown.sample))) {
    const { key, composer } = await openFilm(ofClip, shown);
    if (!madeFrames.has(key, shown.sample)) {
      for (const next of comingPairs(ofFilm, k, 1)) await composer.prepare(next, SETTLED);
      madeFrames.keep(key, shown.sample, (await composer.compose(shown.sample, SETTLED)).data);
    }
  }
  if (k >= last && smoothing === stretch) smoothing = undefined;
  say({ kind: 'smooth', done: Math.min(k, last) - stretch.from + 1, total: last - stretch.from + 1 });
}

const isBlurred = ({ kind }: Sample) => kind === 'shutter' || kind === 'smear';

const THUMB_WIDTH = 192;

async function drawThumb(
  { films: addresses }: PreviewClip,
  { sourceId, frame }: { sourceId: string; frame: number },
): Promise<void> {
  const address = addresses[sourceId];
  const source = address && (await films.provider(address));
  if (!source || frame < 0 || frame >= source.frameCount) return;
  const picture = await drawn((await source.frames([frame]))[0]!, 2);
  const small = await createImageBitmap(picture, { resizeWidth: THUMB_WIDTH, resizeQuality: 'medium' });
  say({ kind: 'thumb', footageId: sourceId, frame, picture: small }, [small]);
}

/** This many frames ahead the motion is found. */
const PREPARED = 12;

/** Samples of the frames to come, of the same film, that lie between another two frames than the one before them. */
function comingPairs(ofFilm: ClipFilm, k: number, direction: number): Sample[] {
  const coming: Sample[] = [];
  const now = ofFilm.shown(k);
  let pair = now && madeOf(now.sample)?.a;
  for (let n = 1; n <= PREPARED && coming.length < 2; n++) {
    const at = k + n * Math.sign(direction);
    if (at < 0 || at >= ofFilm.frameCount) break;
    const shown = ofFilm.shown(at);
    const made = shown && madeOf(shown.sample);
    if (!made || shown.source !== now?.source || made.a === pair) continue;
    pair = made.a;
    coming.push(shown.sample);
  }
  return coming;
}

/** What playback, or a step either way, will want next. */
function lookAhead(ofFilm: ClipFilm, k: number, direction: number): (ClipFrame | undefined)[] {
  const steps = direction === 0 ? [1, -1] : [2, 4, 8, 12].map((n) => n * Math.sign(direction));
  return steps
    .map((n) => k + n)
    .filter((n) => n >= 0 && n < ofFilm.frameCount)
    .map((n) => ofFilm.shown(n));
}

const framesOf = (sample: Sample): number[] =>
  partsOf(sample).flatMap((part) => {
    if (part.kind === 'source') return [part.frame];
    const made = madeOf(part);
    return made ? [made.a, made.b] : [];
  });
