import { framesPerSecond, placeItems, type Project } from '@idle-bend/core';
import { useEffect } from 'react';
import { activate, useBench, type BenchClip } from './bench-store.ts';

/**
 * While the clock runs, the playhead follows real time; frames the machine cannot keep up with are left out. Looping,
 * it goes round the stretch that was chosen; otherwise it goes on with the next clip and stops at the reel's ends.
 */
export function useClock({ frames, project, clip }: BenchClip): void {
  const clock = useBench((s) => s.clock);
  const pace = useBench((s) => s.pace);
  const rate = framesPerSecond(project.reel.rate);
  useEffect(() => {
    if (clock === 0) return;
    const { k: from, loop } = useBench.getState();
    const first = loop ? loop.from : 0;
    const last = Math.min(frames - 1, loop ? loop.to : frames - 1);
    const length = last - first + 1;
    const started = performance.now();
    let handle = requestAnimationFrame(function tick(now) {
      let k = Math.floor(from + (Math.max(0, now - started) / 1000) * rate * clock * pace);
      if (loop) k = first + ((((k - first) % length) + length) % length);
      else if (k > last || k < first) {
        const next = neighbour(project, clip.id, k > last ? 1 : -1);
        if (next) activate(next.id, k > last ? 0 : next.frames - 1);
        else useBench.setState({ k: k < first ? first : last, clock: 0 });
        return;
      }
      if (k !== useBench.getState().k) useBench.setState({ k });
      handle = requestAnimationFrame(tick);
    });
    return () => cancelAnimationFrame(handle);
  }, [clock, pace, frames, rate, project, clip.id]);
}

/** The clip right before or after one on the reel, across gaps. */
function neighbour(project: Project, clipId: string, direction: 1 | -1): { id: string; frames: number } | undefined {
  const clips = placeItems(project).filter(({ item }) => item.kind === 'clip');
  const found = clips[clips.findIndex(({ item }) => item.id === clipId) + direction];
  return found && { id: found.item.id, frames: found.frames };
}
