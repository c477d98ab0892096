import { moveItem, slipClip, stretchClip, trimEnd, trimStart } from '@idle-bend/core/edit';
import { isCutInside } from '@idle-bend/core/group';
import { isGroup, type Project } from '@idle-bend/core/model';
import { BESIDE_CUT, SAME_WAY, sideMotion, turn, type SideMotion } from '@idle-bend/core/motion';
import { placeItems, placeOf } from '@idle-bend/core/reel';
import { framesShowing, speedRange } from '@idle-bend/core/time-map';
import { useMemo, type PointerEvent } from 'react';
import { openHere } from '../group/commands.ts';
import { MotionSign } from '../motion-sign.tsx';
import { useMotion, useRoughSpots } from '../motion.ts';
import { speedWords } from '../speed/speed-words.ts';
import { lately } from '../lately.ts';
import { makeDrag } from '../make-drag.ts';
import { caughtFrame } from './catch.ts';
import { CLIP_BOTTOM, CLIP_TOP, HEAD } from './layout.ts';
import type { X } from './reel-view.ts';
import { editDuringGesture, projectStore } from '../../session/session.ts';
import { benchStore, goToReelFrame, select, type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';
import { drawnBy } from '../../ui/drawn-by.ts';
import { valuesOf } from '../../session/bench-clip.ts';

/** Narrower than this, in pixels, a clip has room for nothing but itself. */
export const NARROW = 16;

/** A clip too narrow for a name, for edges and marks: a press goes there. */
function NarrowBlockPart({ bench, x, active }: { bench: BenchClip; x: X; active: boolean }) {
  const { clip, start, frames } = bench;
  const width = Math.max(1.5, x(start + frames) - x(start));
  return (
    <g data-clip={clip.id} onPointerDown={() => select({ kind: 'clip' })}>
      <rect
        x={x(start)}
        y={CLIP_TOP}
        width={width}
        height={CLIP_BOTTOM - CLIP_TOP}
        fill={active ? 'var(--river-pale)' : 'var(--shoal)'}
        stroke={active ? 'var(--river)' : 'var(--line)'}
      />
      <RetimedLine bench={bench} left={x(start)} width={width} />
    </g>
  );
}

/** Under the name of a clip that runs otherwise than at 100 % throughout, at any width. */
function RetimedLine({ bench: { clip, slope }, left, width }: { bench: BenchClip; left: number; width: number }) {
  const { slowest, fastest } = speedRange(clip.map, slope);
  if (Math.abs(slowest - 1) < 1e-9 && Math.abs(fastest - 1) < 1e-9) return null;
  return (
    <rect
      x={left}
      y={CLIP_TOP + HEAD - 3}
      width={width}
      height={2}
      fill="var(--river)"
      pointerEvents="none"
      data-testid="retimed"
    />
  );
}

/** A clip on the reel: its edges trim it, or stretch it; its name moves it; the rest goes through time, or slips its content. */
function ClipBlockPart({ bench, x, active }: { bench: BenchClip; x: X; active: boolean }) {
  const picked = useBench((s) => s.picked.includes(bench.clip.id));
  const { clip, start, frames, source, slope } = bench;
  const { map } = clip;
  const left = x(start);
  const width = Math.max(2, x(start + frames) - left);
  const drags = clipDrags(bench, x);
  const words = speedWords(speedRange(map, slope));
  return (
    <g
      onPointerDown={() => select({ kind: 'clip' })}
      onDoubleClick={isGroup(source) ? openHere : undefined}
      data-clip={clip.id}
    >
      <rect
        x={left}
        y={CLIP_TOP}
        width={width}
        height={CLIP_BOTTOM - CLIP_TOP}
        rx={Math.min(7, width / 3)}
        fill={active || picked ? 'var(--river-pale)' : 'var(--shoal)'}
        fillOpacity={active || picked ? 0.35 : 0.25}
        stroke={active || picked ? 'var(--river)' : 'var(--line)'}
        strokeWidth={active ? 1.8 : 1.2}
        strokeDasharray={picked && !active ? '5 3' : undefined}
      />
      <RetimedLine bench={bench} left={left} width={width} />
      <RoughMarks bench={bench} x={x} />
      <GroupMarks bench={bench} x={x} />
      {width > 64 && <WaysAlong bench={bench} left={left} width={width} />}
      <rect
        x={left}
        y={CLIP_TOP + HEAD}
        width={width}
        height={CLIP_BOTTOM - CLIP_TOP - HEAD}
        fill="transparent"
        {...drags.body}
      />
      <rect
        x={left}
        y={CLIP_TOP}
        width={width}
        height={HEAD}
        fill="transparent"
        className="cursor-grab"
        data-testid={`move-${clip.id}`}
        {...drags.move}
      />
      {width > 30 && <BlockName name={clip.name} speeds={words} left={left + 8} room={width - 14} />}
      {clip.pin !== null && <Pin at={left} />}
      {width > 18 &&
        (['start', 'end'] as const).map((side) => (
          <rect
            key={side}
            x={side === 'start' ? left - 1 : left + width - 6}
            y={CLIP_TOP}
            width={7}
            height={CLIP_BOTTOM - CLIP_TOP}
            fill="transparent"
            className="hover:fill-river cursor-ew-resize"
            fillOpacity={0.35}
            data-testid={`trim-${side}-${clip.id}`}
            {...drags.trim(side)}
          />
        ))}
      <title>{`${clip.name}, of ${source.name}: ${words}`}</title>
    </g>
  );
}

/** Signs along a clip are no closer than this, in pixels. */
const SIGN_ROOM = 72;

/** How the picture moves where the clip begins, where it ends, and between them wherever it goes another way. */
function WaysAlong({
  bench: { project, clip, frames },
  left,
  width,
}: {
  bench: BenchClip;
  left: number;
  width: number;
}) {
  const { motion } = useMotion(clip.sourceId);
  const parts = Math.max(1, Math.floor((width - 26) / SIGN_ROOM));
  const ways = useMemo(() => {
    if (!motion) return [];
    const last = Math.max(0, frames - BESIDE_CUT);
    const found = Array.from({ length: parts + 1 }, (_, i) => {
      const from = Math.round((last * i) / parts);
      return { share: i / parts, way: sideMotion(project, clip, motion, from, from + BESIDE_CUT) };
    });
    return found.filter(({ way }, i) => way && (i === 0 || i === parts || !alike(way, found[i - 1]!.way)));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- of the project only the clip and its source matter
  }, [clip, frames, motion, parts, project.sources]);
  return (
    <g pointerEvents="none">
      {ways.map(({ share, way }) => (
        <MotionSign key={share} motion={way!} x={left + 13 + share * (width - 26)} y={CLIP_TOP + HEAD + 7} />
      ))}
    </g>
  );
}

const alike = (a: SideMotion, b: SideMotion | undefined): boolean =>
  a.kind === b?.kind &&
  (a.degrees === undefined ? a.perFrame * b.perFrame >= 0 : turn(a.degrees, b.degrees!) <= SAME_WAY);

/** A group has a second edge behind it, and its inner cuts as dashes. */
function GroupMarks({ bench: { source, clip, start, frames }, x }: { bench: BenchClip; x: X }) {
  if (!isGroup(source)) return null;
  const [left, right] = [x(start), x(start + frames)];
  const inner = source.moments.filter(isCutInside).flatMap(({ frame }) => framesShowing(clip.map, frame));
  return (
    <g pointerEvents="none" data-testid="group-marks">
      <path d={`M${left + 5},${CLIP_TOP - 2.5}H${right - 5}`} stroke="var(--river)" strokeWidth={1.6} />
      <path
        d={inner.map((k) => `M${x(start + k).toFixed(1)},${CLIP_TOP + HEAD + 2}V${CLIP_BOTTOM - 2}`).join('')}
        stroke="var(--river)"
        strokeWidth={1.2}
        strokeDasharray="3 3"
      />
    </g>
  );
}

/** Marks a cut that stays on its cue. */
function Pin({ at }: { at: number }) {
  return (
    <g pointerEvents="none">
      <path d={`M${at},${CLIP_TOP - 2}l-4.5,-6h9z`} fill="var(--brass)" />
      <line x1={at} x2={at} y1={CLIP_TOP - 2} y2={CLIP_BOTTOM + 2} stroke="var(--brass)" strokeWidth={2} />
    </g>
  );
}

const offer = lately(async () => (await import('../landing/commands.ts')).offerAlike);

function clipDrags({ clip, start, slope }: BenchClip, x: X) {
  const pixel = x(1) - x(0);
  let stretched: { readonly before: Project; readonly frames: number } | undefined;
  const trim = makeDrag<'start' | 'end'>({
    hint: 'Trims: what comes after follows · Shift stretches, so that the speed follows · Alt lets go of cues and beats',
    move: (side, { dx, event }) => {
      editDuringGesture((before) => {
        // As it was when the drag began.
        const { start, frames } = placeOf(before, clip.id)!;
        const moved = (side === 'end' ? start + frames : start) + dx / pixel;
        const to = event.altKey ? Math.round(moved) : caughtFrame(before, moved, pixel, clip.id);
        if (side === 'start') return trimStart(before, clip.id, to - start);
        const length = Math.max(1, to - start);
        stretched = event.shiftKey ? { before, frames: length } : undefined;
        return event.shiftKey ? stretchClip(before, clip.id, length) : trimEnd(before, clip.id, length);
      });
    },
    done: () => {
      if (stretched) offer(clip.id, stretched.frames, stretched.before);
      stretched = undefined;
    },
  });
  const move = makeDrag<undefined>({
    hint: 'Moves the clip to another place on the reel',
    move: (_, { dx }) =>
      editDuringGesture((before) => {
        const { start, frames } = placeOf(before, clip.id)!;
        return moveItem(before, clip.id, placeAt(before, clip.id, start + frames / 2 + dx / pixel));
      }),
  });
  const body = makeDrag<undefined>({
    hint: 'Slips what the clip shows under its curve',
    move: (_, { dx }) => editDuringGesture((before) => slipClip(before, clip.id, -Math.round((dx / pixel) * slope))),
  });
  const slip = body(undefined);
  return {
    trim: (side: 'start' | 'end') => trim(side),
    move: withPress(move(undefined), () => (benchStore.getState().activeId === clip.id ? undefined : start)),
    // Only with Alt: a plain press goes through time.
    body: {
      ...slip,
      onPointerDown: (event: Parameters<typeof slip.onPointerDown>[0]) => event.altKey && slip.onPointerDown(event),
    },
  };
}

/** A press on a clip's name brings it, and no other, to the bench, before it is dragged anywhere. */
function withPress<T extends { onPointerDown: (event: PointerEvent) => void }>(
  handlers: T,
  target: () => number | undefined,
): T {
  return {
    ...handlers,
    onPointerDown: (event: PointerEvent) => {
      if (event.button !== 0 || event.ctrlKey || event.metaKey) return;
      handlers.onPointerDown(event);
      benchStore.setState({ picked: [] });
      select({ kind: 'clip' });
      const frame = target();
      const project = projectStore.getState().document;
      if (frame !== undefined && project) goToReelFrame(project, frame);
    },
  };
}

/** The place on the reel whose middle a frame is nearest to. */
function placeAt(project: Project, clipId: string, frame: number): number {
  const others = placeItems(project).filter(({ item }) => item.id !== clipId);
  return others.filter(({ start, frames }) => start + frames / 2 < frame).length;
}

/** A wavy line at the clip's foot wherever Flow is likely to tear or smear. */
function RoughMarks({ bench, x }: { bench: BenchClip; x: X }) {
  const spots = useRoughSpots(bench);
  if (spots.length === 0) return null;
  const path = spots
    .map(({ from, to }) => {
      const [left, right] = [x(bench.start + from), Math.max(x(bench.start + to + 1), x(bench.start + from) + 8)];
      const waves = Math.max(2, Math.round((right - left) / 4));
      const wave = Array.from(
        { length: waves },
        (_, i) => `l${((right - left) / waves).toFixed(2)},${i % 2 ? 4 : -4}`,
      ).join('');
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
    <text x={left} y={CLIP_TOP + 14} className="fill-ink pointer-events-none font-mono text-[11px] font-semibold">
      {shown}
      {both && (
        <tspan dx={8} className="fill-faint font-normal">
          {speeds}
        </tspan>
      )}
    </text>
  );
}

export const ClipBlock = drawnBy(
  ({ bench }) => `clip ${bench.clip.id}`,
  ({ bench, x, active }) => [...valuesOf(bench), x, active],
  ClipBlockPart,
);

export const NarrowBlock = drawnBy(
  ({ bench }) => `clip ${bench.clip.id}`,
  ({ bench: { clip, start, frames, slope }, x, active }) => [clip, start, frames, slope, x, active],
  NarrowBlockPart,
);
