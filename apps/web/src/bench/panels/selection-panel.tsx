import type { Gap } from '@idle-bend/core/model';
import { useBench, validSelection, type BenchClip } from '../bench-store.ts';
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

/** Only what concerns the thing selected. */
export function SelectionPanel({ bench }: { bench: BenchClip }) {
  const selection = validSelection(
    useBench((s) => s.selection),
    bench,
  );
  const several = useBench((s) => s.picked.length > 0);
  if (several && selection.kind === 'clip') return <ManyPanel bench={bench} />;
  switch (selection.kind) {
    case 'clip':
      return <ClipPanel bench={bench} />;
    case 'range':
      return <RangePanel bench={bench} />;
    case 'reach':
      return <ReachPanel bench={bench} index={selection.index} />;
    case 'vertex':
      return <VertexPanel bench={bench} index={selection.index} />;
    case 'moment':
      return <MomentPanel bench={bench} moment={bench.source.moments.find((m) => m.id === selection.id)!} />;
    case 'landings':
      return <LandingsPanel bench={bench} />;
    case 'reel':
      return <ReelPanel bench={bench} />;
    case 'lay':
      return <LayPanel bench={bench} />;
    case 'accents':
      return <AccentsPanel bench={bench} chosen={selection.id} />;
    case 'join':
      return <JoinPanel bench={bench} clipId={selection.id} />;
    case 'sound':
      return <SoundPanel bench={bench} sound={bench.project.reel.sounds.find((s) => s.id === selection.id)!} />;
    case 'gap':
      return (
        <GapPanel
          bench={bench}
          gap={bench.project.reel.items.find((i): i is Gap => i.kind === 'gap' && i.id === selection.id)!}
        />
      );
    case 'cue':
      return <CuePanel bench={bench} cue={bench.project.reel.cues.find((c) => c.id === selection.id)!} />;
  }
}
