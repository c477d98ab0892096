import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { ProjectSizes, ProjectSummary } from '@idle-bend/core/api';
import { PackageOpen } from 'lucide-react';
import { lazy, Suspense, useRef, useState, type FormEvent } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../api.ts';
import { sendBundle, useUploads } from '../footage/uploads.ts';
import { MachineState } from '../shell/machine-state.tsx';
import { Mark } from '../shell/mark.tsx';
import { BinList } from './bin-list.tsx';
import { ProjectCard } from './project-card.tsx';
import { Select } from '../ui/select.tsx';
import { useKept } from '../ui/use-kept.ts';

const RATES = ['23.976', '24', '25', '29.97', '30', '50', '59.94', '60'];

const DiskUse = lazy(async () => ({ default: (await import('./disk-use.tsx')).DiskUse }));

export function ProjectsPage() {
  const { data, error, isPending } = useQuery({ queryKey: ['projects'], queryFn: api.projects });
  const { data: sizes } = useQuery({ queryKey: ['projects', 'sizes'], queryFn: api.projectSizes });
  const [order, setOrder] = useKept<Order>('order of projects', 'changed');
  return (
    <main className="mx-auto max-w-3xl px-6 py-14">
      <h1 className="font-display mb-1 flex items-center gap-3 text-4xl font-bold">
        <Mark size={40} /> Idle Bend
      </h1>
      <p className="text-faint mb-10 text-lg">Bend the speed of a clip until the action lands on the beat.</p>
      <div className="border-line mb-4 overflow-hidden rounded-xl border empty:hidden [&>div]:border-b-0">
        <MachineState />
      </div>
      <NewProject />
      <TakeBundle />
      <div className="mt-10 mb-3 flex items-end justify-between">
        <h2 className="font-display text-xl font-semibold">Projects</h2>
        {data && data.length > 1 && (
          <Select
            label="Order"
            value={order}
            options={ORDERS.map(({ value, text }) => ({ value, text }))}
            choose={(value) => setOrder(value as Order)}
          />
        )}
      </div>
      {isPending && <p className="text-faint">Opening…</p>}
      {error && <p className="text-vermilion">{error.message}</p>}
      {data?.length === 0 && <p className="text-faint">None yet. Name one above to create it.</p>}
      <ul className="grid gap-2" aria-label="Projects">
        {inOrder(data ?? [], order, sizes ?? {}).map((project) => (
          <ProjectCard
            key={project.id}
            project={project}
            bytes={sizes?.[project.id]}
            names={(data ?? []).map(({ name }) => name)}
          />
        ))}
      </ul>
      <BinList />
      <Suspense>
        <DiskUse />
      </Suspense>
    </main>
  );
}

const ORDERS = [
  { value: 'changed', text: 'last changed' },
  { value: 'name', text: 'name' },
  { value: 'size', text: 'size' },
] as const;
type Order = (typeof ORDERS)[number]['value'];

/** The server lists what was changed last first. */
function inOrder(projects: readonly ProjectSummary[], order: Order, sizes: ProjectSizes): readonly ProjectSummary[] {
  if (order === 'name') return projects.toSorted((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }));
  if (order === 'size') return projects.toSorted((a, b) => (sizes[b.id] ?? 0) - (sizes[a.id] ?? 0));
  return projects;
}

/** A bundle that another server, or this one, wrote becomes a project. */
function TakeBundle() {
  const navigate = useNavigate();
  const chooser = useRef<HTMLInputElement>(null);
  const running = useUploads((s) => s.running);
  const [sending] = Object.values(running);
  return (
    <p className="text-faint mt-3 flex items-center gap-3 text-[13px]">
      <button className="button" onClick={() => chooser.current?.click()}>
        <PackageOpen size={15} aria-hidden /> Open a bundle…
      </button>
      {sending
        ? `${sending.name}: ${((100 * sending.sent) / Math.max(1, sending.bytes)).toFixed(0)} %`
        : 'A project that was bundled up, with or without its media.'}
      <input
        ref={chooser}
        type="file"
        hidden
        accept=".zip"
        aria-label="Bundle"
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          if (file) sendBundle(file, (id) => void navigate(`/projects/${id}/footage`));
          e.target.value = '';
        }}
      />
    </p>
  );
}

function NewProject() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [name, setName] = useState('');
  const [rate, setRate] = useState('24');
  const create = useMutation({
    mutationFn: () => api.createProject(name, rate),
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ['projects'] });
      await navigate(`/projects/${id}/footage`);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    create.mutate();
  };
  return (
    <form onSubmit={submit} className="bg-shoal flex items-end gap-3 rounded-xl p-4">
      <label className="flex-1">
        <span className="label">Name of a new project</span>
        <input
          className="field font-sans"
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.target.value)}
          required
        />
      </label>
      <Select
        label="Frames per second"
        value={rate}
        options={RATES.map((each) => ({ value: each, text: each }))}
        choose={(each) => setRate(each)}
      />
      <button className="button button-ink" disabled={name.trim() === '' || create.isPending}>
        Create
      </button>
      {create.error && (
        <p className="text-vermilion" role="alert">
          {create.error.message}
        </p>
      )}
    </form>
  );
}
