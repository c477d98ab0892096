import { appearances, formatTimecode, mapDuration, positionAt, slopeAt, speedAt, type Drift } from '@idle-bend/core';
import { scaleLinear, type ScaleLinear } from 'd3-scale';
import { useMemo, type PointerEvent } from 'react';
import { goTo, select, useBench, type BenchClip } from './bench-store.ts';
import { driftsOf } from './landings.ts';
import { speedScale } from './chart/scales.ts';
import { useSize } from './use-size.ts';

const HEIGHT = 128;
const EDGE = 12;
const CLIP_TOP = 22;
const CLIP_BOTTOM = 82;
const CUE_Y = 112;

/** The reel, at the top: time, clips with their pace, and the cues under them with threads from the moments that meet them. */
export function ReelStrip({ bench }: { bench: BenchClip }) {
  const { ref, width } = useSize<HTMLDivElement>();
  return (
    <div ref={ref} className="border-line shrink-0 border-b" style={{ height: HEIGHT }}>
      {width > 0 && <Drawing bench={bench} width={width} />}
    </div>
  );
}

type X = ScaleLinear<number, number>;

function Drawing({ bench, width }: { bench: BenchClip; width: number }) {
  const { start, frames, project } = bench;
  const lastCue = project.reel.cues.at(-1)?.frame ?? 0;
  const x = useMemo(() => scaleLinear([0, Math.max(start + frames, lastCue + 1)], [EDGE, width - EDGE]), [start, frames, lastCue, width]);
  const scrub = (event: PointerEvent<SVGSVGElement>) => {
    useBench.setState({ clock: 0 });
    goTo(x.invert(event.clientX - event.currentTarget.getBoundingClientRect().left) - start, frames);
  };
  return (
    <svg
      width={width}
      height={HEIGHT}
      className="block touch-none select-none"
      role="group"
      aria-label="Reel"
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        scrub(e);
      }}
      onPointerMove={(e) => e.buttons === 1 && e.currentTarget.hasPointerCapture(e.pointerId) && scrub(e)}
    >
      <Ruler bench={bench} x={x} />
      <ClipBlock bench={bench} x={x} />
      <Threads bench={bench} x={x} />
      <Cues bench={bench} x={x} />
      <ReelPlayhead bench={bench} x={x} />
    </svg>
  );
}

function Ruler({ bench, x }: { bench: BenchClip; x: X }) {
  const { rate } = bench.project.reel;
  const second = rate.num / rate.den;
  const room = (seconds: number) => x(seconds * second) - x(0);
  const every = [1, 2, 5, 10, 30, 60, 120, 300, 600].find((s) => room(s) > 90) ?? 1800;
  const last = Math.floor(x.domain()[1]! / second / every);
  return (
    <g>
      <line x1={EDGE} x2={x.range()[1]} y1={18.5} y2={18.5} stroke="var(--line)" />
      {Array.from({ length: last + 1 }, (_, i) => {
        const at = x(i * every * second);
        return (
          <g key={i}>
            <line x1={at} x2={at} y1={6} y2={19} stroke="var(--line)" />
            {at < x.range()[1]! - 66 && (
              <text x={at + 4} y={14} className="fill-faint font-mono text-[10px]">
                {formatTimecode(Math.round(i * every * second), rate)}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

function ClipBlock({ bench, x }: { bench: BenchClip; x: X }) {
  const { clip, start, frames, source, slope } = bench;
  const { map } = clip;
  const left = x(start);
  const right = x(start + frames);
  const speedPath = useMemo(() => {
    const { place } = speedScale(CLIP_TOP + 16, CLIP_BOTTOM - 4);
    const count = Math.max(2, Math.round((right - left) / 3));
    return Array.from({ length: count + 1 }, (_, i) => {
      const t = Math.min(mapDuration(map) - 1e-6, (i / count) * frames);
      return `${i === 0 ? 'M' : 'L'}${x(start + t).toFixed(1)},${place(speedAt(map, t, slope)).toFixed(1)}`;
    }).join('');
  }, [map, frames, slope, start, left, right, x]);
  const ticks = useMemo(() => paceTicks(bench, x), [bench, x]);
  return (
    <g onPointerDown={() => select({ kind: 'clip' })}>
      <rect
        x={left}
        y={CLIP_TOP}
        width={Math.max(2, right - left)}
        height={CLIP_BOTTOM - CLIP_TOP}
        rx={7}
        fill="var(--river-pale)"
        fillOpacity={0.6}
        stroke="var(--river)"
        strokeWidth={1.8}
      />
      <path d={ticks} stroke="var(--river)" strokeWidth={1} opacity={0.75} />
      <path d={speedPath} fill="none" stroke="var(--river)" strokeWidth={2} />
      <text x={left + 8} y={CLIP_TOP + 14} className="fill-ink font-mono text-[11px] font-semibold">
        {clip.name}
      </text>
      <title>{`${clip.name}, of ${source.name}`}</title>
    </g>
  );
}

/** Marks at even source distances, about one a second of source, no closer than 3 pixels where it runs fastest; leaning back where it runs backward. */
function paceTicks({ clip: { map }, start, frames, source }: BenchClip, x: X): string {
  const pixel = x(1) - x(0);
  const samples = Array.from({ length: 65 }, (_, i) => (i / 64) * mapDuration(map));
  const fastest = Math.max(...samples.map((t) => Math.abs(slopeAt(map, t))));
  const reached = samples.map((t) => positionAt(map, t));
  const wanted = Math.max((3 / pixel) * fastest, source.frames / 120);
  const distance = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000].find((d) => d >= wanted) ?? 10_000;
  const first = Math.ceil(Math.min(...reached) / distance);
  const last = Math.floor(Math.max(...reached) / distance);
  let path = '';
  for (let n = first; n <= last; n++)
    for (const { from, to } of appearances(map, n * distance)) {
      if (from >= frames || to - from > 1e-3) continue;
      const lean = slopeAt(map, from) < 0 ? -5 : 0;
      path += `M${x(start + from).toFixed(1)},${CLIP_BOTTOM - 3}l${lean},-14`;
    }
  return path;
}

function Threads({ bench, x }: { bench: BenchClip; x: X }) {
  const drifts = driftsOf(bench);
  return (
    <g>
      {drifts.map((drift) => (
        <Thread key={drift.moment.id} drift={drift} x={x} />
      ))}
    </g>
  );
}

/** From where a moment shows to the cue nearest to it: straight and moss when it has landed, leaning and vermilion with its drift when not. */
function Thread({ drift, x }: { drift: Drift; x: X }) {
  const [top, bottom] = [x(drift.shownAt), x(drift.cue.frame)];
  const colour = drift.landed ? 'var(--moss)' : 'var(--vermilion)';
  const middle = (CLIP_BOTTOM + CUE_Y) / 2;
  return (
    <g className="cursor-pointer" onPointerDown={(e) => (e.stopPropagation(), select({ kind: 'moment', id: drift.moment.id }))}>
      <path
        d={`M${top},${CLIP_BOTTOM}C${top},${middle} ${bottom},${middle} ${bottom},${CUE_Y - 4}`}
        fill="none"
        stroke={colour}
        strokeWidth={2}
        strokeDasharray={drift.tied ? undefined : '3 3'}
      />
      <circle cx={top} cy={CLIP_BOTTOM} r={4.5} fill={drift.landed ? colour : 'var(--sheet)'} stroke={colour} strokeWidth={2} />
      <text x={Math.max(top, bottom) + 8} y={middle + 3} className="font-mono text-[11px] font-semibold" fill={colour}>
        {drift.landed ? '0' : drift.frames === 0 ? 'between' : `${drift.frames > 0 ? '+' : '−'}${Math.abs(drift.frames)} f`}
      </text>
    </g>
  );
}

function Cues({ bench, x }: { bench: BenchClip; x: X }) {
  const selection = useBench((s) => s.selection);
  return (
    <g>
      <line x1={EDGE} x2={x.range()[1]} y1={CUE_Y} y2={CUE_Y} stroke="var(--brass-pale)" />
      {bench.project.reel.cues.map((cue) => {
        const chosen = selection.kind === 'cue' && selection.id === cue.id;
        const at = x(cue.frame);
        const toLeft = at > x.range()[1]! - 70;
        return (
          <g key={cue.id} className="cursor-pointer" onPointerDown={(e) => (e.stopPropagation(), select({ kind: 'cue', id: cue.id }))}>
            <circle cx={at} cy={CUE_Y} r={chosen ? 6 : 4.5} fill="var(--brass)" stroke={chosen ? 'var(--ink)' : 'none'} strokeWidth={1.5} />
            <text x={at + (toLeft ? -9 : 9)} y={CUE_Y + 4} textAnchor={toLeft ? 'end' : 'start'} className="fill-brass font-mono text-[11px]">
              {cue.name}
            </text>
          </g>
        );
      })}
    </g>
  );
}

function ReelPlayhead({ bench, x }: { bench: BenchClip; x: X }) {
  const k = useBench((s) => s.k);
  const at = x(bench.start + Math.min(k, bench.frames - 1));
  return (
    <g pointerEvents="none">
      <line x1={at} x2={at} y1={8} y2={HEIGHT} stroke="var(--vermilion)" strokeWidth={1.6} />
      <path d={`M${at - 6},0h12l-6,10z`} fill="var(--vermilion)" />
    </g>
  );
}
