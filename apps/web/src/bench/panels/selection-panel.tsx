import type { Gap } from '@idle-bend/core/model';
import type { ReactNode } from 'react';
import { useBench, validSelection, type BenchClip } from '../bench-store.ts';
import type { Selection, SelectionOf } from '../selections.ts';
import { ManyPanel } from './many-panel.tsx';
import { ClipPanel } from './clip-panel.tsx';
import { LandingsPanel } from './landings-panel.tsx';
import { LayPanel } from './lay-panel.tsx';
import { CuePanel, MomentPanel } from './mark-panels.tsx';
import { AccentsPanel } from './accents-panel.tsx';
import { JoinPanel } from './join-panel.tsx';
import { GapPanel } from './gap-panel.tsx';
import { RangePanel } from './range-panel.tsx';
import { ReelPanel } from './reel-panel.tsx';
import { ReachPanel } from './reach-panel.tsx';
import { SoundPanel } from './sound-panel.tsx';
import { VertexPanel } from './vertex-panel.tsx';

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
    <GapPanel
      bench={bench}
      gap={bench.project.reel.items.find((i): i is Gap => i.kind === 'gap' && i.id === selection.id)!}
    />
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
  if (several && selection.kind === 'clip') return <ManyPanel bench={bench} />;
  const Shown = PANELS[selection.kind] as PanelOf<Selection['kind']>;
  return <Shown bench={bench} selection={selection} />;
}
