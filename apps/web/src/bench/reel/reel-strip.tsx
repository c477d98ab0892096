import type { Gap } from '@idle-bend/core/model';
import { frameOfSecond, placeItems, reelFrames, type PlacedItem } from '@idle-bend/core/reel';
import { lazy, Suspense, useEffect, useMemo, useRef, type PointerEvent, type WheelEvent } from 'react';
import { useHearing } from '../sound/use-sounds.ts';
import { timeStep } from '../time-steps.ts';
import { inUnits, useUnits } from '../units.ts';
import { useSize } from '../../ui/use-size.ts';
import { ClipBlock, NARROW, NarrowBlock } from './clip-block.tsx';
import { Cues } from '../landing/cues.tsx';
import { CLIP_BOTTOM, CLIP_TOP, reelHeight } from './layout.ts';
import { ReelCanvas } from './reel-canvas.tsx';
import { EDGE, reelScale, scrollReel, seeFrame, useReelView, zoomReel, type X } from './reel-view.ts';
import { openReelMenu } from '../menu/open-menu.ts';
import { SoundLane } from '../sound/lane.tsx';
import { Threads } from '../landing/threads.tsx';
import {
  benchClips,
  benchStore,
  goToReelFrame,
  reelFrameOf,
  select,
  togglePicked,
  type BenchClip,
} from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';
import { drawnBy } from '../../ui/drawn-by.ts';

const ReelRange = lazy(async () => ({ default: (await import('./reel-range.tsx')).ReelRange }));
const Joins = lazy(async () => ({ default: (await import('../join/on-reel.tsx')).Joins }));
const Accents = lazy(async () => ({ default: (await import('../accent/on-reel.tsx')).Accents }));

/** The reel, at the top: time, clips with their pace, the music under them, and threads from moments to the cues they meet. */
export function ReelStrip({ bench }: { bench: BenchClip }) {
  const { ref, width } = useSize<HTMLDivElement>();
  useHearing(bench.project);
  const height = reelHeight(bench.project.reel.sounds.length);
  return (
    <div ref={ref} className="border-line relative shrink-0 overflow-hidden border-b" style={{ height }}>
      {width > 0 && <Drawing bench={bench} width={width} height={height} />}
    </div>
  );
}

/** Where the reel ends: with its last clip, sound or cue. */
function endOf({ project }: BenchClip): number {
  const { cues, sounds } = project.reel;
  const heard = sounds.map((sound) => frameOfSecond(project, sound, sound.toSeconds));
  return Math.max(reelFrames(project), (cues.at(-1)?.frame ?? 0) + 1, ...heard, 24);
}

function Drawing({ bench, width, height }: { bench: BenchClip; width: number; height: number }) {
  const { project } = bench;
  const clips = useMemo(() => benchClips(project), [project]);
  const gaps = useMemo(() => placeItems(project).filter(({ item }) => item.kind === 'gap'), [project]);
  const end = useMemo(() => endOf(bench), [bench]);
  const view = useReelView();
  const x = useMemo(() => reelScale(end, width, view), [end, width, view]);
  const frameAt = (event: { readonly clientX: number; readonly currentTarget: Element }) =>
    x.invert(event.clientX - event.currentTarget.getBoundingClientRect().left);
  const scrub = (event: PointerEvent<SVGSVGElement>) => {
    benchStore.setState({ clock: 0 });
    goToReelFrame(project, frameAt(event));
  };
  const wheel = useWheel((turned, at, close) => {
    if (close) zoomReel(Math.exp(turned / 300), x.invert(at), end);
    else scrollReel(x.invert(turned) - x.invert(0), end);
  });
  useNoPageZoom();
  const [low, high] = x.domain() as [number, number];
  const seen = (start: number, frames: number) => start < high && start + frames > low;
  return (
    <>
      <ReelCanvas bench={bench} clips={clips} x={x} width={width} height={height} />
      <svg
        width={width}
        height={height}
        className="absolute inset-0 block touch-none select-none"
        role="group"
        aria-label="Reel"
        onWheel={wheel}
        onContextMenu={(e) => openReelMenu(e, project, frameAt(e))}
        onPointerDown={(e) => {
          if (e.button !== 0) return;
          if (e.ctrlKey || e.metaKey) return pickClip(clips, frameAt(e));
          e.currentTarget.setPointerCapture(e.pointerId);
          scrub(e);
        }}
        onPointerMove={(e) => e.buttons === 1 && e.currentTarget.hasPointerCapture(e.pointerId) && scrub(e)}
      >
        <Ruler bench={bench} x={x} />
        <Suspense>{project.reel.range && <ReelRange bench={bench} x={x} height={height} />}</Suspense>
        {gaps.map(
          (placed) => seen(placed.start, placed.frames) && <GapBlock key={placed.item.id} placed={placed} x={x} />,
        )}
        {clips.map((each) => {
          if (!seen(each.start, each.frames)) return null;
          const Block = each.frames * (x(1) - x(0)) < NARROW ? NarrowBlock : ClipBlock;
          return <Block key={each.clip.id} bench={each} x={x} active={each.clip.id === bench.clip.id} />;
        })}
        <Suspense>{project.reel.joins.length > 0 && <Joins project={project} x={x} />}</Suspense>
        {project.reel.sounds.map((sound, lane) => (
          <SoundLane key={sound.id} project={project} sound={sound} lane={lane} x={x} />
        ))}
        {clips.map(
          (each) =>
            seen(each.start, each.frames) &&
            each.source.moments.length > 0 && <Threads key={each.clip.id} bench={each} x={x} />,
        )}
        <Cues bench={bench} x={x} />
        <Suspense>{project.reel.accents.length > 0 && <Accents project={project} x={x} />}</Suspense>
        <ReelPlayhead bench={bench} x={x} end={end} height={height} />
      </svg>
    </>
  );
}

/** The wheel's turns of one shown frame taken together: how far, where the pointer is, and whether it means closer. */
function useWheel(act: (turned: number, at: number, close: boolean) => void) {
  const latest = useRef(act);
  useEffect(() => void (latest.current = act));
  const waiting = useRef<{ turned: number; at: number; close: boolean } | undefined>(undefined);
  return (event: WheelEvent<SVGSVGElement>) => {
    const close = event.ctrlKey || event.metaKey;
    const turned = close ? event.deltaY : event.deltaX + event.deltaY;
    const at = event.clientX - event.currentTarget.getBoundingClientRect().left;
    const before = waiting.current;
    waiting.current = { turned: turned + (before?.close === close ? before.turned : 0), at, close };
    if (before) return;
    requestAnimationFrame(() => {
      const all = waiting.current!;
      waiting.current = undefined;
      latest.current(all.turned, all.at, all.close);
    });
  };
}

/** With Ctrl the wheel means the reel, not the page. */
function useNoPageZoom(): void {
  useEffect(() => {
    const keep = (event: globalThis.WheelEvent) => {
      if ((event.ctrlKey || event.metaKey) && (event.target as Element).closest('[aria-label=Reel]'))
        event.preventDefault();
    };
    addEventListener('wheel', keep, { passive: false });
    return () => removeEventListener('wheel', keep);
  }, []);
}

/** With Ctrl a press picks a clip for edits of several, or lets it go. */
function pickClip(clips: readonly BenchClip[], frame: number): void {
  const clip = clips.find(({ start, frames }) => frame >= start && frame < start + frames)?.clip;
  if (clip) togglePicked(clip.id);
}

function RulerPart({ bench, x }: { bench: BenchClip; x: X }) {
  const { rate } = bench.project.reel;
  const units = useUnits((s) => s.units);
  const second = rate.num / rate.den;
  const every = timeStep(x(second) - x(0), 90, 1);
  const [low, high] = x.domain() as [number, number];
  const first = Math.ceil(low / second / every);
  const count = Math.max(0, Math.floor(high / second / every) - first + 1);
  return (
    <g>
      <line x1={EDGE} x2={x.range()[1]} y1={18.5} y2={18.5} stroke="var(--line)" />
      {Array.from({ length: count }, (_, n) => {
        const i = first + n;
        const at = x(i * every * second);
        return (
          <g key={i}>
            <line x1={at} x2={at} y1={6} y2={19} stroke="var(--line)" />
            {at < x.range()[1] - 66 && (
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

/** Black between clips. */
function GapBlockPart({ placed: { item, start, frames }, x }: { placed: PlacedItem; x: X }) {
  const chosen = useBench((s) => s.selection.kind === 'gap' && s.selection.id === item.id);
  const width = Math.max(2, x(start + frames) - x(start));
  return (
    <g onPointerDown={() => select({ kind: 'gap', id: item.id })}>
      <rect
        x={x(start)}
        y={CLIP_TOP}
        width={width}
        height={CLIP_BOTTOM - CLIP_TOP}
        fill="transparent"
        stroke={chosen ? 'var(--river)' : 'var(--line)'}
        strokeDasharray="3 4"
      />
      {width > 60 && (
        <text x={x(start) + 8} y={CLIP_TOP + 34} className="fill-faint font-mono text-[11px]">
          {(item as Gap).frames === frames ? `gap · ${frames} f` : `gap · ${frames} f of ${(item as Gap).frames}`}
        </text>
      )}
    </g>
  );
}

function ReelPlayhead({ bench, x, end, height }: { bench: BenchClip; x: X; end: number; height: number }) {
  const frame = useBench((s) => reelFrameOf(bench, s));
  const before = useRef(frame);
  useEffect(() => {
    if (before.current !== frame) seeFrame(frame, end);
    before.current = frame;
  }, [frame, end]);
  const at = x(frame);
  if (at < EDGE - 1 || at > x.range()[1] + 1) return null;
  return (
    <g pointerEvents="none" data-testid="reel-playhead" data-frame={frame}>
      <line x1={at} x2={at} y1={8} y2={height} stroke="var(--vermilion)" strokeWidth={1.6} />
      <path d={`M${at - 6},0h12l-6,10z`} fill="var(--vermilion)" />
    </g>
  );
}

const Ruler = drawnBy('ruler', ({ bench, x }) => [bench.project.reel.rate, x], RulerPart);

const GapBlock = drawnBy(
  ({ placed }) => `gap ${placed.item.id}`,
  ({ placed: { item, start, frames }, x }) => [item, start, frames, x],
  GapBlockPart,
);
