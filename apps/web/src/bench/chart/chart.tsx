import { clipFrameCount, usableFrames } from '@idle-bend/core/sampling';
import { lazy, Suspense, useMemo, useRef, type MouseEvent, type PointerEvent } from 'react';
import { pickRange } from '../speed/range-commands.ts';
import { openChartMenu } from '../menu/open-menu.ts';
import { useSize } from '../../ui/use-size.ts';
import { Curve } from './curve.tsx';
import { Filmstrip } from './filmstrip.tsx';
import { InBetweens } from '../between/in-betweens.tsx';
import { LandingRings } from '../landing/rings.tsx';
import { Lenses } from './lenses.tsx';
import { LEFT, placesOf, TOP } from './places.ts';
import { PointerReadout } from './pointer-readout.tsx';
import { Playhead } from './playhead.tsx';
import { RangeBand } from './range-band.tsx';
import { Speed } from './speed.tsx';
import { MomentLines, TimeLines } from './time-lines.tsx';
import { benchClip, benchStore, goTo, select, type BenchClip } from '../../session/bench-state.ts';
import { bendHere } from '../clip/commands.ts';
import { useBench, useProject } from '../../ui/use-session.ts';

/** After the chart: advice, and what may be marked, are looked for once all is drawn. */
const AdviceMarkers = lazy(async () => ({ default: (await import('../between/advice-markers.tsx')).AdviceMarkers }));
const OtherLandingCurve = lazy(async () => ({
  default: (await import('../landing/other-landing.tsx')).OtherLandingCurve,
}));
const FoundMarks = lazy(async () => ({ default: (await import('../landing/found-marks.tsx')).FoundMarks }));

const ProxyLine = lazy(async () => ({ default: (await import('./proxy-line.tsx')).ProxyLine }));

/** What landing would do is worked out when nothing else is. */
const LandingGhosts = lazy(async () => ({
  default: (await import('../landing/landing-ghosts.tsx')).LandingGhosts,
}));

/** The working surface: timeline across, source up, and under it bends, in-betweens and speed on the same scale. */
export function Chart({ bench }: { bench: BenchClip }) {
  const { ref, width, height } = useSize<HTMLDivElement>();
  return (
    <div ref={ref} className="relative min-h-0 flex-1 overflow-hidden">
      {width > 0 && <ChartDrawing bench={bench} width={width} height={height} />}
    </div>
  );
}

/** The timeline frame the pointer is over, while it is over the clip. */
const pointed = (t: number, frames: number) => (t >= -0.5 && t < frames ? Math.max(0, Math.round(t)) : undefined);

/** While a drag holds the scales, the map they are made for is the one the drag began with. */
function useScaleMap({ clip }: BenchClip) {
  const held = useBench((s) => s.scalesHeld);
  const start = useProject((s) => s.gestureStart);
  return held && start ? (benchClip(start)?.clip.map ?? clip.map) : clip.map;
}

function ChartDrawing({ bench, width, height }: { bench: BenchClip; width: number; height: number }) {
  const { clip, source, frames } = bench;
  const scaleMap = useScaleMap(bench);
  const usable = usableFrames(source);
  const places = useMemo(
    () => placesOf(scaleMap, clipFrameCount(scaleMap, usable), usable, width, height),
    [scaleMap, usable, width, height],
  );
  const hasOther = useBench((s) => s.otherWay !== undefined);
  const { x } = places.scales;
  const frameAt = (event: MouseEvent<SVGSVGElement>) =>
    x.invert(event.clientX - event.currentTarget.getBoundingClientRect().left);
  const picking = useRef<number | undefined>(undefined);
  const scrub = (event: PointerEvent<SVGSVGElement>) => {
    benchStore.setState({ clock: 0 });
    goTo(frameAt(event), frames);
    if (picking.current !== undefined) pickRange(picking.current, frameAt(event), frames);
  };
  return (
    <svg
      width={width}
      height={height}
      className="block touch-none select-none"
      role="group"
      aria-label={`Chart of ${clip.name}: timeline across, source up`}
      onPointerDown={(e) => {
        if (e.button !== 0 || x(frameAt(e)) < LEFT - 6) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        // With Shift a drag picks a range.
        picking.current = e.shiftKey ? frameAt(e) : undefined;
        select({ kind: 'clip' });
        scrub(e);
      }}
      onPointerMove={(e) => {
        benchStore.setState({ pointerAt: pointed(frameAt(e), frames) });
        if (e.buttons === 1 && e.currentTarget.hasPointerCapture(e.pointerId)) scrub(e);
      }}
      onPointerLeave={() => benchStore.setState({ pointerAt: undefined })}
      onDoubleClick={(e) => bendHere(Math.round(frameAt(e)))}
      onContextMenu={(e) => openChartMenu(e, frameAt(e), frames)}
    >
      <Filmstrip bench={bench} places={places} />
      <Suspense>
        <ProxyLine bench={bench} places={places} />
      </Suspense>
      <rect
        x={LEFT}
        y={TOP}
        width={places.right - LEFT}
        height={places.chartBottom - TOP}
        fill="var(--paper)"
        stroke="var(--line)"
      />
      <RangeBand places={places} />
      <TimeLines bench={bench} places={places} />
      <MomentLines bench={bench} places={places} />
      <InBetweens bench={bench} places={places} />
      {places.speedBottom > places.speedTop && <Speed bench={bench} places={places} />}
      <Suspense>
        <FoundMarks bench={bench} places={places} />
      </Suspense>
      <Suspense>{hasOther && <OtherLandingCurve bench={bench} places={places} />}</Suspense>
      <Curve bench={bench} places={places} />
      <Suspense>
        <LandingGhosts bench={bench} places={places} />
      </Suspense>
      <LandingRings bench={bench} places={places} />
      <Suspense>
        <AdviceMarkers bench={bench} places={places} />
      </Suspense>
      <Lenses bench={bench} places={places} />
      <PointerReadout bench={bench} places={places} />
      <Playhead bench={bench} places={places} />
    </svg>
  );
}
