import { isInSource, positionsInto, sampleAt, skippingSampler, usableFrames } from '@idle-bend/core';
import { useMemo } from 'react';
import type { BenchClip } from '../bench-store.ts';
import type { Places } from './places.ts';

/** One cell for each output frame: dark where a real source frame shows, pale where one is made, hatched where there is no source. */
export function InBetweens({ bench, places }: { bench: BenchClip; places: Places }) {
  const { clip, frames, source } = bench;
  const { x } = places.scales;
  const paths = useMemo(() => {
    const out = { real: '', made: '', none: '' };
    const positions = positionsInto(clip.map, 0, new Float64Array(frames));
    const sample = skippingSampler(source, (p, count) => sampleAt(p, count, 'mix', 'hold'));
    const gap = x(1) - x(0) > 3 ? 0.7 : 0;
    let start = 0;
    const kindOf = (k: number) => (!isInSource(positions[k]!, usableFrames(source)) ? 'none' : sample(positions[k]!).kind === 'mix' ? 'made' : 'real');
    for (let k = 1; k <= frames; k++) {
      if (gap === 0 && k < frames && kindOf(k) === kindOf(start)) continue;
      out[kindOf(start)] += `M${(x(start) + gap / 2).toFixed(2)},0H${(x(k) - gap / 2).toFixed(2)}`;
      start = k;
    }
    return out;
  }, [clip.map, frames, source, x]);
  return (
    <g>
      <text x={8} y={places.stripY + 13} className="fill-faint font-mono text-[11px]">
        in-betweens
      </text>
      <g transform={`translate(0 ${places.stripY + 9})`} strokeWidth={11} fill="none">
        <path d={paths.made} stroke="var(--river-mid)" />
        <path d={paths.real} stroke="var(--ink)" />
        <path d={paths.none} stroke="var(--vermilion)" strokeDasharray="2 2" />
      </g>
    </g>
  );
}
