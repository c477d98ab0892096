import type { Footage } from '@idle-bend/core/api';
import { resolveClip, type ClipFrame } from '@idle-bend/core/resolve';
import { frameOfPosition } from '@idle-bend/core/sampling';
import { driftsOf } from '../landing/drifts.ts';
import type { Thumbs } from '../picture/thumbs.ts';
import { smallsOf, type Strips } from '../strips.ts';
import { CLIP_BOTTOM, CLIP_TOP, FOOT, HEAD } from './layout.ts';
import type { X } from './reel-view.ts';
import type { BenchClip } from '../../session/bench-state.ts';

/** Where pictures lie on a clip: between its name and its pace. */
const TOP = CLIP_TOP + HEAD;
const HEIGHT = CLIP_BOTTOM - FOOT - TOP;
/** Pictures are no closer than this, in pixels. */
const APART = 2;

/** The source frames of the bench's clip that have landed, of its own footage: their pictures are shown on it. */
export function landedFrames(bench: BenchClip): number[] {
  const show = resolveClip(bench.project, bench.clip);
  return driftsOf(bench).flatMap(({ landed, tied, shownAt }) => {
    const shown = tied && landed ? show(shownAt - bench.start) : undefined;
    return shown?.source.id === bench.source.id ? [sourceFrame(shown)] : [];
  });
}

const sourceFrame = ({ source, position }: ClipFrame): number =>
  Math.max(0, Math.min(source.frames - 1, Math.round(frameOfPosition(source, position))));

/** A frame of a clip that is shown on it, and where its picture begins, in pixels of the reel. */
interface Place {
  readonly k: number;
  readonly left: number;
}

/** The clip's first frame, its last one and those that land, as far as there is room, the ends before the others. */
function placesOf(bench: BenchClip, x: X, width: number): Place[] {
  const [from, to] = [x(bench.start), x(bench.start + bench.frames)];
  const places: Place[] = [{ k: 0, left: from }];
  const add = (k: number, left: number) => {
    if (places.every((place) => Math.abs(place.left - left) >= width + APART)) places.push({ k, left });
  };
  add(bench.frames - 1, to - width);
  for (const { landed, tied, shownAt } of driftsOf(bench)) {
    const middle = x(shownAt + 0.5) - width / 2;
    if (tied && landed) add(shownAt - bench.start, Math.max(from, Math.min(to - width, middle)));
  }
  return places;
}

/**
 * Draws small pictures of what the clip shows where it begins, ends and lands; of a narrow clip the middle of its first. The very frame where
 * there is a picture of it, else the one of the footage's strip before it.
 */
export function drawPictures(
  context: CanvasRenderingContext2D,
  bench: BenchClip,
  {
    x,
    footage,
    strips,
    thumb,
  }: { readonly x: X; readonly footage: readonly Footage[]; readonly strips: Strips; readonly thumb: Thumbs },
): void {
  const small = smallsOf(bench, footage);
  const [from, to] = [x(bench.start), x(bench.start + bench.frames)];
  const first = small(0);
  const strip = first && strips.get(first.address);
  const width = strip ? (HEIGHT * strip.naturalWidth) / first.count / strip.naturalHeight : (HEIGHT * 16) / 9;
  context.save();
  context.beginPath();
  context.rect(from, TOP, to - from, HEIGHT);
  context.clip();
  const show = resolveClip(bench.project, bench.clip);
  for (const { k, left } of placesOf(bench, x, width)) {
    const frame = show(k);
    const exact = frame && thumb(frame.source.id, sourceFrame(frame));
    if (exact && to - from >= width) {
      context.drawImage(exact, left, TOP, (HEIGHT * exact.width) / exact.height, HEIGHT);
      continue;
    }
    const shown = small(k);
    const image = shown && strips.get(shown.address);
    if (!image) continue;
    const each = image.naturalWidth / shown.count;
    const own = (HEIGHT * each) / image.naturalHeight;
    const at = to - from < own ? from - (own - (to - from)) / 2 : left;
    context.drawImage(image, shown.index * each, 0, each, image.naturalHeight, at, TOP, own, HEIGHT);
  }
  context.restore();
}
