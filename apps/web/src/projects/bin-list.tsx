import type { Binned as InBin } from '@idle-bend/core/api';
import { useQuery } from '@tanstack/react-query';
import { Undo2 } from 'lucide-react';
import { api } from '../api.ts';
import { Ask } from '../ui/ask.tsx';
import { sizeText } from '../ui/size-text.ts';
import { useProjectAction } from './project-card.tsx';

/** Projects and footage in the bin: when each goes, what that frees, and the way back. */
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
        {data.map((each) => (
          <Binned key={each.id} binned={each} />
        ))}
      </ul>
    </section>
  );
}

function Binned({ binned: { id, kind, name, of, goesAt, bytes } }: { binned: InBin }) {
  const act = useProjectAction();
  return (
    <li className="flex items-center gap-3 px-4 py-2" aria-label={name}>
      <span className="min-w-0 flex-1">
        <span className="block truncate font-semibold">
          {name} {of !== null && <span className="text-faint font-normal">footage of {of}</span>}
        </span>
        <span className="text-faint font-mono text-xs">
          {sizeText(bytes)} · goes in {hoursLeft(goesAt)}
        </span>
      </span>
      <button
        className="button"
        disabled={act.isPending}
        onClick={() => act.mutate(() => (kind === 'project' ? api.restoreProject(id) : api.restoreFootage(id)))}
      >
        <Undo2 size={15} aria-hidden /> Put back
      </button>
      <Ask
        question={`Delete “${name}” for good?`}
        means={`${kind === 'project' ? 'Its footage here, its renders and its earlier states go with it' : 'What is here of it goes; a file that lies elsewhere stays'}: ${sizeText(bytes)}. This cannot be undone.`}
        yes="Delete"
        run={() => act.mutate(() => (kind === 'project' ? api.deleteProject(id) : api.deleteFootage(id)))}
      >
        <button className="button text-vermilion" disabled={act.isPending}>
          Delete now…
        </button>
      </Ask>
    </li>
  );
}

function hoursLeft(goesAt: string): string {
  const minutes = Math.max(0, Math.round((Date.parse(goesAt) - Date.now()) / 60_000));
  return minutes >= 90 ? `${Math.round(minutes / 60)} hours` : `${minutes} minutes`;
}
