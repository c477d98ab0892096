import { InvalidInput } from '@idle-bend/core/foundation';
import { isGroup, type MendWay, type Project } from '@idle-bend/core/model';
import { interpolationOf } from '@idle-bend/core/reel';
import { byDoubt, speedThrough, mendSpot, type RoughSpot } from '@idle-bend/core/rough';
import { usesFlow } from '@idle-bend/core/sampling';
import { FastForward, Snowflake } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { useProgress } from '../../shell/use-server-events.ts';
import { useMotion, useRoughSpots } from '../motion.ts';
import { useFrameThumbs } from '../picture/thumbs.ts';
import { edit } from '../../session/session.ts';
import { goTo, type BenchClip } from '../../session/bench-state.ts';
import { attempt, newId } from '../../session/command.ts';
import { useBench } from '../../ui/use-session.ts';

const FIRST = 3;

/** Where Flow is likely to tear or smear, most doubtful first, each with the two real frames of its worst place and what would mend it. */
export function RoughList({ bench }: { bench: BenchClip }) {
  const [all, setAll] = useState(false);
  const { motion, failed } = useMotion(bench.clip.sourceId);
  const spots = byDoubt(useRoughSpots(bench));
  const shown = all ? spots : spots.slice(0, FIRST);
  const thumb = useFrameThumbs(
    bench.source.id,
    shown.flatMap(({ worst: { a, b } }) => [a, b]),
  );
  if (!usesFlow(interpolationOf(bench.project, bench.clip))) return null;
  if (isGroup(bench.source))
    return <p className="text-faint text-[13px]">Open the group to see the rough spots of its clips.</p>;
  if (!motion) return <Looking sourceId={bench.source.id} failed={failed} />;
  if (spots.length === 0)
    return (
      <p className="text-moss text-[13px]">No rough spots: every in-between of this clip is likely to look right.</p>
    );
  return (
    <div>
      <span className="label">
        {spots.length === 1 ? 'One rough spot' : `${spots.length} rough spots`}: Flow is likely to tear or smear{' '}
        {spots.length === 1 ? 'there' : 'in them'}
      </span>
      <ul className="flex flex-col gap-1.5" aria-label="Rough spots">
        {shown.map((spot) => (
          <Entry key={`${spot.from} ${spot.to}`} bench={bench} spot={spot} thumb={thumb} />
        ))}
      </ul>
      {spots.length > FIRST && (
        <button className="text-faint hover:text-ink mt-0.5 text-xs" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? 'only the worst' : `and ${spots.length - FIRST} more`}
        </button>
      )}
    </div>
  );
}

function Looking({ sourceId, failed }: { sourceId: string; failed: boolean }) {
  const progress = useProgress((s) => s.of[`motion ${sourceId}`]);
  const share = progress && progress.total > 0 ? ` ${Math.round((100 * progress.done) / progress.total)} %` : '';
  return (
    <p className="text-faint text-[13px]">
      {failed
        ? 'The motion of this footage could not be looked at, so rough spots are not known.'
        : `Looking for rough spots…${share}`}
    </p>
  );
}

/** Why a spot cannot be hurried through, in a sentence; nothing where it can. */
function whyNoHurry(project: Project, clipId: string, spot: RoughSpot): string | undefined {
  try {
    speedThrough(project, clipId, spot);
    return undefined;
  } catch (error) {
    if (error instanceof InvalidInput) return error.message;
    throw error;
  }
}

function Entry({
  bench,
  spot,
  thumb,
}: {
  bench: BenchClip;
  spot: RoughSpot;
  thumb: (frame: number) => ImageBitmap | undefined;
}) {
  const { clip, frames } = bench;
  const mend = (way: MendWay) => edit((project) => mendSpot(project, clip.id, spot, way, newId('mend')));
  const whyNot = useMemo(() => whyNoHurry(bench.project, clip.id, spot), [bench.project, clip.id, spot]);
  const hurry = () => attempt(() => edit((project) => speedThrough(project, clip.id, spot)));
  const middle = Math.round((spot.from + spot.to) / 2);
  const here = useBench((s) => s.k >= spot.from && s.k <= spot.to);
  const where = spot.from === spot.to ? `Frame ${spot.from}` : `Frames ${spot.from}–${spot.to}`;
  return (
    <li className={`bg-sheet rounded-lg border px-2 py-1.5 ${here ? 'border-vermilion' : 'border-line'}`}>
      <button
        className="flex w-full items-center gap-2 text-left"
        aria-label={`Go to ${where}`}
        onClick={() => goTo(middle, frames)}
      >
        <Thumb picture={thumb(spot.worst.a)} />
        <Thumb picture={thumb(spot.worst.b)} />
        <span className="min-w-0 flex-1 text-xs">
          <span className="block font-semibold">{where}</span>
          <span className="text-faint block font-mono">
            {spot.frames} made · source {spot.sourceFrom}–{spot.sourceTo}
          </span>
          <span className="text-vermilion block font-mono">
            {Math.round(spot.confidence * 100)} % sure at {spot.worst.a}
          </span>
        </span>
      </button>
      <div className="mt-1.5 flex gap-1.5">
        <span data-tip={whyNot ?? 'One source frame to a frame: none of it is made; the parts beside it take the time'}>
          <button
            className="button px-2 py-0.5 text-xs disabled:pointer-events-none"
            disabled={whyNot !== undefined}
            onClick={hurry}
          >
            <FastForward size={13} aria-hidden /> Hurry through
          </button>
        </span>
        <button
          className="button px-2 py-0.5 text-xs"
          data-tip="Blend there, softly handed over"
          onClick={() => mend('mix')}
        >
          Mix there
        </button>
        <button
          className="button px-2 py-0.5 text-xs"
          data-tip="Hold frames there, softly handed over"
          onClick={() => mend('step')}
        >
          Step there
        </button>
        <button
          className="button px-2 py-0.5 text-xs"
          data-tip="Hold the frame before it, then go on"
          onClick={() => mend('hold')}
        >
          <Snowflake size={13} aria-hidden /> Freeze
        </button>
      </div>
    </li>
  );
}

function Thumb({ picture }: { picture: ImageBitmap | undefined }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (picture)
      canvas.current?.getContext('2d')?.drawImage(picture, 0, 0, canvas.current.width, canvas.current.height);
  }, [picture]);
  return (
    <canvas
      ref={canvas}
      width={picture?.width ?? 192}
      height={picture?.height ?? 108}
      aria-hidden
      className="bg-frame h-12 w-auto rounded"
    />
  );
}
