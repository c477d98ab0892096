import { removeItem, setGap } from '@idle-bend/core/edit';
import type { Gap } from '@idle-bend/core/model';
import { Trash2 } from 'lucide-react';
import { edit } from '../../shell/project-store.ts';
import { select, type BenchClip } from '../bench-store.ts';
import { readLength } from './fit-field.tsx';
import { Panel } from './panel.tsx';
import { TypedField } from './typed-field.tsx';

/** Black between clips. */
export function GapPanel({ bench, gap }: { bench: BenchClip; gap: Gap }) {
  const fps = bench.project.reel.rate.num / bench.project.reel.rate.den;
  const close = () => {
    edit((project) => removeItem(project, gap.id));
    select({ kind: 'clip' });
  };
  return (
    <Panel
      title="Gap"
      about={`${gap.frames} frames of black`}
      action={
        <button className="button px-1.5" aria-label="Close this gap" onClick={close}>
          <Trash2 size={15} aria-hidden />
        </button>
      }
    >
      <TypedField
        label="Length, frames"
        text={String(gap.frames)}
        commit={(typed) => edit((project) => setGap(project, gap.id, Math.round(readLength(typed, fps))))}
        step={(by) => edit((project) => setGap(project, gap.id, Math.max(1, gap.frames + by)))}
      />
    </Panel>
  );
}
