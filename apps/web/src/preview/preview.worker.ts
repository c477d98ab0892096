import kernelsUrl from '@idle-bend/kernels/kernels.wasm?url';
import { Kernels } from '@idle-bend/kernels';
import { FrameComposer, planClip, type ClipPlan } from '@idle-bend/pipeline';
import type { Sample } from '@idle-bend/core';
import type { FromPreview, PreviewClip, ToPreview } from './messages.ts';
import { ProxyProvider } from './proxy-provider.ts';

/** The thread that decodes the proxy, makes each frame with the pipeline renders use, and draws it. */

const say = (message: FromPreview) => postMessage(message);
const kernels = WebAssembly.compileStreaming(fetch(kernelsUrl)).then((module) => new Kernels(module));
const opened = new Map<string, Promise<ProxyProvider>>();

let canvas: OffscreenCanvas | undefined;
let picture: ImageData | undefined;
let clip: PreviewClip | undefined;
let plan: ClipPlan | undefined;
let composer: { readonly provider: ProxyProvider; readonly composer: FrameComposer } | undefined;
let wanted: Extract<ToPreview, { kind: 'show' }> | undefined;
let busy = false;

addEventListener('message', ({ data }: MessageEvent<ToPreview>) => {
  if (data.kind === 'canvas') canvas = data.canvas;
  else if (data.kind === 'clip') {
    clip = data.clip;
    plan = planClip(clip.map, { sourceFrames: clip.frames, method: clip.method, end: clip.end });
  } else wanted = data;
  void work();
});

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
  let provider = opened.get(ofClip.footageId);
  if (!provider) {
    provider = ProxyProvider.open(ofClip.url, ofClip.frames, ofClip.framesPerSecond);
    provider.catch(() => opened.delete(ofClip.footageId));
    opened.set(ofClip.footageId, provider);
  }
  const source = await provider;
  if (composer?.provider !== source) composer = { provider: source, composer: new FrameComposer(await kernels, source) };
  const k = Math.max(0, Math.min(ofPlan.frameCount - 1, wish.k));
  const sample = ofPlan.sample(k);
  const frame = await composer.composer.compose(sample);
  const { width, height } = frame.format;
  if (picture?.width !== width || picture.height !== height) {
    picture = new ImageData(width, height);
    on.width = width;
    on.height = height;
  }
  (await kernels).toRgba(frame, picture.data);
  on.getContext('2d')!.putImageData(picture, 0, 0);
  say({
    kind: 'shown',
    k: wish.k,
    position: ofPlan.position(k),
    sample,
    fingerprint: wish.settled ? crc32(frame.data) : undefined,
    milliseconds: performance.now() - started,
  });
  for (const ahead of lookAhead(ofPlan, k, wish.direction)) source.prefetch(ahead);
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
  return sample.kind === 'mix' ? [sample.a, sample.b] : sample.kind === 'source' ? [sample.frame] : [];
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
