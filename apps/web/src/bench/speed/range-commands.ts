import {
  bounceRange,
  fitRange,
  ladder,
  mapDuration,
  returnRange,
  scaleRangeSpeed,
  setRangeSpeed,
  turnRange,
  type Bend,
  type TimeMap,
} from '@idle-bend/core/time-map';
import { benchStore, select, type BenchClip } from '../../session/bench-state.ts';
import { applyMap, attempt, current } from '../../session/command.ts';
import { tell } from '../../session/notices.ts';
import { projectStore } from '../../session/session.ts';

/** How the changes at the ends of a range are rounded, where there is room. */
const rounded = (): Bend => ({ widthFrames: benchStore.getState().rangeRamps, ease: 'soft' });
/** Turns are rounded less. */
const TURNED: Bend = { widthFrames: 6, ease: 'soft' };

/** Picks the stretch between two timeline frames of the clip, the second included. */
export function pickRange(a: number, b: number, frames: number): void {
  const clamp = (k: number) => Math.max(0, Math.min(frames - 1, Math.round(k)));
  benchStore.setState({ range: { from: clamp(Math.min(a, b)), to: clamp(Math.max(a, b)) + 1 } });
  select({ kind: 'range' });
}

/** I: the range begins at the playhead. */
export function markIn(): void {
  const bench = current();
  if (!bench) return;
  const { k, range } = benchStore.getState();
  pickRange(k, range && range.to > k ? range.to - 1 : bench.frames - 1, bench.frames);
}

/** O: the range ends with the playhead's frame. */
export function markOut(): void {
  const bench = current();
  if (!bench) return;
  const { k, range } = benchStore.getState();
  pickRange(range && range.from <= k ? range.from : 0, k, bench.frames);
}

export function clearRange(): void {
  benchStore.setState({ range: undefined });
  if (benchStore.getState().selection.kind === 'range') select({ kind: 'clip' });
}

/** Edits the picked stretch; the range goes on covering it. Throws `InvalidInput` when core refuses. */
function editRange(change: (map: TimeMap, from: number, to: number, bench: BenchClip) => TimeMap): void {
  const { range } = benchStore.getState();
  const before = current();
  if (!before) return;
  if (!range) return tell('Pick a range on the chart first (I, O).');
  applyMap((map, bench) => change(map, range.from, Math.min(range.to, mapDuration(map)), bench));
  const after = current();
  if (projectStore.getState().document === before.project || !after) return;
  const grown = mapDuration(after.clip.map) - mapDuration(before.clip.map);
  benchStore.setState({
    range: { from: range.from, to: Math.min(after.frames, Math.max(range.from + 1, Math.round(range.to + grown))) },
  });
}

export const setSpeedOfRange = (speed: number) =>
  editRange((map, from, to, { slope }) =>
    setRangeSpeed(map, from, to, speed, slope, benchStore.getState().keep, rounded()),
  );
export const scaleTheRange = (factor: number) =>
  editRange((map, from, to, { slope }) =>
    scaleRangeSpeed(map, from, to, factor, slope, benchStore.getState().keep, rounded()),
  );
export const fitTheRange = (frames: number) => editRange((map, from, to) => fitRange(map, from, to, frames));
export const turnTheRange = () => attempt(() => editRange((map, from, to) => turnRange(map, from, to, rounded())));
export const bounceTheRange = () => attempt(() => editRange((map, from, to) => bounceRange(map, from, to, TURNED)));
export const returnTheRange = () => attempt(() => editRange((map, from, to) => returnRange(map, from, to, TURNED)));
/** Its first frame stands still for as long as the range lasts; what follows goes on where it does now. */
export const holdTheRange = () =>
  attempt(() => editRange((map, from, to, { slope }) => setRangeSpeed(map, from, to, 0, slope, 'slot', rounded())));
/** One speed after another, as long each. */
export const stepTheRange = (speeds: readonly number[]) =>
  attempt(() =>
    editRange((map, from, to, { slope }) =>
      ladder(map, from, { speeds, framesEach: (to - from) / speeds.length }, slope, benchStore.getState().keep),
    ),
  );
