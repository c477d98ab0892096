import { type FrameDifference } from './difference.js';
import { DEFAULT_LEVELS, type Health, healthOf, type HealthRecords, standsOut } from './health.js';
import type { Movers } from './movers.js';

/** So many frames after it went, what was there may be back: then it was a flash, a camera's, or something that passed. */
const MAX_FLASH_FRAMES = 4;

/** So many pictures before a part of a source have to be seen first, so that its records are those of the whole. */
export const HEALTH_LEAD = MAX_FLASH_FRAMES + 1;

/** Frames are compared with those before and after a step only where there may be one. */
const MAY_BE_NEW = 0.2;

/** What is back is found again but for so much of its structure, and for so much less than what came between. */
const BACK = 0.35;

const BACK_SHARE = 0.6;

const SURELY_BACK = 0.22;

/** Whether the newest picture is that of so many frames ago, but for less than a share of its structure. */
type IsBack = (framesAgo: number, share: number) => boolean;

/** What is measured of a source's pictures one after another, and what it says of them. */
export class HealthLog {
  private readonly differences: Writable<FrameDifference>[] = [];
  private readonly movers: Movers[] = [];

  /** @param cells how many cells its pictures are reduced to, the fine and the coarse ones */
  constructor(private readonly cells: readonly number[]) {}

  /** The next picture: how it differs from the one before it, and what moves. Asked at once, `isBack` compares it with earlier ones. */
  add(difference: FrameDifference, movers: Movers, isBack: IsBack): void {
    this.differences.push({ ...difference });
    this.movers.push(movers);
    this.lookBack(isBack);
  }

  /** Whether this picture is that of a few frames ago: then neither what came between nor this is a new scene. */
  private lookBack(isBack: IsBack): void {
    const n = this.differences.length - 1;
    for (let ago = 2; ago <= Math.min(n, MAX_FLASH_FRAMES + 1); ago++) {
      // Frame n − ago is compared with this one: a step into the frame after it and back again by frame n.
      const after = n - ago + 1;
      const steps = this.differences.slice(after).flatMap((each, i) => (mayBeNew(each) ? [after + i] : []));
      const [into] = steps;
      if (into === undefined || (into !== after && !steps.includes(n))) continue;
      // What would not be taken for a new scene anyway need not be told from one.
      if (!steps.some((k) => standsOut(this.differences, k))) continue;
      const most = Math.max(...steps.map((k) => this.differences[k]!.unlike));
      if (!isBack(ago, Math.min(BACK, Math.max(SURELY_BACK, BACK_SHARE * most)))) continue;
      for (const k of steps) this.differences[k]!.returned = true;
    }
  }

  health(): Health {
    return healthOf([this.records(0)]);
  }

  /** What was measured of the pictures from the `from`-th that was added on, and what they say of the few before those. */
  records(from: number): HealthRecords {
    return {
      before: this.differences.slice(Math.max(0, from - HEALTH_LEAD), from).map(({ returned }) => returned),
      differences: this.differences.slice(from),
      movers: this.movers.slice(from),
      cells: this.cells,
    };
  }
}

type Writable<T> = { -readonly [K in keyof T]: T[K] };

const mayBeNew = ({ unlike, mean }: FrameDifference) => unlike > MAY_BE_NEW || mean > DEFAULT_LEVELS;
