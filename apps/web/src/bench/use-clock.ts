import { framesPerSecond } from '@idle-bend/core';
import { useEffect } from 'react';
import { useBench, type BenchClip } from './bench-store.ts';

/**
 * While the clock runs, the playhead follows real time; frames the machine cannot keep up with are left out. Looping,
 * it goes round the stretch that was chosen; otherwise it stops at the clip's ends.
 */
export function useClock({ frames, project }: BenchClip): void {
  const clock = useBench((s) => s.clock);
  const rate = framesPerSecond(project.reel.rate);
  useEffect(() => {
    if (clock === 0) return;
    const { k: from, loop } = useBench.getState();
    const first = loop ? loop.from : 0;
    const last = Math.min(frames - 1, loop ? loop.to : frames - 1);
    const length = last - first + 1;
    const started = performance.now();
    let handle = requestAnimationFrame(function tick(now) {
      let k = Math.floor(from + (Math.max(0, now - started) / 1000) * rate * clock);
      if (loop) k = first + ((((k - first) % length) + length) % length);
      else if (k > last || k < first) {
        useBench.setState({ k: k < first ? first : last, clock: 0 });
        return;
      }
      if (k !== useBench.getState().k) useBench.setState({ k });
      handle = requestAnimationFrame(tick);
    });
    return () => cancelAnimationFrame(handle);
  }, [clock, frames, rate]);
}
