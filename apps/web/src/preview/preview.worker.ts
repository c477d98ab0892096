import kernelsUrl from '@idle-bend/kernels/kernels.wasm?url';
import { Flow, Kernels } from '@idle-bend/kernels';
import { FrameComposer, planClip, type ClipPlan, type Level } from '@idle-bend/pipeline';
import { appearances, madeOf, type Sample } from '@idle-bend/core';
import { drawBlink, drawSide, drawWipe } from './compare.ts';
import type { Compared, FromPreview, PreviewClip, ToPreview } from './messages.ts';
import { ProxyProvider } from './proxy-provider.ts';

/** The thread that decodes the proxy, makes each frame with the pipeline renders use, and draws it. */

const say = (message: FromPreview) => postMessage(message);
const compiled = WebAssembly.compileStreaming(fetch(kernelsUrl));
const kernels = compiled.then((module) => new Kernels(module));
const opened = new Map<string, Promise<ProxyProvider>>();

let canvas: OffscreenCanvas | undefined;
let picture: ImageData | undefined;
let otherPicture: ImageData | undefined;
let compared: (Compared & { readonly plan: ClipPlan }) | undefined;
let blink: ReturnType<typeof setInterval> | undefined;
let clip: PreviewClip | undefined;
let plan: ClipPlan | undefined;
let composer: { readonly provider: ProxyProvider; readonly composer: FrameComposer } | undefined;
let wanted: Extract<ToPreview, { kind: 'show' }> | undefined;
let busy = false;

addEventListener('message', ({ data }: MessageEvent<ToPreview>) => {
  if (data.kind === 'canvas') canvas = data.canvas;
  else if (data.kind === 'clip') {
    clip = data.clip;
    plan = planOf(clip, clip.map);
    if (compared) compared = { ...compared, plan: planOf(clip, compared.map) };
  } else if (data.kind === 'compare') compared = data.other && clip && { ...data.other, plan: planOf(clip, data.other.map) };
  else wanted = data;
  void work();
});

const planOf = ({ frames, skips, method, end }: PreviewClip, map: PreviewClip['map']) => planClip(map, { sourceFrames: frames, skips, method, end });

/** What renders make Flow frames at, and what is quick enough to keep time while playing or looking around. */
const SETTLED: Level = 'default';
const MOVING: Level = 'quick';
/** A frame of playback that takes longer than this, in milliseconds, is late at 24 fps: then made frames drop a level. */
const IN_TIME = 30;
let usualMilliseconds = 0;
/** Motion kept while a clip is bent; a pair of a 640 × 360 proxy takes 1.3 MiB. */
const MOTION_BYTES = 256 * 2 ** 20;

async function composerOf(source: ProxyProvider): Promise<FrameComposer> {
  const flow = new Flow(await compiled);
  return new FrameComposer(await kernels, source, { flow, pair: (...pair) => flow.pair(...pair), level: SETTLED, cacheBytes: MOTION_BYTES });
}

/** Shows the newest wish; wishes that were overtaken are dropped, so a scrub never queues. */
async function work(): Promise<void> {
  if (busy) return;
  busy = true;
  while (wanted && clip && plan && canvas) {
    const wish = wanted;
    wanted = undefined;
    try {
      await show(wish, clip, plan, canvas);
    } catch (error) {
      say({ kind: 'problem', message: (error as Error).message });
    }
  }
  busy = false;
}

async function show(wish: Extract<ToPreview, { kind: 'show' }>, ofClip: PreviewClip, ofPlan: ClipPlan, on: OffscreenCanvas): Promise<void> {
  const started = performance.now();
  let provider = opened.get(ofClip.url);
  if (!provider) {
    provider = ProxyProvider.open(ofClip.url, ofClip.frames, ofClip.framesPerSecond);
    provider.catch(() => opened.delete(ofClip.url));
    opened.set(ofClip.url, provider);
  }
  const source = await provider;
  if (composer?.provider !== source) composer = { provider: source, composer: await composerOf(source) };
  const k = Math.max(0, Math.min(ofPlan.frameCount - 1, wish.k));
  const showAt = (level: Level, settled: boolean) => present(ofPlan, k, { wish, level, settled, started }, on);
  // A still picture whose motion is not known yet comes quickly first and is refined, unless something else is wanted by then.
  const refine = wish.settled && !composer.composer.isReady(ofPlan.sample(k));
  if (refine || !wish.settled) await showAt(wish.direction !== 0 && usualMilliseconds > IN_TIME ? 'moving' : MOVING, false);
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

/** Makes frame k, and the other curve's beside it, draws them and says so. */
async function present(ofPlan: ClipPlan, k: number, { wish, level, settled, started }: Showing, on: OffscreenCanvas): Promise<void> {
  const sample = ofPlan.sample(k);
  const frame = await composer!.composer.compose(sample, level);
  const fingerprint = settled ? crc32(frame.data) : undefined;
  const { width, height } = frame.format;
  if (picture?.width !== width || picture.height !== height) picture = new ImageData(width, height);
  (await kernels).toRgba(frame, picture.data);
  const other = compared && (await composeOther(compared, ofPlan, k, level));
  draw(on, picture, other?.picture, compared);
  say({
    kind: 'shown',
    k: wish.k,
    position: ofPlan.position(k),
    sample,
    level: sample.kind === 'flow' ? level : undefined,
    other: other?.position,
    fingerprint,
    milliseconds: performance.now() - started,
  });
  // At the lower level it stays there: what it takes now says nothing of what the other would.
  if (wish.direction === 0) usualMilliseconds = 0;
  else if (level === MOVING) usualMilliseconds += (performance.now() - started - usualMilliseconds) / 8;
}

/** The frame of the other curve that stands beside frame k: the same timeline frame's, or the nearest to show the same source moment. */
async function composeOther({ plan: otherPlan, map, by }: Compared & { plan: ClipPlan }, ofPlan: ClipPlan, k: number, level: Level) {
  const meets = (s: number) => appearances(map, s).flatMap(({ from, to }) => (k >= from && k <= to ? [k] : [from, to]));
  const nearest = (times: number[]) => times.reduce((best, t) => (Math.abs(t - k) < Math.abs(best - k) ? t : best));
  const times = by === 'source' ? meets(ofPlan.position(k)) : [k];
  const at = Math.max(0, Math.min(otherPlan.frameCount - 1, Math.round(times.length > 0 ? nearest(times) : k)));
  const frame = await composer!.composer.compose(otherPlan.sample(at), level);
  const { width, height } = frame.format;
  if (otherPicture?.width !== width || otherPicture.height !== height) otherPicture = new ImageData(width, height);
  (await kernels).toRgba(frame, otherPicture.data);
  return { picture: otherPicture, position: otherPlan.position(at) };
}

function draw(on: OffscreenCanvas, first: ImageData, second: ImageData | undefined, choice: Compared | undefined): void {
  clearInterval(blink);
  const wide = second && choice?.how === 'side' ? 2 : 1;
  if (on.width !== first.width * wide || on.height !== first.height) {
    on.width = first.width * wide;
    on.height = first.height;
  }
  const context = on.getContext('2d')!;
  if (!second || !choice) context.putImageData(first, 0, 0);
  else if (choice.how === 'side') drawSide(context, first, second);
  else if (choice.how === 'wipe') drawWipe(context, first, second, choice.edge);
  else blink = drawBlink(context, first, second);
}

/** Source frames that playback, or a step either way, will want next. */
function lookAhead(ofPlan: ClipPlan, k: number, direction: number): number[] {
  const steps = direction === 0 ? [1, -1] : [2, 4, 8, 12].map((n) => n * Math.sign(direction));
  return steps
    .map((n) => k + n)
    .filter((n) => n >= 0 && n < ofPlan.frameCount)
    .flatMap((n) => framesOf(ofPlan.sample(n)));
}

function framesOf(sample: Sample): number[] {
  if (sample.kind === 'source') return [sample.frame];
  const made = madeOf(sample);
  return made ? [made.a, made.b] : [];
}

const CRC = Uint32Array.from({ length: 256 }, (_, n) => {
  for (let bit = 0; bit < 8; bit++) n = n & 1 ? 0xedb88320 ^ (n >>> 1) : n >>> 1;
  return n;
});

function crc32(data: Uint8Array): string {
  let crc = ~0;
  for (let i = 0; i < data.length; i++) crc = CRC[(crc ^ data[i]!) & 255]! ^ (crc >>> 8);
  return (~crc >>> 0).toString(16).padStart(8, '0');
}
