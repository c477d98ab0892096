import type { Stretch } from '@idle-bend/core/model';
import type { RenderFormatName } from '@idle-bend/core/render';
import { formatRate, framesPerSecond, type Rate } from '@idle-bend/core/time';
import { collect } from '../ffmpeg/ffmpeg.js';
import { chunkInput, joining } from './chunk-list.js';

/** A moving picture for a message has no more pictures a second than this; of a faster reel every second, or third, is shown. */
const REVIEW_RATE = 30;
const REVIEW_WIDTHS: Readonly<Record<string, number>> = { gif: 640, webp: 960 };

/** How many frames of the reel one picture of a moving picture for review stands for. */
export const reviewStep = (rate: Rate): number => Math.ceil(framesPerSecond(rate) / REVIEW_RATE - 1e-9);

export interface ReviewOrder {
  readonly format: RenderFormatName;
  readonly chunks: number;
  readonly stretch: Stretch;
}

/** Writes chunks as a small moving picture, its colours chosen from the whole. Throws `MediaError`. */
export async function writeReview(
  rate: Rate,
  folder: string,
  order: ReviewOrder,
  out: string,
  signal?: AbortSignal,
): Promise<void> {
  const step = reviewStep(rate);
  const size = `scale='min(${REVIEW_WIDTHS[order.format]},iw)':-2:flags=lanczos`;
  const pace = `select='not(mod(n,${step}))'`;
  const colours = 'split[a][b];[a]palettegen=stats_mode=diff[p];[b][p]paletteuse=dither=bayer:bayer_scale=3';
  const look = order.format === 'gif' ? `${pace},${size},${colours}` : `${pace},${size},format=yuv420p`;
  const codec = order.format === 'gif' ? ['-c:v', 'gif'] : ['-c:v', 'libwebp_anim', '-q:v', '75', '-loop', '0'];
  const args = [
    '-v',
    'error',
    '-nostdin',
    '-y',
    '-r',
    formatRate(rate),
    ...(await chunkInput(folder, order)),
    '-filter_complex',
    look,
    ...codec,
    '-fps_mode',
    'passthrough',
    '-f',
    order.format,
    `file:${out}`,
  ];
  const seconds = (order.stretch.to - order.stretch.from) / framesPerSecond(rate);
  await collect('ffmpeg', args, { seconds: 600 + 60 * seconds, explain: joining, ...(signal && { signal }) });
}
