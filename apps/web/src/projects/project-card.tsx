import type { ProjectSummary } from '@idle-bend/core/api';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Archive, CopyPlus, Pencil, Trash2 } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { api, bundleUrl, stripUrl } from '../api.ts';
import { tell, tellError } from '../session/notices.ts';
import { sizeText } from '../ui/size-text.ts';

const changed = (time: string) => new Date(time).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });

/** A project on the list: opened by its picture or name; renamed, duplicated, bundled up, put into the bin. */
export function ProjectCard({
  project,
  bytes,
  names,
}: {
  project: ProjectSummary;
  /** On disk, once it is known. */
  bytes: number | undefined;
  names: readonly string[];
}) {
  const { id, name, coverId } = project;
  const [isRenaming, setRenaming] = useState(false);
  const act = useProjectAction();
  const put = () =>
    act.mutate(async () => {
      await api.binProject(id);
      tell(`“${name}” is in the bin for a day.`, {
        durationMs: 12_000,
        action: { label: 'Put back', run: () => act.mutate(() => api.restoreProject(id)) },
      });
    });
  const cover = (
    <span
      className="bg-frame block h-24 w-80 shrink-0 bg-left bg-no-repeat"
      style={coverId ? { backgroundImage: `url(${stripUrl(coverId)})`, backgroundSize: 'auto 100%' } : {}}
    />
  );
  const time = (
    <span className="text-faint font-mono text-xs whitespace-nowrap">
      changed {changed(project.updatedAt)}
      {bytes !== undefined && <span className="block">{sizeText(bytes)} on disk</span>}
    </span>
  );
  return (
    <li className="border-line bg-sheet hover:border-river flex overflow-hidden rounded-xl border">
      {isRenaming ? (
        <div className="flex min-w-0 flex-1">
          {cover}
          <span className="flex min-w-0 flex-1 flex-col justify-center px-4">
            <Renaming
              name={name}
              done={(next) => {
                setRenaming(false);
                if (next && next !== name) act.mutate(() => api.renameProject(id, next));
              }}
            />
            {time}
          </span>
        </div>
      ) : (
        <Link to={`/projects/${id}/bench`} className="group flex min-w-0 flex-1" aria-label={name}>
          {cover}
          <span className="flex min-w-0 flex-col justify-center px-4">
            <span className="font-display truncate text-lg font-semibold group-hover:underline">{name}</span>
            {time}
          </span>
        </Link>
      )}
      <div className="flex items-center gap-1 pr-3">
        <Tool label={`Rename ${name}`} run={() => setRenaming(true)}>
          <Pencil size={15} aria-hidden />
        </Tool>
        <Tool
          label={`Duplicate ${name}`}
          run={() => act.mutate(() => api.duplicateProject(id, copyName(name, names)))}
          isBusy={act.isPending}
        >
          <CopyPlus size={15} aria-hidden />
        </Tool>
        <a
          className="button px-2"
          href={bundleUrl(id, 'yes')}
          aria-label={`Archive ${name} with its media`}
          data-tip={`Archive ${name} with its media`}
          download
        >
          <Archive size={15} aria-hidden />
        </a>
        <Tool label={`Put ${name} into the bin`} run={put} isBusy={act.isPending}>
          <Trash2 size={15} aria-hidden />
        </Tool>
      </div>
    </li>
  );
}

/** Does something to projects, loads the list again, and says what went wrong. */
export function useProjectAction() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (act: () => Promise<unknown>) => act(),
    onError: (error) => tellError(error.message),
    onSettled: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ['projects'] }),
        queries.invalidateQueries({ queryKey: ['bin'] }),
      ]),
  });
}

function Tool({
  label,
  run,
  isBusy = false,
  children,
}: {
  label: string;
  run: () => void;
  isBusy?: boolean;
  children: ReactNode;
}) {
  return (
    <button className="button px-2" aria-label={label} data-tip={label} onClick={run} disabled={isBusy}>
      {children}
    </button>
  );
}

function Renaming({ name, done }: { name: string; done: (next: string | undefined) => void }) {
  const [typed, setTyped] = useState(name);
  return (
    <input
      className="field font-sans"
      aria-label="Name of the project"
      autoFocus
      maxLength={120}
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      onFocus={(e) => e.target.select()}
      onBlur={() => done(typed.trim())}
      onKeyDown={(e) => {
        if (e.key === 'Enter') done(typed.trim());
        if (e.key === 'Escape') done(undefined);
      }}
    />
  );
}

/** "Marble Parade 2", or the next number that is free. */
function copyName(name: string, names: readonly string[]): string {
  const stem = name.replace(/ \d+$/, '').slice(0, 110);
  for (let n = 2; ; n++) if (!names.includes(`${stem} ${n}`)) return `${stem} ${n}`;
}
