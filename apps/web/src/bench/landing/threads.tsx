import { isCutInside } from '@idle-bend/core/group';
import type { Drift, Target } from '@idle-bend/core/landing';
import type { Moment } from '@idle-bend/core/model';
import { reelBeats } from '@idle-bend/core/reel';
import { positionOfFrame } from '@idle-bend/core/sampling';
import { framesShowing } from '@idle-bend/core/time-map';
import { useState } from 'react';
import { driftsOf } from './drifts.ts';
import { lately } from '../lately.ts';
import { makeDrag } from '../make-drag.ts';
import { CLIP_BOTTOM, CUE_Y } from '../reel/layout.ts';
import type { X } from '../reel/reel-view.ts';
import { activate, benchStore, select, type BenchClip } from '../../session/bench-state.ts';
import { drawnBy } from '../../ui/drawn-by.ts';
import { valuesOf, landingPlaces } from '../../session/bench-clip.ts';

/** The moments of a clip, each with its thread: dragged to a cue or a beat, it is tied there and lands. */
function ThreadsPart({ bench, x }: { bench: BenchClip; x: X }) {
  const drifts = driftsOf(bench);
  const shown = bench.source.moments.flatMap((moment) => {
    const drift = drifts.find((d) => d.moment.id === moment.id);
    // A cut inside a group lands when it is asked to, and is near nothing otherwise.
    if (isCutInside(moment) && !drift?.tied) return [];
    const at = drift
      ? drift.shownAt - bench.start
      : framesShowing(bench.clip.map, positionOfFrame(bench.source, moment.frame)).find((k) => k < bench.frames);
    return at === undefined ? [] : [{ moment, drift, at: bench.start + at }];
  });
  return (
    <g>
      {shown.map(({ moment, drift, at }) => (
        <Thread key={moment.id} bench={bench} moment={moment} drift={drift} at={at} x={x} />
      ))}
    </g>
  );
}

const land = lately(async () => (await import('./commands.ts')).landOn);

/** How near, in pixels, a cue or beat catches a thread. */
const CATCH_PIXELS = 12;

function targetNear({ project }: BenchClip, x: X, pixel: number): Target | undefined {
  const cues = project.reel.cues.map((cue): Target => ({ frame: cue.frame, cueId: cue.id }));
  const beats = reelBeats(project).map(({ frame, soundId, second }): Target => ({ frame, soundId, second }));
  const near = [...cues, ...beats].filter(({ frame }) => Math.abs(x(frame) - pixel) <= CATCH_PIXELS);
  return near.reduce<Target | undefined>(
    (best, each) => (!best || Math.abs(x(each.frame) - pixel) < Math.abs(x(best.frame) - pixel) ? each : best),
    undefined,
  );
}

interface ThreadProps {
  readonly bench: BenchClip;
  readonly moment: Moment;
  readonly drift: Drift | undefined;
  readonly at: number;
  readonly x: X;
}

/** From where a moment shows to its cue: straight and moss when it has landed, leaning and vermilion with its drift when not. */
function Thread({ bench, moment, drift, at, x }: ThreadProps) {
  const [pulled, setPulled] = useState<{
    readonly x: number;
    readonly y: number;
    readonly target: Target | undefined;
  }>();
  const clipId = bench.clip.id;
  const top = x(at);
  const colour = !drift ? 'var(--river)' : drift.landed ? 'var(--moss)' : 'var(--vermilion)';
  const middle = (CLIP_BOTTOM + CUE_Y) / 2;
  const bottom = drift && x(drift.cue.frame);
  // What the last move was near is kept by the drag: when the button is let go, that move may not have been drawn yet.
  const pull = makeDrag<{ readonly strip: DOMRect; target?: Target }>({
    hint: 'Ties the moment to a cue or a beat, and lands it there · Escape leaves it as it is',
    move: (pulling, { dx, dy, event }) => {
      const [toX, toY] = [event.clientX - pulling.strip.left, event.clientY - pulling.strip.top];
      const away = Math.hypot(dx, dy) >= 10;
      pulling.target = away && toY > CLIP_BOTTOM + 6 ? targetNear(bench, x, toX) : undefined;
      setPulled(away ? { x: toX, y: toY, target: pulling.target } : undefined);
    },
    done: ({ target }) => target && land(clipId, moment.id, target),
    over: () => setPulled(undefined),
  });
  const choose = () => {
    activate(clipId, benchStore.getState().activeId === clipId ? benchStore.getState().k : 0);
    select({ kind: 'moment', id: moment.id });
  };
  const [low, high] = x.range() as [number, number];
  if (top < low - 4 || top > high + 4) return null;
  return (
    <g
      className="cursor-pointer"
      data-moment={moment.id}
      onPointerDown={(event) => {
        if (event.button === 0) choose();
        pull({ strip: event.currentTarget.closest('svg')!.getBoundingClientRect() }).onPointerDown(event);
      }}
    >
      {bottom !== undefined && !pulled && (
        <path
          d={`M${top},${CLIP_BOTTOM}C${top},${middle} ${bottom},${middle} ${bottom},${CUE_Y - 4}`}
          fill="none"
          stroke={colour}
          strokeWidth={2}
          strokeDasharray={drift!.tied ? undefined : '3 3'}
        />
      )}
      {pulled && (
        <g pointerEvents="none">
          <path
            d={`M${top},${CLIP_BOTTOM}L${pulled.target ? x(pulled.target.frame) : pulled.x},${pulled.target ? CUE_Y : pulled.y}`}
            stroke="var(--moss)"
            strokeWidth={2}
          />
          {pulled.target && (
            <circle cx={x(pulled.target.frame)} cy={CUE_Y} r={6} fill="none" stroke="var(--moss)" strokeWidth={2} />
          )}
        </g>
      )}
      <circle
        cx={top}
        cy={CLIP_BOTTOM}
        r={4.5}
        fill={drift?.landed ? colour : 'var(--sheet)'}
        stroke={colour}
        strokeWidth={2}
      />
      <circle cx={top} cy={CLIP_BOTTOM} r={10} fill="transparent" />
      {bottom !== undefined && !pulled && (
        <text
          x={Math.max(top, bottom) + 8}
          y={CLIP_BOTTOM + 13}
          className="font-mono text-[11px] font-semibold"
          fill={colour}
        >
          {drift!.landed
            ? '0'
            : drift!.frames === 0
              ? 'between'
              : `${drift!.frames > 0 ? '+' : '−'}${Math.abs(drift!.frames)} f`}
        </text>
      )}
      <title>{moment.name}</title>
    </g>
  );
}

export const Threads = drawnBy(
  ({ bench }) => `threads ${bench.clip.id}`,
  ({ bench, x }) => [...valuesOf(bench), ...landingPlaces(bench.project), x],
  ThreadsPart,
);
