import { highRangeOf } from '@idle-bend/core/colour';
import { madeOf, nowOf, type Sample, type SimpleSample } from '@idle-bend/core/sampling';
import { lazy, Suspense, useRef, type PointerEvent } from 'react';
import { useCompared } from './use-compared.ts';
import { useFootage } from '../motion.ts';
import { four } from './four.ts';
import { holdPatch } from '../steady/commands.ts';
import { useFramingDrag } from '../framing/framing-drag.ts';
import { canDecode } from '../../preview/can-decode.ts';
import type { Origin } from '../../preview/messages.ts';
import { usePreview } from './use-preview.ts';
import { type BenchClip, type Shown } from '../../session/bench-state.ts';
import { useBench, useOriginal } from '../../ui/use-session.ts';

const GapPicture = lazy(async () => ({ default: (await import('./gap-picture.tsx')).GapPicture }));
const SafeAreas = lazy(async () => ({ default: (await import('./safe-areas.tsx')).SafeAreas }));
/** What may be laid over it. */
const marks = () => import('./marks.tsx');
const CompareMarks = lazy(async () => ({ default: (await marks()).CompareMarks }));
const LookMarks = lazy(async () => ({ default: (await marks()).LookMarks }));

/** What the picture is made of. */
function sampleWords({ sample, film, position: own, level }: Shown): string {
  const position = film?.position ?? own;
  if (film?.name) return `${film.name} · ${sampleWords({ sample, position, level, film: undefined } as Shown)}`;
  const quick = level && level !== 'default' ? ' · quick' : '';
  const now = nowOf(sample);
  const tail = `${blurWords(sample)}${quick}`;
  if (now.kind !== 'fade') return `${simpleWords(now, position)}${tail}`;
  const { from, to, share } = now;
  return `${simpleWords(from, position)} · ${Math.round(share * 100)} % ${to.kind === 'source' ? `held ${four(to.frame)}` : 'Mix'}${tail}`;
}

/** Over how much of the source the shutter is open. */
function blurWords(sample: Sample): string {
  const frames =
    sample.kind === 'shutter'
      ? sample.edges.at(-1)! - sample.edges[0]!
      : sample.kind === 'smear'
        ? sample.frames
        : undefined;
  return frames === undefined
    ? ''
    : ` · ${sample.kind === 'smear' ? 'smeared' : 'blurred'} over ${Math.abs(frames).toFixed(1)}`;
}

function simpleWords(sample: SimpleSample, position: number): string {
  if (sample.kind === 'black') return 'black · nothing here';
  if (sample.kind === 'source') {
    const whole = Math.abs(position - sample.frame) <= 1e-6;
    return whole ? `real · ${four(sample.frame)}` : `held · ${four(sample.frame)} stands for ${position.toFixed(2)}`;
  }
  return `made · ${Math.round(sample.fraction * 100)} % between ${four(sample.a)} and ${four(sample.b)}`;
}

/** Whether what is shown was brought from high dynamic to the standard range: it is then no render's picture. */
function useToneMapped(shown: Shown | undefined, { project }: BenchClip): boolean {
  const footage = useFootage();
  const { colour } = project.reel;
  return Boolean(
    (colour && highRangeOf(colour)) ||
    footage?.find(({ id }) => id === shown?.film?.sourceId)?.facts.picture?.highRange,
  );
}

const originWords = (origin: Origin) => {
  if (origin === 'proxy') return '';
  if (origin === 'original') return ' · decoded here';
  return ` · from the original${canDecode() ? ', no proxy yet' : ''}`;
};

/** Of the height beside the picture the transport keeps so much. */
const TRANSPORT_HEIGHT = 52;

/**
 * The frame at the playhead, on neutral grey, made as the render makes it; what it is made of is written on it.
 *
 * @param width of its place, where it is not over the whole window; tall pictures get no more height than wide ones
 */
export function Picture({ bench, width: place }: { bench: BenchClip; width: number }) {
  const isLarge = useBench((s) => s.isPictureLarge);
  const holder = useRef<HTMLDivElement>(null);
  const compare = useBench((s) => s.compare);
  const other = useCompared(bench);
  const problem = usePreview(holder, bench, other);
  const shown = useBench((s) => s.shown);
  const look = useBench((s) => s.look);
  const original = useOriginal();
  const gapAt = useBench((s) => s.gapAt);
  const inGap = gapAt !== undefined;
  const dropped = useBench((s) => s.dropped);
  const plays = useBench((s) => s.clock !== 0);
  const { width, height } = bench.project.reel;
  const framing = useFramingDrag(bench);
  const mapped = useToneMapped(shown, bench);
  const words =
    shown && !problem && !inGap
      ? `${sampleWords(shown)}${original ? ' · original, full size' : ''}${originWords(shown.origin)}${mapped ? ' · tone-mapped' : ''}${plays && dropped > 0 ? ` · ${dropped} left out` : ''}`
      : undefined;
  return (
    <div
      className={`bg-frame relative w-full overflow-hidden ${isLarge ? 'min-h-0 flex-1' : 'shrink-0'}`}
      style={
        isLarge
          ? {}
          : {
              aspectRatio: `${width} / ${height}`,
              maxHeight: `min(calc(100% - ${TRANSPORT_HEIGHT}px - var(--panel-room)), ${Math.max(290, Math.round((place * 9) / 16))}px)`,
            }
      }
      data-testid="picture"
      {...pictureFacts(shown)}
      data-dropped={dropped}
    >
      <div
        ref={holder}
        className={`h-full w-full ${framing ? 'cursor-move touch-none' : ''}`}
        data-testid="picture-itself"
        {...framing}
      />
      <PickPatch bench={bench} />
      {gapAt !== undefined && (
        <Suspense fallback={<div className="absolute inset-0 bg-black" />}>
          <GapPicture project={bench.project} frame={gapAt} />
        </Suspense>
      )}
      <Suspense>
        <SafeAreas project={bench.project} />
      </Suspense>
      {original && <Original key={original} address={original} />}
      <Suspense>
        {compare && other && <CompareMarks compare={compare} bench={bench} position={shown?.other} />}
        {shown && look !== 'picture' && !compare && !original && <LookMarks shown={shown} />}
      </Suspense>
      {words && !(look === 'neighbours' && shown && madeOf(shown.sample)) && (
        <p className="absolute bottom-2 left-2 max-w-[calc(100%-1rem)] rounded bg-black/65 px-2 py-0.5 font-mono text-xs font-semibold text-white">
          {words}
        </p>
      )}
      {!shown && !problem && (
        <p className="absolute inset-0 grid place-items-center text-sm text-white/70">Opening the preview…</p>
      )}
      {problem && (
        <p role="alert" className="absolute inset-x-3 bottom-3 rounded bg-black/80 px-3 py-2 text-sm text-white">
          The preview cannot show this frame: {problem}.
        </p>
      )}
    </div>
  );
}

/** Over the picture while a patch is to be chosen: a press chooses the one about it. It is there at once, or the press would go through. */
function PickPatch({ bench }: { bench: BenchClip }) {
  const picking = useBench((s) => s.picking);
  if (!picking) return null;
  const { width, height } = bench.project.reel;
  const pick = (event: PointerEvent<HTMLDivElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    // The reel's picture lies in the middle of the box, as large as fits in.
    const scale = Math.min(box.width / width, box.height / height);
    const x = (event.clientX - box.left - box.width / 2) / (scale * width);
    const y = (event.clientY - box.top - box.height / 2) / (scale * width);
    if (Math.abs(x) <= 0.5) void holdPatch(bench, { x, y }, picking.keeps, picking.aspect);
  };
  return (
    <div className="absolute inset-0 cursor-crosshair" data-testid="pick-patch" onPointerDown={pick}>
      <span className="absolute top-2 left-2 rounded bg-black/65 px-2 py-0.5 text-xs text-white">
        Press on what is to stand still
      </span>
    </div>
  );
}

/** The frame as the server renders it, from the originals; until it is here the preview stays in sight. */
function Original({ address }: { address: string }) {
  return (
    <img
      src={address}
      alt="This frame made from the original at full size"
      className="absolute inset-0 h-full w-full object-contain"
    />
  );
}

/** What is on screen, as attributes: for tests and for anything else that needs to know without reading pixels. */
const pictureFacts = (shown: Shown | undefined) =>
  shown && {
    'data-frame': shown.k,
    'data-position': shown.position,
    'data-fingerprint': shown.fingerprint,
    'data-level': shown.level,
    'data-milliseconds': shown.milliseconds.toFixed(1),
  };
