import type { PairMotion, SourceMotion } from '@idle-bend/core/motion';
import { cameraMotion, canFlow, confidence, isCut, type Flow, type Level, type PairFlow } from '@idle-bend/kernels';
import type { FrameProvider } from '@idle-bend/pipeline';
import { loadFlow } from '../kernels.js';
import { openPictures, standardSpace, type Pictures } from '../decode/pictures.js';
import { usualSize } from '../encode/proxy.js';
import type { OpenedSource } from '../probe/source.js';

/** Motion is looked at as renders make it, so that what is said holds for them. */
const LEVEL: Level = 'default';

/** But no wider than this: a spot that tears is larger than what a small picture leaves out. */
const WIDTH = 480;

/** A source's pictures as its motion is looked at. */
export function motionReader(source: OpenedSource): Pictures {
  const { width, height } = usualSize(source);
  const scale = Math.min(1, WIDTH / width);
  const even = (size: number) => Math.max(2, Math.round((size * scale) / 2) * 2);
  return openPictures(source, {
    size: { width: even(width), height: even(height) },
    pixelFormat: 'yuv420p',
    space: standardSpace(source),
  });
}

const UNKNOWN: PairMotion = { confidence: 1, exposure: 0, camera: { x: 0, y: 0, push: 0, roll: 0, sure: 0 } };
/** From a frame to its repeat nothing moves. */
const STILL: PairMotion = { ...UNKNOWN, camera: { ...UNKNOWN.camera, sure: 1 } };

interface Found {
  readonly a: number;
  readonly b: number;
  readonly pair: PairFlow;
}

/**
 * Looks at the motion from every frame of a source to the next: how sure in-betweens are to look right, the camera's
 * motion, the change of exposure. `repeats` are frames that show the one before them; motion goes on past them.
 */
export async function analyseMotion(
  source: FrameProvider,
  repeats: readonly number[],
  onPair: (done: number, total: number) => void = () => undefined,
  signal?: AbortSignal,
): Promise<SourceMotion> {
  const count = source.frameCount;
  if (!canFlow(source.format))
    return { pairs: Array.from({ length: Math.max(0, count - 1) }, () => UNKNOWN), across: new Map() };
  const repeated = new Set(repeats);
  const unique = Array.from({ length: count }, (_, n) => n).filter((n) => !repeated.has(n));
  const flow = loadFlow();
  const motions: PairMotion[] = [];
  let before: Found | undefined;
  let now: Found | undefined;
  // How a pair looks is told once the one after it is known too.
  for (let i = 1; i <= unique.length; i++) {
    signal?.throwIfAborted();
    const [a, b] = [unique[i - 1]!, unique[i]];
    const after = b === undefined ? undefined : await find(flow, source, a, b);
    if (now) motions.push(await judge(flow, source, { before, now, after }));
    [before, now] = [now, after];
    onPair(i, unique.length);
  }
  return spread(count, unique, motions);
}

async function find(flow: Flow, source: FrameProvider, a: number, b: number): Promise<Found> {
  const [first, second] = await source.frames([a, b]);
  return { a, b, pair: flow.pair(first!, second!, LEVEL, [a, b]) };
}

async function judge(
  flow: Flow,
  source: FrameProvider,
  { before, now, after }: { before: Found | undefined; now: Found; after: Found | undefined },
) {
  const { a, b, pair } = now;
  const cut = isCut(pair);
  const [first, second] = await source.frames([a, b]);
  const evidence = flow.evidence(first!, second!, pair, 0.5, {
    around: { before: before?.pair, after: after?.pair },
    keys: [a, b],
  });
  return {
    confidence: confidence(evidence),
    exposure: cut ? NaN : Math.log2(pair[0]!.exposure.gain),
    camera: cut ? UNKNOWN.camera : cameraMotion(pair),
  };
}

/** The motions of frames that are no repeats, laid on all frames. */
function spread(count: number, unique: readonly number[], motions: readonly PairMotion[]): SourceMotion {
  const pairs: PairMotion[] = Array.from({ length: Math.max(0, count - 1) }, () => STILL);
  const across = new Map<number, { to: number; motion: PairMotion }>();
  motions.forEach((motion, i) => {
    const [a, b] = [unique[i]!, unique[i + 1]!];
    // The last of a frame's repeats moves on to the next frame as the frame itself does.
    pairs[b - 1] = motion;
    if (b > a + 1) across.set(a, { to: b, motion });
  });
  return { pairs, across };
}
