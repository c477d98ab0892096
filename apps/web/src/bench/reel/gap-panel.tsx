import { removeItem, setGap } from '@idle-bend/core/edit';
import type { Gap } from '@idle-bend/core/model';
import { parseLength } from '@idle-bend/core/time';
import { Trash2 } from 'lucide-react';
import { Panel } from '../../ui/panel.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { edit } from '../../session/session.ts';
import { select } from '../../session/bench-state.ts';

/** Black between clips. */
export function GapPanel({ gap }: { gap: Gap }) {
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
        commit={(typed) =>
          edit((project) => setGap(project, gap.id, Math.round(parseLength(typed, project.reel.rate))))
        }
        step={(by) => edit((project) => setGap(project, gap.id, Math.max(1, gap.frames + by)))}
      />
    </Panel>
  );
}
