import type { BinnedProject } from '@idle-bend/core/api';
import { useQuery } from '@tanstack/react-query';
import { Undo2 } from 'lucide-react';
import { AlertDialog } from 'radix-ui';
import { api } from '../api.ts';
import { sizeText } from '../ui/size-text.ts';
import { useProjectAction } from './project-card.tsx';

/** Projects in the bin: when each goes, what that frees, and the way back. */
export function BinList() {
  const { data } = useQuery({ queryKey: ['bin'], queryFn: api.bin });
  if (!data || data.length === 0) return null;
  return (
    <section className="mt-10" aria-label="Bin">
      <h2 className="font-display mb-1 text-xl font-semibold">Bin</h2>
      <p className="text-faint mb-3 text-[13px]">
        What is here goes after a day. Files that were taken in from elsewhere stay where they are.
      </p>
      <ul className="divide-line border-line divide-y rounded-xl border">
        {data.map((project) => (
          <Binned key={project.id} project={project} />
        ))}
      </ul>
    </section>
  );
}

function Binned({ project: { id, name, goesAt, bytes } }: { project: BinnedProject }) {
  const act = useProjectAction();
  return (
    <li className="flex items-center gap-3 px-4 py-2" aria-label={name}>
      <span className="min-w-0 flex-1">
        <span className="block truncate font-semibold">{name}</span>
        <span className="text-faint font-mono text-xs">
          {sizeText(bytes)} · goes in {hoursLeft(goesAt)}
        </span>
      </span>
      <button className="button" disabled={act.isPending} onClick={() => act.mutate(() => api.restoreProject(id))}>
        <Undo2 size={15} aria-hidden /> Put back
      </button>
      <AlertDialog.Root>
        <AlertDialog.Trigger asChild>
          <button className="button text-vermilion" disabled={act.isPending}>
            Delete now…
          </button>
        </AlertDialog.Trigger>
        <AlertDialog.Portal>
          <AlertDialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
          <AlertDialog.Content className="bg-sheet fixed top-1/3 left-1/2 z-50 w-[26rem] -translate-x-1/2 rounded-xl p-5 shadow-xl">
            <AlertDialog.Title className="font-display text-lg font-semibold">
              Delete “{name}” for good?
            </AlertDialog.Title>
            <AlertDialog.Description className="text-faint mt-1 text-sm">
              Its footage here, its renders and its earlier states go with it: {sizeText(bytes)}. This cannot be undone.
            </AlertDialog.Description>
            <div className="mt-4 flex justify-end gap-2">
              <AlertDialog.Cancel className="button">Keep it</AlertDialog.Cancel>
              <AlertDialog.Action className="button button-ink" onClick={() => act.mutate(() => api.deleteProject(id))}>
                Delete
              </AlertDialog.Action>
            </div>
          </AlertDialog.Content>
        </AlertDialog.Portal>
      </AlertDialog.Root>
    </li>
  );
}

function hoursLeft(goesAt: string): string {
  const minutes = Math.max(0, Math.round((Date.parse(goesAt) - Date.now()) / 60_000));
  return minutes >= 90 ? `${Math.round(minutes / 60)} hours` : `${minutes} minutes`;
}
