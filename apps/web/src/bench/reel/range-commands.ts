import { setReelRange } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { reelFrames } from '@idle-bend/core/reel';
import { edit } from '../../session/session.ts';
import { benchStore, goToReelFrame, reelFrameOf } from '../../session/bench-state.ts';
import { attempt, current } from '../../session/command.ts';

type Change = (frame: number, project: Project) => Project['reel']['range'];

function change(to: Change): void {
  const bench = current();
  if (bench) attempt(() => edit((before) => setReelRange(before, to(reelFrameOf(bench), before))));
}

/** The reel's range begins at the playhead; it ends where it did, or with the reel. */
export const reelIn = () =>
  change((frame, project) => {
    const { range } = project.reel;
    return { from: frame, to: range && range.to > frame ? range.to : Math.max(frame + 1, reelFrames(project)) };
  });

/** The reel's range ends with the playhead's frame. */
export const reelOut = () =>
  change((frame, project) => {
    const { range } = project.reel;
    return { from: range && range.from <= frame ? range.from : 0, to: frame + 1 };
  });

export function clearReelRange(): void {
  benchStore.setState({ reelLoop: false });
  change(() => null);
}

/** Playing goes round the reel's range, with its sound, or no longer. */
export function toggleReelLoop(): void {
  const bench = current();
  if (!bench) return;
  const { reelLoop } = benchStore.getState();
  const { range } = bench.project.reel;
  if (reelLoop || !range) return benchStore.setState({ reelLoop: false });
  goToReelFrame(bench.project, range.from);
  benchStore.setState({ reelLoop: true, loop: undefined, clock: 1, original: undefined });
}
