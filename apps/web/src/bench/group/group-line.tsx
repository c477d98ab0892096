import { updateClip } from '@idle-bend/core/edit';
import { playsAsItIs } from '@idle-bend/core/group';
import { isGroup } from '@idle-bend/core/model';
import { DoorOpen, Ungroup } from 'lucide-react';
import { openHere, ungroupHere } from './commands.ts';
import { TypedField } from '../../ui/typed-field.tsx';
import { edit } from '../../session/session.ts';
import { type BenchClip } from '../../session/bench-state.ts';

/** That a clip is a group, what it is called, and the ways into it and apart. */
export function GroupLine({ bench: { clip, source } }: { bench: BenchClip }) {
  if (!isGroup(source)) return null;
  const rename = (name: string) =>
    edit((project) => {
      const sources = project.sources.map((s) => (s.id === source.id ? { ...s, name } : s));
      return updateClip({ ...project, sources }, clip.id, (c) => ({ ...c, name }));
    });
  return (
    <div className="grid grid-cols-[1fr_auto_auto] items-end gap-2">
      <TypedField label="Group" text={source.name} commit={rename} />
      <button className="button button-ink h-8" onClick={openHere}>
        <DoorOpen size={15} aria-hidden /> Open <kbd className="font-mono text-xs opacity-70">Enter</kbd>
      </button>
      <button
        className="button h-8"
        onClick={ungroupHere}
        data-tip={
          playsAsItIs(clip)
            ? 'Its clips are on the reel again, each by itself'
            : 'Its clips are on the reel again, as they are inside; the group’s own curve goes'
        }
      >
        <Ungroup size={15} aria-hidden /> Ungroup
      </button>
    </div>
  );
}
