import { setSteady } from '@idle-bend/core/edit';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Patch, SteadyKeeps } from '@idle-bend/core/model';
import type { SourceMotion } from '@idle-bend/core/motion';
import { frameOfPosition } from '@idle-bend/core/sampling';
import { shownStretch, steadyPatch, steadyWhole } from '@idle-bend/core/steady';
import { positionAt } from '@idle-bend/core/time-map';
import { api } from '../../api.ts';
import { edit } from '../../session/session.ts';
import { benchStore, type BenchClip } from '../../session/bench-state.ts';
import { attempt } from '../../session/command.ts';
import { tellBusy, tellError } from '../../session/notices.ts';

/** Side of a patch that is pressed on, in widths of the picture. */
const PATCH_SIZE = 0.1;

/** The source frames that are held: those of the range, or all the clip shows. */
function stretchOf({ clip, source, frames }: BenchClip): readonly [from: number, to: number] {
  const { range } = benchStore.getState();
  return range
    ? shownStretch(clip, source, range.from, Math.min(range.to, frames) - 1)
    : shownStretch(clip, source, 0, frames - 1);
}

/** Holds the whole picture, by the motion that is known of its source. */
export function holdWhole(
  bench: BenchClip,
  motion: SourceMotion | undefined,
  keeps: SteadyKeeps,
  aspect: number,
): void {
  attempt(() => {
    if (!motion) throw new InvalidInput('steady', 'the motion of this footage is not known yet');
    const [from, to] = stretchOf(bench);
    const steady = steadyWhole(motion, from, Math.min(to, motion.pairs.length), keeps, aspect);
    edit((project) => setSteady(project, bench.clip.id, steady));
  });
}

/** Holds the patch about a place of the picture at the playhead: it is followed from there both ways. */
export async function holdPatch(
  bench: BenchClip,
  place: { readonly x: number; readonly y: number },
  keeps: SteadyKeeps,
  aspect: number,
): Promise<void> {
  benchStore.setState({ picking: undefined });
  const { clip, source } = bench;
  const at = Math.round(
    frameOfPosition(source, positionAt(clip.map, Math.min(benchStore.getState().k, bench.frames - 1))),
  );
  const [from, to] = stretchOf(bench);
  const patch: Patch = { x: place.x, y: place.y, size: PATCH_SIZE };
  const followed = tellBusy('Following the patch…');
  try {
    const [back, on] = [
      await api.followPatch(source.id, at, from, patch),
      await api.followPatch(source.id, at, to, patch),
    ];
    const places = [...back.places.toReversed(), ...on.places.slice(1)];
    edit((project) => setSteady(project, clip.id, steadyPatch(places, from, keeps, patch, aspect)));
  } catch (error) {
    tellError((error as Error).message);
  } finally {
    followed();
  }
}
