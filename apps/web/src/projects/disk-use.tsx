import type { DiskUse as Use, DroppableKind } from '@idle-bend/core/api';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api } from '../api.ts';
import { tell, tellError } from '../session/notices.ts';
import { Ask } from '../ui/ask.tsx';
import { sizeText } from '../ui/size-text.ts';

/** What each kind is, and what it means to drop it. */
const KINDS: readonly {
  readonly kind: keyof Use['bytes'];
  readonly name: string;
  readonly what: string;
  readonly drop?: { readonly kind: DroppableKind; readonly asks: string; readonly means: string };
}[] = [
  { kind: 'originals', name: 'Films and sounds', what: 'copies; what lies in media folders counts nothing' },
  {
    kind: 'proxies',
    name: 'Proxies',
    what: 'what the bench plays; a project’s go when it is put into the bin',
    drop: {
      kind: 'proxies',
      asks: 'Delete all proxies?',
      means: 'A project’s are made again when it is opened; until then its clips are shown from their originals.',
    },
  },
  { kind: 'found', name: 'What was found in them', what: 'sounds, beats, frame lists, how pictures move' },
  {
    kind: 'motion',
    name: 'Motion between frames',
    what: 'so that a changed curve costs only the pictures',
    drop: {
      kind: 'motion',
      asks: 'Delete the motion between frames?',
      means: 'It is found again when a Flow frame is wanted.',
    },
  },
  {
    kind: 'renders',
    name: 'Renders',
    what: 'finished files, and parts of those under way',
    drop: {
      kind: 'renders',
      asks: 'Delete all renders that are over?',
      means: 'Finished, failed and cancelled ones of all projects go, their files too. What was downloaded stays.',
    },
  },
  {
    kind: 'states',
    name: 'Earlier states',
    what: 'of all projects',
    drop: {
      kind: 'states',
      asks: 'Delete earlier states?',
      means: 'Of every project its newest state stays; what was before it cannot be gone back to any more.',
    },
  },
  { kind: 'uploads', name: 'Incoming files', what: 'files being sent, and what lies in watched folders' },
];

/** What the data folder holds, and what of it can go. */
export function DiskUse() {
  const { data } = useQuery({ queryKey: ['disk'], queryFn: api.diskUse });
  if (!data) return null;
  const all = Object.values(data.bytes).reduce((sum, bytes) => sum + bytes, 0);
  return (
    <section className="mt-10" aria-label="Data folder">
      <h2 className="font-display mb-1 text-xl font-semibold">Data folder</h2>
      <p className="text-faint mb-3 text-[13px]">
        {sizeText(all)} in all; {sizeText(data.freeBytes)} are free on its disk.
      </p>
      <ul className="divide-line border-line divide-y rounded-xl border">
        {KINDS.map(({ kind, name, what, drop }) => (
          <li key={kind} className="flex min-h-12 items-center gap-3 px-4 py-1.5" aria-label={name}>
            <span className="min-w-0 flex-1">
              <span className="font-semibold">{name}</span> <span className="text-faint text-[13px]">{what}</span>
            </span>
            <span className="font-mono text-sm">{sizeText(data.bytes[kind])}</span>
            <span className="w-20 text-right">{drop && <Drop {...drop} isEmpty={data.bytes[kind] === 0} />}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Drop({ kind, asks, means, isEmpty }: { kind: DroppableKind; asks: string; means: string; isEmpty: boolean }) {
  const queries = useQueryClient();
  const drop = useMutation({
    mutationFn: () => api.dropFromDisk(kind),
    onSuccess: (use) => {
      queries.setQueryData(['disk'], use);
      tell('It is gone.');
    },
    onError: (e) => tellError(e.message),
  });
  return (
    <Ask question={asks} means={means} yes="Delete" run={() => drop.mutate()}>
      <button className="button" disabled={isEmpty || drop.isPending} aria-label={asks.replace('?', '…')}>
        Delete…
      </button>
    </Ask>
  );
}
