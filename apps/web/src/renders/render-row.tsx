import { useMutation } from '@tanstack/react-query';
import type { Loudness, Render } from '@idle-bend/core/api';
import type { Project } from '@idle-bend/core/model';
import { RENDER_FORMATS } from '@idle-bend/core/render';
import { formatTimecode } from '@idle-bend/core/time';
import { ArrowDown, ArrowUp, Download, Pause, Play, RotateCcw, Trash2, X } from 'lucide-react';
import type { ReactNode } from 'react';
import { api, renderUrl } from '../api.ts';
import { Bar } from '../shell/bar.tsx';
import { useProgress } from '../shell/use-server-events.ts';
import { sizeText } from '../ui/size-text.ts';
import { lengthWords } from './new-render.tsx';
import { tellError } from '../session/notices.ts';

const STATUS: Readonly<Record<Render['status'], string>> = {
  queued: 'waiting',
  running: 'rendering',
  joining: 'putting together and checking',
  paused: 'paused',
  done: 'done',
  failed: 'failed',
  cancelled: 'cancelled',
};
const TONE: Partial<Readonly<Record<Render['status'], string>>> = { failed: 'text-vermilion', done: 'text-moss' };

const loudnessWords = ({ integrated, range, peak }: Loudness) =>
  `${integrated.toFixed(1)} LUFS · range ${range.toFixed(1)} LU · true peak ${peak.toFixed(1)} dBTP`;

interface Props {
  readonly render: Render;
  readonly document: Project;
  /** Its neighbours in the queue: the one it would go before when moved up, and the one after the next when moved down. */
  readonly queue: readonly Render[];
}

/** A render: how far it is, and everything that can be done with it. */
export function RenderRow({ render, document, queue }: Props) {
  const { id, status, settings } = render;
  const progress = useProgress((s) => s.of[id]);
  const act = useMutation({
    mutationFn: (what: () => Promise<unknown>) => what(),
    onError: (e) => tellError(e.message),
  });
  const active = status === 'queued' || status === 'running' || status === 'joining';
  const rests = status === 'paused' || status === 'failed' || status === 'cancelled';
  const done =
    status === 'running' ? (progress?.done ?? render.done) : status === 'joining' ? render.frames : render.done;
  const left = status === 'running' ? (progress?.secondsLeft ?? render.secondsLeft) : null;
  const place = queue.findIndex((r) => r.id === id);
  const move = (before: string | null) => act.mutate(() => api.moveRender(id, before));
  const format = RENDER_FORMATS[settings.format];
  const kind = [
    format.title,
    ...(settings.quality === 'draft' ? ['draft'] : []),
    `from ${formatTimecode(render.stretch.from, document.reel.rate)}`,
  ];
  return (
    <li className="border-line bg-sheet rounded-xl border px-4 py-2.5" aria-label={render.fileName}>
      <div className="flex items-center gap-2">
        <div className="w-64 min-w-0 shrink-0">
          <span className="font-display block truncate font-semibold">{render.fileName}</span>
          <span className="text-faint block truncate text-xs">{kind.join(' · ')}</span>
        </div>
        <span className={`whitespace-nowrap ${TONE[status] ?? 'text-faint'}`}>
          {render.waitsForWorker ? 'waits for a worker' : STATUS[status]}
        </span>
        <span className="text-faint ml-auto font-mono text-xs whitespace-nowrap">
          {active || status === 'paused'
            ? `${done} of ${render.frames} frames${left === null ? '' : ` · ${lengthWords(left)} left`}`
            : render.bytes !== null
              ? `${render.frames} frames · ${sizeText(render.bytes)}`
              : ''}
        </span>
        {place > 0 && (
          <Act label={`Move ${render.fileName} up`} onClick={() => move(queue[place - 1]!.id)}>
            <ArrowUp size={15} aria-hidden />
          </Act>
        )}
        {place >= 0 && place < queue.length - 1 && (
          <Act label={`Move ${render.fileName} down`} onClick={() => move(queue[place + 2]?.id ?? null)}>
            <ArrowDown size={15} aria-hidden />
          </Act>
        )}
        {active && (
          <Act label={`Pause ${render.fileName}`} onClick={() => act.mutate(() => api.pauseRender(id))}>
            <Pause size={15} aria-hidden />
          </Act>
        )}
        {rests && (
          <button className="button" disabled={act.isPending} onClick={() => act.mutate(() => api.resumeRender(id))}>
            {status === 'paused' ? <Play size={15} aria-hidden /> : <RotateCcw size={15} aria-hidden />}
            {status === 'paused' ? 'Resume' : 'Try again'}
          </button>
        )}
        {status === 'done' && (
          <a className="button" href={renderUrl(id)} download>
            <Download size={15} aria-hidden /> Download
          </a>
        )}
        {active || status === 'paused' ? (
          <Act label={`Cancel ${render.fileName}`} onClick={() => act.mutate(() => api.cancelRender(id))}>
            <X size={15} aria-hidden />
          </Act>
        ) : (
          <Act label={`Remove ${render.fileName}`} onClick={() => act.mutate(() => api.removeRender(id))}>
            <Trash2 size={15} aria-hidden />
          </Act>
        )}
      </div>
      {(active || status === 'paused') && (
        <Bar done={done} total={render.frames} label={`Rendering ${render.fileName}`} />
      )}
      {render.loudness && <p className="text-faint font-mono text-xs">{loudnessWords(render.loudness)}</p>}
      {render.note && <p className="text-faint text-sm">{render.note}</p>}
      {render.problem && <p className="text-vermilion text-sm">{render.problem}</p>}
    </li>
  );
}

function Act({ label, onClick, children }: { label: string; onClick: () => void; children: ReactNode }) {
  return (
    <button className="button px-2" aria-label={label} data-tip={label} onClick={onClick}>
      {children}
    </button>
  );
}
