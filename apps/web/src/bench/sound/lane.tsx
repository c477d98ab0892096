import { fixedFrom, movedBeat, nearestBeat } from '@idle-bend/core/beats';
import { setBeats, updateSound } from '@idle-bend/core/edit';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { BeatGrid, Project, Sound } from '@idle-bend/core/model';
import { frameOfSecond, secondOfFrame } from '@idle-bend/core/reel';
import { framesPerSecond } from '@idle-bend/core/time';
import { useState, type PointerEvent } from 'react';
import { useProgress } from '../../shell/use-server-events.ts';
import { useSoundFootage } from './use-sounds.ts';
import { makeDrag } from '../make-drag.ts';
import { caughtFrame } from '../reel/catch.ts';
import { CUE_Y, LANE, laneTop } from '../reel/layout.ts';
import { EDGE, type X } from '../reel/reel-view.ts';
import { editDuringGesture } from '../../session/session.ts';
import { select } from '../../session/bench-state.ts';
import { goToFrame } from '../../session/command.ts';
import { useBench } from '../../ui/use-session.ts';
import { drawnBy } from '../../ui/drawn-by.ts';

/** How near, in pixels, a beat is taken hold of. */
const NEAR_BEAT = 5;

/** A sound under the reel: dragged to another time, trimmed at its edges; its beats are dragged on the line above it. */
function SoundLanePart({ project, sound, lane, x }: { project: Project; sound: Sound; lane: number; x: X }) {
  const chosen = useBench((s) => s.selection.kind === 'sound' && s.selection.id === sound.id);
  const media = useSoundFootage(sound.footageId);
  const progress = useProgress((s) => s.of[`sound ${sound.footageId}`]);
  const drags = soundDrags(project, sound, x);
  const [low, high] = x.range() as [number, number];
  const left = Math.max(low - EDGE, x(frameOfSecond(project, sound, sound.fromSeconds)));
  const right = Math.min(high + EDGE, x(frameOfSecond(project, sound, sound.toSeconds)));
  if (right <= left) return null;
  const top = laneTop(lane);
  const state =
    media?.sound === 'waiting'
      ? progress
        ? `listening, ${Math.round((100 * progress.done) / progress.total)} %`
        : 'listening…'
      : media?.sound === 'failed'
        ? 'could not be listened to'
        : undefined;
  return (
    <g data-sound={sound.id}>
      <rect
        x={left}
        y={top + 1}
        width={right - left}
        height={LANE - 2}
        rx={5}
        fill="var(--brass-pale)"
        fillOpacity={chosen ? 0.35 : 0.14}
        stroke={chosen ? 'var(--brass)' : 'var(--brass-pale)'}
        className="cursor-grab"
        data-testid={`sound-${sound.id}`}
        {...drags.whole}
      />
      <text x={left + 8} y={top + 13} className="fill-brass pointer-events-none font-mono text-[11px] font-semibold">
        {sound.name}
        {state && (
          <tspan dx={8} className="fill-faint font-normal">
            {state}
          </tspan>
        )}
      </text>
      {(['from', 'to'] as const).map((side) => (
        <rect
          key={side}
          x={side === 'from' ? left - 2 : right - 5}
          y={top}
          width={7}
          height={LANE}
          fill="transparent"
          className="hover:fill-brass cursor-ew-resize"
          fillOpacity={0.4}
          {...drags.edge(side)}
        />
      ))}
      {sound.beats && (
        <BeatHandles project={project} sound={sound} beats={sound.beats} lane={lane} x={x} left={left} right={right} />
      )}
    </g>
  );
}

function soundDrags(project: Project, sound: Sound, x: X) {
  const pixel = x(1) - x(0);
  const fps = framesPerSecond(project.reel.rate);
  // As it was when the drag began.
  const begun = (before: Project) => before.reel.sounds.find(({ id }) => id === sound.id)!;
  const whole = makeDrag<undefined>({
    hint: 'Moves the sound, its beats and the cues on them · Alt lets go of cuts and frames',
    move: (_, { dx, event }) => {
      editDuringGesture((before) => {
        const frame = begun(before).startSeconds * fps + dx / pixel;
        return updateSound(before, sound.id, {
          startSeconds: (event.altKey ? frame : caughtBySound(before, begun(before), frame, pixel)) / fps,
        });
      });
    },
  });
  const edge = makeDrag<'from' | 'to'>({
    hint: 'Trims the sound; what is heard stays where it is · Alt lets go of cuts and frames',
    move: (side, { dx, event }) => {
      editDuringGesture((before) => {
        const {
          startSeconds: start,
          fromSeconds: first,
          toSeconds: last,
          fadeInSeconds: fadeIn,
          fadeOutSeconds: fadeOut,
        } = begun(before);
        const dragged = (side === 'from' ? start : start + last - first) * fps + dx / pixel;
        const at = (event.altKey ? dragged : caughtFrame(before, dragged, pixel)) / fps;
        const fades = (seconds: number) => ({
          fadeInSeconds: Math.min(fadeIn, seconds / 2),
          fadeOutSeconds: Math.min(fadeOut, seconds / 2),
        });
        if (side === 'to') {
          const to = Math.max(first + 0.1, first + (at - start));
          return updateSound(before, sound.id, { toSeconds: to, ...fades(to - first) });
        }
        const from = Math.max(0, Math.min(last - 0.1, first + (at - start)));
        return updateSound(before, sound.id, {
          fromSeconds: from,
          startSeconds: start + (from - first),
          ...fades(last - from),
        });
      });
    },
  });
  const handlers = whole(undefined);
  return {
    edge,
    whole: {
      ...handlers,
      onPointerDown: (event: PointerEvent) => {
        handlers.onPointerDown(event);
        select({ kind: 'sound', id: sound.id });
      },
    },
  };
}

/** A sound is caught by its beginning, and by its first beat of a bar. */
function caughtBySound(project: Project, sound: Sound, frame: number, pixel: number): number {
  const begin = caughtFrame(project, frame, pixel);
  if (begin !== Math.round(frame) || !sound.beats) return begin;
  const first = sound.beats.times[sound.beats.bar.first];
  if (first === undefined || first < sound.fromSeconds) return begin;
  const ahead = (first - sound.fromSeconds) * framesPerSecond(project.reel.rate);
  const cuts = caughtFrame({ ...project, reel: { ...project.reel, sounds: [] } }, frame + ahead, pixel);
  return cuts === Math.round(frame + ahead) ? begin : cuts - ahead;
}

interface HandlesProps {
  readonly project: Project;
  readonly sound: Sound;
  readonly beats: BeatGrid;
  readonly lane: number;
  readonly x: X;
  readonly left: number;
  readonly right: number;
}

/** The line beats stand on: a beat is dragged, and its neighbours follow; with Shift all after it. A press goes there. */
function BeatHandles({ project, sound, beats, lane, x, left, right }: HandlesProps) {
  const [near, setNear] = useState<number>();
  const pixel = x(1) - x(0);
  const fps = framesPerSecond(project.reel.rate);
  const beatAt = (event: PointerEvent) => {
    const at = event.clientX - event.currentTarget.closest('svg')!.getBoundingClientRect().left;
    const i = nearestBeat(beats.times, secondOfFrame(project, sound, x.invert(at)));
    return i >= 0 && Math.abs(x(frameOfSecond(project, sound, beats.times[i]!)) - at) <= NEAR_BEAT ? i : undefined;
  };
  const drag = makeDrag<number>({
    hint: 'Moves the beat, its neighbours follow · Shift: everything after it as well',
    move: (i, { dx, event }) => {
      const second = beats.times[i]! + dx / pixel / fps;
      try {
        editDuringGesture((before) =>
          setBeats(before, sound.id, (event.shiftKey ? fixedFrom : movedBeat)(beats, i, second)),
        );
      } catch (error) {
        // Dragged onto the next beat: it stays where it last could be.
        if (!(error instanceof InvalidInput)) throw error;
      }
    },
  });
  const y = lane === 0 ? CUE_Y - 8 : laneTop(lane) - 4;
  return (
    <rect
      x={left}
      y={y}
      width={right - left}
      height={16}
      fill="transparent"
      className={near === undefined ? undefined : 'cursor-ew-resize'}
      data-testid={`beats-${sound.id}`}
      onPointerMove={(event) => setNear(beatAt(event))}
      onPointerDown={(event) => {
        const i = beatAt(event);
        if (i === undefined || event.button !== 0) return;
        event.stopPropagation();
        select({ kind: 'sound', id: sound.id });
        goToFrame(frameOfSecond(project, sound, beats.times[i]!));
        drag(i).onPointerDown(event);
      }}
    />
  );
}

export const SoundLane = drawnBy(
  ({ sound }) => `sound ${sound.id}`,
  ({ project, sound, lane, x }) => [project.reel.rate, sound, lane, x],
  SoundLanePart,
);
