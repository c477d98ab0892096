import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import {
  allClips,
  footageOnReel,
  formatTimecode,
  makingOf,
  reelFrames,
  usesBlur,
  usesFlow,
  type FlowLevel,
  type Loudness,
  type Render,
  type RenderPart,
  type RenderRange,
} from '@idle-bend/core';
import { Download, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { useParams } from 'react-router';
import { toast } from 'sonner';
import { api, renderUrl } from '../api.ts';
import { Choice } from '../bench/panels/choice.tsx';
import { Bar } from '../shell/bar.tsx';
import { flush, useProject } from '../shell/project-store.ts';
import { HandOver } from './hand-over.tsx';
import { useProgress } from '../shell/use-server-events.ts';

const KINDS = [
  { container: 'mp4', title: 'MP4 · H.264', suits: 'To watch and to send: small, plays everywhere.' },
  { container: 'mkv', title: 'MKV · FFV1', suits: 'To work on: lossless, every frame exactly as it was made.' },
] as const;

const RANGES: readonly { value: RenderRange; text: string }[] = [
  { value: 'keep', text: 'Keep, with its tags' },
  { value: 'standard', text: 'Convert to standard' },
];

const LEVELS: readonly { value: FlowLevel; text: string; title: string }[] = [
  { value: 'quick', text: 'Quick', title: 'A draft: as the bench plays it' },
  { value: 'default', text: 'Default', title: 'As the bench shows it when it stands still' },
  { value: 'best', text: 'Best', title: 'Two estimates of all motion, for about twice the time' },
];

export function RendersPage() {
  const { projectId = '' } = useParams();
  const document = useProject((s) => s.document)!;
  const { data, error } = useQuery({ queryKey: ['renders', projectId], queryFn: () => api.renders(projectId) });
  const { data: footage = [] } = useQuery({ queryKey: ['footage', projectId], queryFn: () => api.footage(projectId) });
  const used = footageOnReel(document);
  const hasHighRange = footage.some((f) => used.has(f.id) && f.facts.picture?.highRange);
  const [range, setRange] = useState<RenderRange>('keep');
  const [level, setLevel] = useState<FlowLevel>('default');
  const hasFlow = usesBlur(document) || allClips(document).some((clip) => usesFlow(makingOf(document, clip)));
  const name = useProject((s) => s.name) ?? '';
  const { rate, width, height, range: stretch } = document.reel;
  const [wanted, setPart] = useState<RenderPart>('range');
  const part = stretch ? wanted : 'reel';
  const start = useMutation({
    mutationFn: async (container: 'mp4' | 'mkv') => {
      await flush();
      return api.startRender(projectId, { container, range: hasHighRange ? range : 'keep', level, part });
    },
    onError: (e) => toast.error(e.message),
  });
  const frames = reelFrames(document);
  return (
    <main className="mx-auto h-full max-w-3xl overflow-y-auto p-6">
      <h1 className="font-display mb-1 text-2xl font-bold">Renders</h1>
      <p className="text-faint mb-4">
        {frames === 0
          ? 'There is no clip on the reel yet.'
          : `The reel is ${frames} frames, ${formatTimecode(frames, rate)}, at ${width}×${height}, made from the originals, with the clips’ own sounds and those that lie under it.`}
      </p>
      {stretch && (
        <div className="mb-4 w-96">
          <Choice
            label="How much of it"
            value={part}
            options={[
              { value: 'reel', text: 'The whole reel' },
              { value: 'range', text: `Its range, ${Math.min(stretch.to, frames) - stretch.from} frames`, title: `From ${formatTimecode(stretch.from, rate)}` },
            ]}
            choose={setPart}
          />
        </div>
      )}
      {hasHighRange && (
        <div className="mb-4 w-96">
          <Choice label="High dynamic range" value={range} options={RANGES} choose={setRange} />
        </div>
      )}
      {hasFlow && (
        <div className="mb-4 w-96">
          <Choice label="Flow’s in-betweens, and blur" value={level} options={LEVELS} choose={setLevel} />
        </div>
      )}
      <div className="mb-8 grid grid-cols-2 gap-3">
        {KINDS.map(({ container, title, suits }) => (
          <button
            key={container}
            className="border-line bg-sheet hover:border-river flex flex-col rounded-xl border p-4 text-left disabled:opacity-50"
            disabled={frames === 0 || start.isPending}
            onClick={() => start.mutate(container)}
          >
            <span className="font-display block text-lg font-semibold">Render {title}</span>
            <span className="text-faint">{suits}</span>
          </button>
        ))}
      </div>
      {error && <p className="text-vermilion">{error.message}</p>}
      {data?.length === 0 && <p className="text-faint">Nothing rendered yet.</p>}
      <ul className="grid gap-2">
        {data?.map((render) => (
          <RenderRow key={render.id} render={render} />
        ))}
      </ul>
      {frames > 0 && <HandOver document={document} name={name} />}
      <KeptMotion />
    </main>
  );
}

/** What is kept of the motion between frames: a render whose curves changed finds only what is new. */
function KeptMotion() {
  const queries = useQueryClient();
  const { data } = useQuery({ queryKey: ['motion-cache'], queryFn: api.motionCache });
  const drop = useMutation({
    mutationFn: api.dropMotionCache,
    onSuccess: () => void queries.invalidateQueries({ queryKey: ['motion-cache'] }),
    onError: (e) => toast.error(e.message),
  });
  if (!data || data.pairs === 0) return null;
  const size = (bytes: number) => `${(bytes / 2 ** 20).toFixed(0)} MB`;
  return (
    <p className="text-faint mt-8 flex items-center gap-3 text-[13px]">
      <span>
        Motion between {data.pairs} pairs of frames is kept for the next render: {size(data.bytes)} of at most {size(data.mostBytes)}.
      </span>
      <button className="button px-2 py-0.5 text-xs" disabled={drop.isPending} onClick={() => drop.mutate()}>
        Drop it
      </button>
    </p>
  );
}

const loudnessWords = ({ integrated, range, peak }: Loudness) =>
  `${integrated.toFixed(1)} LUFS · range ${range.toFixed(1)} LU · true peak ${peak.toFixed(1)} dBTP`;

const STATUS: Readonly<Record<Render['status'], string>> = { queued: 'waiting', running: 'rendering', done: 'done', failed: 'failed', cancelled: 'cancelled' };

function RenderRow({ render }: { render: Render }) {
  const progress = useProgress((s) => s.of[render.id]);
  const cancel = useMutation({ mutationFn: () => api.cancelRender(render.id), onError: (e) => toast.error(e.message) });
  const remove = useMutation({ mutationFn: () => api.removeRender(render.id), onError: (e) => toast.error(e.message) });
  const active = render.status === 'queued' || render.status === 'running';
  const done = render.status === 'running' ? (progress?.done ?? render.done) : render.done;
  const left = progress?.secondsLeft ?? render.secondsLeft;
  return (
    <li className="border-line bg-sheet rounded-xl border px-4 py-3" aria-label={render.fileName}>
      <div className="flex items-center gap-3">
        <span className="font-display min-w-0 truncate font-semibold">{render.fileName}</span>
        <span className={render.status === 'failed' ? 'text-vermilion' : render.status === 'done' ? 'text-moss' : 'text-faint'}>{STATUS[render.status]}</span>
        <span className="text-faint ml-auto font-mono text-xs whitespace-nowrap">
          {active
            ? `${done} of ${render.frames} frames${left === null ? '' : ` · ${Math.ceil(left)} s left`}`
            : render.bytes !== null
              ? `${render.frames} frames · ${(render.bytes / 1e6).toFixed(2)} MB`
              : ''}
        </span>
        {active && (
          <button className="button" onClick={() => cancel.mutate()}>
            Cancel
          </button>
        )}
        {render.status === 'done' && (
          <a className="button" href={renderUrl(render.id)} download>
            <Download size={15} aria-hidden /> Download
          </a>
        )}
        {!active && (
          <button className="button px-2" aria-label={`Remove ${render.fileName}`} onClick={() => remove.mutate()}>
            <Trash2 size={15} aria-hidden />
          </button>
        )}
      </div>
      {active && <Bar done={done} total={render.frames} label={`Rendering ${render.fileName}`} />}
      {render.loudness && <p className="text-faint font-mono text-xs">{loudnessWords(render.loudness)}</p>}
      {render.problem && <p className="text-vermilion text-sm">{render.problem}</p>}
    </li>
  );
}
