import { isGroup } from '@idle-bend/core/model';
import { ROUGH_BELOW } from '@idle-bend/core/motion';
import { resolveClip } from '@idle-bend/core/resolve';
import { clipConfidence } from '@idle-bend/core/rough';
import { isInSource, isWholeFrame, sampleAt, samplerWithoutRepeats, usableFrames } from '@idle-bend/core/sampling';
import { positionsInto } from '@idle-bend/core/time-map';
import { useMemo } from 'react';
import { useMotion } from '../motion.ts';
import type { Places } from '../chart/places.ts';
import { type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';
import { drawnBy } from '../../ui/drawn-by.ts';
import { valuesOf } from '../../session/bench-clip.ts';

/** Beside the strip there is room for so many letters. */
const ROOM = 13;

/** "99/129 real"; of long clips, where that would run into the chart, the numbers alone. */
function realWords(real: number, frames: number): string {
  const words = `${real}/${frames} real`;
  return words.length <= ROOM ? words : words.replace(' real', '');
}

/** One cell for each output frame: dark where a real source frame shows, pale where one is made, tall and vermilion where that is likely to look wrong, hatched where there is no source; underlined where it was made smooth. */
function InBetweensPart({ bench, places }: { bench: BenchClip; places: Places }) {
  const { clip, frames, source, project } = bench;
  const { motion } = useMotion(source.id);
  const smooth = useBench((s) => (s.smooth?.clip === clip ? s.smooth : undefined));
  const { method, tuning } = project.reel;
  const { x } = places.scales;
  const paths = useMemo(() => {
    const out = { real: '', made: '', none: '', rough: '', count: 0 };
    const sure = motion && clipConfidence(project, clip, motion);
    const positions = positionsInto(clip.map, 0, new Float64Array(frames));
    const sample = samplerWithoutRepeats(source, (p, count) => sampleAt(p, count, 'mix', 'hold'));
    const gap = x(1) - x(0) > 3 ? 0.7 : 0;
    let start = 0;
    const show = isGroup(source) ? resolveClip(project, clip) : undefined;
    const kindOf = (k: number): 'real' | 'made' | 'none' | 'rough' => {
      if (show) {
        const shown = show(k);
        return !shown || shown.sample.kind === 'black' ? 'none' : isWholeFrame(shown.position) ? 'real' : 'made';
      }
      if (!isInSource(positions[k]!, usableFrames(source))) return 'none';
      if (sample(positions[k]!).kind !== 'mix') return 'real';
      return sure && sure[k]! < ROUGH_BELOW ? 'rough' : 'made';
    };
    let kind = kindOf(0);
    for (let k = 1; k <= frames; k++) {
      if (kind === 'real') out.count++;
      const next = k < frames ? kindOf(k) : undefined;
      const before = kind;
      if (next) kind = next;
      if (gap === 0 && next === before) continue;
      out[before] += `M${(x(start) + gap / 2).toFixed(2)},0H${(x(k) - gap / 2).toFixed(2)}`;
      start = k;
    }
    return out;
    // eslint-disable-next-line react-hooks/exhaustive-deps -- of the project only what the clip is made by matters
  }, [clip, frames, source, x, motion, method, tuning, isGroup(source) && project.sources]);
  return (
    <g>
      <text x={8} y={places.stripY + 13} className="fill-faint font-mono text-[11px]">
        <title>How many frames are real ones of the source; the strip shows which</title>
        <tspan data-testid="real-count">{realWords(paths.count, frames)}</tspan>
      </text>
      <g transform={`translate(0 ${places.stripY + 9})`} strokeWidth={11} fill="none">
        <path d={paths.made} stroke="var(--river-mid)" />
        <path d={paths.real} stroke="var(--ink)" />
        <path d={paths.rough} stroke="var(--vermilion)" strokeWidth={17} data-testid="rough-cells" />
        <path d={paths.none} stroke="var(--vermilion)" strokeDasharray="2 2" />
        {smooth && smooth.done > 0 && (
          <line
            x1={x(smooth.from)}
            x2={x(smooth.from + smooth.done)}
            y1={11}
            y2={11}
            stroke="var(--river)"
            strokeWidth={3}
            data-testid="smooth-stretch"
          />
        )}
      </g>
    </g>
  );
}

export const InBetweens = drawnBy('in-betweens', ({ bench, places }) => [...valuesOf(bench), places], InBetweensPart);
