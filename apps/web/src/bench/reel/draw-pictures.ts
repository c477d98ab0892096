import type { Footage } from '@idle-bend/core/api';
import { driftsOf } from '../landing/drifts.ts';
import { smallsOf, type Strips } from '../strips.ts';
import { CLIP_BOTTOM, CLIP_TOP, FOOT, HEAD } from './layout.ts';
import type { X } from './reel-view.ts';
import type { BenchClip } from '../../session/bench-state.ts';

/** Where pictures lie on a clip: between its name and its pace. */
const TOP = CLIP_TOP + HEAD;
const HEIGHT = CLIP_BOTTOM - FOOT - TOP;
/** Pictures are no closer than this, in pixels. */
const APART = 2;

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

/** Draws small pictures of what the clip shows where it begins, ends and lands; of a narrow clip the middle of its first. */
export function drawPictures(
  context: CanvasRenderingContext2D,
  bench: BenchClip,
  { x, footage, strips }: { readonly x: X; readonly footage: readonly Footage[]; readonly strips: Strips },
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
  for (const { k, left } of placesOf(bench, x, width)) {
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
