import { useAdvice } from './use-advice.ts';
import type { Places } from '../chart/places.ts';
import { goTo, select, type BenchClip } from '../../session/bench-state.ts';

/** A quiet mark at each place there is advice on, on the lower edge of its speed: a press goes there, and the panel says it. */
export function AdviceMarkers({ bench, places }: { bench: BenchClip; places: Places }) {
  const { frames } = bench;
  const advice = useAdvice(bench);
  const go = (frame: number) => {
    select({ kind: 'clip' });
    goTo(frame, frames);
  };
  return (
    <g>
      {advice.map(({ id, frame, sentence }) => (
        <g
          key={id}
          role="button"
          tabIndex={0}
          aria-label={`Advice: ${sentence}`}
          className="cursor-pointer"
          transform={`translate(${places.scales.x(frame)} ${places.speedBottom - 6})`}
          onPointerDown={(e) => (e.stopPropagation(), go(frame))}
          onKeyDown={(e) => e.key === 'Enter' && go(frame)}
        >
          <path d="M0,-9L7,3H-7Z" fill="var(--brass)" stroke="var(--paper)" strokeWidth={1} />
          <path d="M0,-5V-1M0,0.4V1.4" stroke="var(--paper)" strokeWidth={1.4} />
          <title>{sentence}</title>
        </g>
      ))}
    </g>
  );
}
