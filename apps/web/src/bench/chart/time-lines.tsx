import { isDownbeat, placeInBar } from '@idle-bend/core/beats';
import { reelBeats } from '@idle-bend/core/reel';
import { positionOfFrame } from '@idle-bend/core/sampling';
import { memo, useMemo } from 'react';
import { timeStep } from '../time-steps.ts';
import { inUnits, useUnits } from '../units.ts';
import { LEFT, LETTER, TOP, type Places } from './places.ts';
import { select, type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';
import { drawnBy } from '../../ui/drawn-by.ts';
import { landingPlaces } from '../../session/bench-clip.ts';

function TimeLinesPart({ bench, places }: { bench: BenchClip; places: Places }) {
  const { x } = places.scales;
  const units = useUnits((s) => s.units);
  const perSecond = Math.round(bench.project.reel.rate.num / bench.project.reel.rate.den);
  const [, end] = x.domain() as [number, number];
  const every = perSecond * timeStep((x(1) - x(0)) * perSecond, units === 'timecode' ? 84 : 46);
  const marks = Array.from({ length: Math.floor(end / every) + 1 }, (_, i) => i * every);
  const selection = useBench((s) => s.selection);
  return (
    <g>
      {marks.map((t) => (
        <g key={t}>
          <line x1={x(t)} x2={x(t)} y1={TOP} y2={places.speedBottom} stroke="var(--line)" />
          {x(t) < places.right - (units === 'timecode' ? 74 : 34) && (
            <text x={x(t) + (t === 0 ? 9 : 3)} y={places.chartBottom + 12} className="fill-faint font-mono text-[10px]">
              {inUnits(t + bench.start, bench.project.reel.rate, units)}
            </text>
          )}
        </g>
      ))}
      <BeatLines bench={bench} places={places} />
      {bench.project.reel.cues.map((cue, i, cues) => {
        const t = cue.frame - bench.start;
        if (t < 0 || t > end) return null;
        const chosen = selection.kind === 'cue' && selection.id === cue.id;
        const next = cues[i + 1];
        // A name that would run into the next cue is a tip.
        const isNamed = chosen || !next || x(next.frame - bench.start) - x(t) > 8 + LETTER * cue.name.length;
        return (
          <g
            key={cue.id}
            onPointerDown={(e) => (e.stopPropagation(), select({ kind: 'cue', id: cue.id }))}
            className="cursor-pointer"
          >
            <line
              x1={x(t)}
              x2={x(t)}
              y1={TOP}
              y2={places.speedBottom}
              stroke="var(--brass)"
              strokeWidth={chosen ? 2.4 : 1.4}
            />
            <line x1={x(t)} x2={x(t)} y1={TOP} y2={places.speedBottom} stroke="transparent" strokeWidth={9} />
            {isNamed ? (
              <text
                {...besideLine(x(t), cue.name, places.right)}
                y={TOP + 12}
                className="fill-brass font-mono text-[11px]"
              >
                {cue.name}
              </text>
            ) : (
              <title>{cue.name}</title>
            )}
          </g>
        );
      })}
    </g>
  );
}

/** How far names stay from the last point of the curve. */
const CORNER = 14;

/** Right of a line, or left of it where there is no room. */
const besideLine = (at: number, text: string, right: number) =>
  at + 4 + LETTER * text.length > right
    ? ({ x: Math.min(at - 4, right - CORNER), textAnchor: 'end' } as const)
    : { x: at + 4 };

/** The beats of the music as vertical lines, first beats of bars stronger: where a moment's line meets one is a landing. */
const BeatLines = memo(function BeatLines({ bench, places }: { bench: BenchClip; places: Places }) {
  const { x } = places.scales;
  const [, end] = x.domain() as [number, number];
  const { project, start } = bench;
  const beats = useMemo(
    () => reelBeats(project).filter(({ frame }) => frame >= start && frame <= start + end),
    [project, start, end],
  );
  const apart = beats.length > 1 ? (x(beats.at(-1)!.frame) - x(beats[0]!.frame)) / (beats.length - 1) : Infinity;
  return (
    <g pointerEvents="none" data-testid="beat-lines">
      {beats.map(({ frame, soundId, index }) => {
        const grid = project.reel.sounds.find(({ id }) => id === soundId)!.beats!;
        const down = isDownbeat(grid, index);
        if (!down && apart < 5) return null;
        const { bar } = placeInBar(grid, index);
        const at = x(frame - start);
        return (
          <g key={`${soundId} ${index}`}>
            <line
              x1={at}
              x2={at}
              y1={TOP}
              y2={places.chartBottom}
              stroke="var(--brass-pale)"
              strokeWidth={down ? 1.6 : 0.8}
              opacity={down ? 0.9 : 0.6}
            />
            {down && bar > 0 && (
              <text
                {...(at > places.right - LETTER * 2 ? { x: at - 3, textAnchor: 'end' } : { x: at + 3 })}
                y={places.chartBottom - 5}
                className="fill-brass font-mono text-[10px]"
              >
                {bar}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
});

function MomentLinesPart({ bench, places }: { bench: BenchClip; places: Places }) {
  const { y } = places.scales;
  const [low, high] = y.domain() as [number, number];
  const selection = useBench((s) => s.selection);
  return (
    <g>
      {bench.source.moments
        .map((moment) => ({ moment, at: positionOfFrame(bench.source, moment.frame) }))
        .filter(({ at }) => at >= low && at <= high)
        .map(({ moment, at }) => {
          const chosen = selection.kind === 'moment' && selection.id === moment.id;
          return (
            <g
              key={moment.id}
              onPointerDown={(e) => (e.stopPropagation(), select({ kind: 'moment', id: moment.id }))}
              className="cursor-pointer"
            >
              <line
                x1={LEFT}
                x2={places.right}
                y1={y(at)}
                y2={y(at)}
                stroke="var(--river)"
                strokeDasharray="4 3"
                strokeWidth={chosen ? 2 : 1}
              />
              <line x1={LEFT} x2={places.right} y1={y(at)} y2={y(at)} stroke="transparent" strokeWidth={9} />
              <path d={`M${LEFT},${y(at)}l-7,-4v8z`} fill="var(--river)" transform="translate(8 0)" />
              <text x={LEFT + 14} y={y(at) - 5} className="fill-river font-mono text-[11px]">
                {moment.name} · {Math.round(moment.frame * 100) / 100}
              </text>
            </g>
          );
        })}
    </g>
  );
}

export const TimeLines = drawnBy(
  'time lines',
  ({ bench, places }) => [bench.start, ...landingPlaces(bench.project), places],
  TimeLinesPart,
);

export const MomentLines = drawnBy('moment lines', ({ bench, places }) => [bench.source, places], MomentLinesPart);
