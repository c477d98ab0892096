import type { Gap } from '@idle-bend/core/model';
import { lazy, Suspense, type ReactNode } from 'react';
import type { Selection, SelectionOf } from '../session/selections.ts';
import { ClipPanel } from './clip/clip-panel.tsx';
import { type BenchClip, validSelection } from '../session/bench-state.ts';
import { useBench } from '../ui/use-session.ts';

/** A panel is loaded when it is asked for first; the clip's comes with the bench. */
const ManyPanel = lazy(async () => ({ default: (await import('./many/panel.tsx')).ManyPanel }));
const LandingsPanel = lazy(async () => ({ default: (await import('./landing/panel.tsx')).LandingsPanel }));
const LayPanel = lazy(async () => ({ default: (await import('./lay/panel.tsx')).LayPanel }));
const CuePanel = lazy(async () => ({ default: (await import('./landing/mark-panels.tsx')).CuePanel }));
const MomentPanel = lazy(async () => ({ default: (await import('./landing/mark-panels.tsx')).MomentPanel }));
const AccentsPanel = lazy(async () => ({ default: (await import('./accent/panel.tsx')).AccentsPanel }));
const JoinPanel = lazy(async () => ({ default: (await import('./join/panel.tsx')).JoinPanel }));
const GapPanel = lazy(async () => ({ default: (await import('./reel/gap-panel.tsx')).GapPanel }));
const RangePanel = lazy(async () => ({ default: (await import('./speed/range-panel.tsx')).RangePanel }));
const ReelPanel = lazy(async () => ({ default: (await import('./reel/reel-panel.tsx')).ReelPanel }));
const ReachPanel = lazy(async () => ({ default: (await import('./speed/reach-panel.tsx')).ReachPanel }));
const SoundPanel = lazy(async () => ({ default: (await import('./sound/panel.tsx')).SoundPanel }));
const VertexPanel = lazy(async () => ({ default: (await import('./speed/vertex-panel.tsx')).VertexPanel }));

type PanelOf<Kind extends Selection['kind']> = (props: { bench: BenchClip; selection: SelectionOf<Kind> }) => ReactNode;

/** What is shown for each kind of selection. */
const PANELS: { readonly [Kind in Selection['kind']]: PanelOf<Kind> } = {
  clip: ({ bench }) => <ClipPanel bench={bench} />,
  range: ({ bench }) => <RangePanel bench={bench} />,
  reach: ({ bench, selection }) => <ReachPanel bench={bench} index={selection.index} />,
  vertex: ({ bench, selection }) => <VertexPanel bench={bench} index={selection.index} />,
  moment: ({ bench, selection }) => (
    <MomentPanel bench={bench} moment={bench.source.moments.find((m) => m.id === selection.id)!} />
  ),
  landings: ({ bench }) => <LandingsPanel bench={bench} />,
  reel: ({ bench }) => <ReelPanel bench={bench} />,
  lay: ({ bench }) => <LayPanel bench={bench} />,
  accents: ({ bench, selection }) => <AccentsPanel bench={bench} chosen={selection.id} />,
  join: ({ bench, selection }) => <JoinPanel bench={bench} clipId={selection.id} />,
  sound: ({ bench, selection }) => (
    <SoundPanel bench={bench} sound={bench.project.reel.sounds.find((s) => s.id === selection.id)!} />
  ),
  gap: ({ bench, selection }) => (
    <GapPanel gap={bench.project.reel.items.find((i): i is Gap => i.kind === 'gap' && i.id === selection.id)!} />
  ),
  cue: ({ bench, selection }) => (
    <CuePanel bench={bench} cue={bench.project.reel.cues.find((c) => c.id === selection.id)!} />
  ),
};

/** Only what concerns the thing selected. */
export function SelectionPanel({ bench }: { bench: BenchClip }) {
  const selection = validSelection(
    useBench((s) => s.selection),
    bench,
  );
  const several = useBench((s) => s.picked.length > 0);
  const Shown = PANELS[selection.kind] as PanelOf<Selection['kind']>;
  return (
    <Suspense>
      {several && selection.kind === 'clip' ? (
        <ManyPanel bench={bench} />
      ) : (
        <Shown bench={bench} selection={selection} />
      )}
    </Suspense>
  );
}
