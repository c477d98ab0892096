import { appearances, mapDuration, positionAt, reelFrames, slopeAt, speedAt, speedRange, type Drift } from '@idle-bend/core';
import { scaleLinear, type ScaleLinear } from 'd3-scale';
import { useMemo, type PointerEvent } from 'react';
import { activate, benchClips, goToReelFrame, select, togglePicked, useBench, type BenchClip } from './bench-store.ts';
import { driftsOf } from './landings.ts';
import { useRoughSpots } from './motion.ts';
import { speedScale } from './chart/scales.ts';
import { inUnits, useUnits } from './units.ts';
import { speedWords } from './speed-words.ts';
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
  const { project } = bench;
  const clips = useMemo(() => benchClips(project), [project]);
  const lastCue = project.reel.cues.at(-1)?.frame ?? 0;
  const end = Math.max(reelFrames(project), lastCue + 1);
  const x = useMemo(() => scaleLinear([0, end], [EDGE, width - EDGE]), [end, width]);
  const frameAt = (event: PointerEvent<SVGSVGElement>) => x.invert(event.clientX - event.currentTarget.getBoundingClientRect().left);
  const scrub = (event: PointerEvent<SVGSVGElement>) => {
    useBench.setState({ clock: 0 });
    goToReelFrame(clips, frameAt(event));
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
        if (e.ctrlKey || e.metaKey) return pickClip(clips, frameAt(e));
        e.currentTarget.setPointerCapture(e.pointerId);
        scrub(e);
      }}
      onPointerMove={(e) => e.buttons === 1 && e.currentTarget.hasPointerCapture(e.pointerId) && scrub(e)}
    >
      <Ruler bench={bench} x={x} />
      {clips.map((each) => (
        <ClipBlock key={each.clip.id} bench={each} x={x} active={each.clip.id === bench.clip.id} />
      ))}
      {clips.map((each) => (
        <Threads key={each.clip.id} bench={each} x={x} />
      ))}
      <Cues bench={bench} x={x} />
      <ReelPlayhead bench={bench} x={x} />
    </svg>
  );
}

/** With Ctrl a press picks a clip for edits of several, or lets it go. */
function pickClip(clips: readonly BenchClip[], frame: number): void {
  const clip = clips.find(({ start, frames }) => frame >= start && frame < start + frames)?.clip;
  if (clip) togglePicked(clip.id);
}

function Ruler({ bench, x }: { bench: BenchClip; x: X }) {
  const { rate } = bench.project.reel;
  const units = useUnits((s) => s.units);
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
                {inUnits(Math.round(i * every * second), rate, units)}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

function ClipBlock({ bench, x, active }: { bench: BenchClip; x: X; active: boolean }) {
  const picked = useBench((s) => s.picked.includes(bench.clip.id));
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
    <g onPointerDown={() => select({ kind: 'clip' })} data-clip={clip.id}>
      <rect
        x={left}
        y={CLIP_TOP}
        width={Math.max(2, right - left)}
        height={CLIP_BOTTOM - CLIP_TOP}
        rx={7}
        fill={active || picked ? 'var(--river-pale)' : 'var(--shoal)'}
        fillOpacity={0.6}
        stroke={active || picked ? 'var(--river)' : 'var(--line)'}
        strokeWidth={active ? 1.8 : 1.2}
        strokeDasharray={picked && !active ? '5 3' : undefined}
      />
      <path d={ticks} stroke={active ? 'var(--river)' : 'var(--faint)'} strokeWidth={1} opacity={0.75} />
      <RoughMarks bench={bench} x={x} />
      <path d={speedPath} fill="none" stroke={active ? 'var(--river)' : 'var(--faint)'} strokeWidth={active ? 2 : 1.5} />
      <BlockName name={clip.name} speeds={speedWords(speedRange(map, slope))} left={left + 8} room={right - left - 14} />
      <title>{`${clip.name}, of ${source.name}: ${speedWords(speedRange(map, slope))}`}</title>
    </g>
  );
}

/** A wavy line at the clip's foot wherever Flow is likely to tear or smear. */
function RoughMarks({ bench, x }: { bench: BenchClip; x: X }) {
  const spots = useRoughSpots(bench);
  if (spots.length === 0) return null;
  const path = spots
    .map(({ from, to }) => {
      const [left, right] = [x(bench.start + from), Math.max(x(bench.start + to + 1), x(bench.start + from) + 8)];
      const waves = Math.max(2, Math.round((right - left) / 4));
      const wave = Array.from({ length: waves }, (_, i) => `l${((right - left) / waves).toFixed(2)},${i % 2 ? 4 : -4}`).join('');
      return `M${left.toFixed(1)},${CLIP_BOTTOM - 2}${wave}`;
    })
    .join('');
  return (
    <path d={path} fill="none" stroke="var(--vermilion)" strokeWidth={1.8} data-testid="rough-marks">
      <title>{spots.length === 1 ? 'One rough spot' : `${spots.length} rough spots`}</title>
    </path>
  );
}

/** A clip's name and, where there is room, its range of speeds. About 6.7 pixels a letter. */
function BlockName({ name, speeds, left, room }: { name: string; speeds: string; left: number; room: number }) {
  const letters = Math.floor(room / 6.7);
  if (letters < 3) return null;
  const shown = name.length <= letters ? name : `${name.slice(0, letters - 1)}…`;
  const both = letters >= name.length + speeds.length + 2;
  return (
    <text x={left} y={CLIP_TOP + 14} className="fill-ink font-mono text-[11px] font-semibold">
      {shown}
      {both && (
        <tspan dx={8} className="fill-faint font-normal">
          {speeds}
        </tspan>
      )}
    </text>
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
        <Thread key={drift.moment.id} drift={drift} clipId={bench.clip.id} x={x} />
      ))}
    </g>
  );
}

/** From where a moment shows to the cue nearest to it: straight and moss when it has landed, leaning and vermilion with its drift when not. */
function Thread({ drift, clipId, x }: { drift: Drift; clipId: string; x: X }) {
  const [top, bottom] = [x(drift.shownAt), x(drift.cue.frame)];
  const colour = drift.landed ? 'var(--moss)' : 'var(--vermilion)';
  const middle = (CLIP_BOTTOM + CUE_Y) / 2;
  return (
    <g
      className="cursor-pointer"
      onPointerDown={(e) => (
        e.stopPropagation(),
        activate(clipId, useBench.getState().activeId === clipId ? useBench.getState().k : 0),
        select({ kind: 'moment', id: drift.moment.id })
      )}
    >
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
