import { useMutation, useQuery } from '@tanstack/react-query';
import { addSource, appendClip, evenSpeeds, formatTimecode, slowestRealSpeed, speakRate, type Project } from '@idle-bend/core';
import { FileUp, Trash2 } from 'lucide-react';
import { useRef, useState, type DragEvent } from 'react';
import { useNavigate, useParams } from 'react-router';
import { toast } from 'sonner';
import { api, stripUrl, type Footage } from '../api.ts';
import { edit, useProject } from '../shell/project-store.ts';
import { useProgress } from '../shell/use-server-events.ts';
import { sendFile, useUploads } from './uploads.ts';

export function FootagePage() {
  const { projectId = '' } = useParams();
  const { data, error } = useQuery({ queryKey: ['footage', projectId], queryFn: () => api.footage(projectId) });
  const { running } = useUploads();
  const chooser = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const take = (files: FileList | null) => [...(files ?? [])].forEach((file) => sendFile(projectId, file));
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    take(event.dataTransfer.files);
  };
  const uploads = Object.entries(running);
  return (
    <main
      className={`h-full overflow-y-auto p-5 ${over ? 'bg-river-pale' : ''}`}
      onDragOver={(e) => (e.preventDefault(), setOver(true))}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <div className="mb-4 flex items-center gap-3">
        <h1 className="font-display text-2xl font-bold">Footage</h1>
        <p className="text-faint">Drop clips anywhere on this page, or put them into the project’s watched folder.</p>
        <button className="button ml-auto" onClick={() => chooser.current?.click()}>
          <FileUp size={16} aria-hidden /> Choose files…
        </button>
        <input ref={chooser} type="file" multiple hidden aria-label="Footage files" onChange={(e) => (take(e.target.files), (e.target.value = ''))} />
      </div>
      {error && <p className="text-vermilion">{error.message}</p>}
      {data?.length === 0 && uploads.length === 0 && (
        <div className="border-line text-faint mt-8 rounded-2xl border-2 border-dashed p-16 text-center">
          <p className="font-display text-ink text-lg font-semibold">No footage yet</p>
          <p>Drop a clip here. High frame rates slow down best: 60 fps bears 40 % on a 24 fps reel, 120 fps bears 20 %.</p>
        </div>
      )}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(330px,1fr))] gap-4">
        {data?.map((footage) => (
          <FootageCard key={footage.id} footage={footage} projectId={projectId} />
        ))}
        {uploads.map(([id, upload]) => (
          <li key={id} className="border-line bg-sheet rounded-xl border p-4">
            <p className="font-display font-semibold break-all">{upload.name}</p>
            <Bar done={upload.sent} total={upload.bytes} label={`Sending ${upload.name}`} />
            <div className="text-faint flex items-center font-mono text-xs">
              {(upload.sent / 1e6).toFixed(1)} of {(upload.bytes / 1e6).toFixed(1)} MB
              <button className="button ml-auto font-sans" onClick={upload.stop}>
                Cancel
              </button>
            </div>
          </li>
        ))}
      </ul>
    </main>
  );
}

export function Bar({ done, total, label }: { done: number; total: number; label: string }) {
  const percent = total > 0 ? Math.round((done / total) * 100) : 0;
  return (
    <div
      className="bg-shoal my-2 h-1.5 overflow-hidden rounded"
      role="progressbar"
      aria-valuenow={percent}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-label={label}
    >
      <div className="bg-river h-full" style={{ width: `${percent}%` }} />
    </div>
  );
}

function FootageCard({ footage, projectId }: { footage: Footage; projectId: string }) {
  const navigate = useNavigate();
  const document = useProject((s) => s.document)!;
  const progress = useProgress((s) => s.of[footage.id]);
  const remove = useMutation({ mutationFn: () => api.removeFootage(footage.id), onError: (e) => toast.error(e.message) });
  const { facts } = footage;
  const bend = () => {
    edit((project) => putOnReel(project, footage));
    void navigate(`/projects/${projectId}/bench`);
  };
  const notes = [
    facts.variable && `variable rate, laid on ${speakRate(facts.rate)} fps: ${facts.variable.held} frames held, ${facts.variable.dropped} left out`,
    facts.interlaced && 'interlaced; read as whole frames',
    facts.pixelAspect !== '1:1' && `pixels ${facts.pixelAspect}`,
    facts.rotation !== 0 && `turned ${facts.rotation}°`,
    facts.captureRate && `shot at ${speakRate(facts.captureRate)} fps, by its tag`,
    facts.startTimecode && `starts at ${facts.startTimecode}`,
    facts.sound && Math.abs(facts.sound.startSeconds) > 0.001 && `sound starts at ${facts.sound.startSeconds.toFixed(3)} s`,
  ].filter((note): note is string => typeof note === 'string');
  return (
    <li className="border-line bg-sheet overflow-hidden rounded-xl border" aria-label={footage.name}>
      <CardPicture footage={footage} />
      <div className="p-4">
        <p className="font-display mb-1 text-base font-semibold break-all">{footage.name}</p>
        <p className="text-faint font-mono text-xs">
          {speakRate(facts.rate)} fps · {facts.width}×{facts.height} · {facts.frames} frames · {formatTimecode(facts.frames, facts.rate)}
        </p>
        <p className="text-faint font-mono text-xs">
          {facts.codec}, {facts.bitDepth} bit · {(facts.bytes / 1e6).toFixed(1)} MB · {facts.sound ? `sound ${facts.sound.codec}` : 'no sound'}
        </p>
        <p className="mt-2 text-sm">{whatItBears(facts, document)}</p>
        {notes.map((note) => (
          <p key={note} className="text-brass text-sm">
            {note}
          </p>
        ))}
        {footage.status === 'failed' && <p className="text-vermilion text-sm">{footage.problem}</p>}
        {footage.status === 'preparing' && (
          <>
            <Bar done={progress?.done ?? 0} total={progress?.total ?? facts.frames} label={`Preparing ${footage.name}`} />
            <p className="text-faint text-xs">Preparing its proxy…</p>
          </>
        )}
        <div className="mt-3 flex gap-2">
          <button className="button" disabled={footage.status !== 'ready'} onClick={bend}>
            Bend this clip
          </button>
          <button className="button ml-auto px-2" aria-label={`Remove ${footage.name}`} onClick={() => remove.mutate()}>
            <Trash2 size={15} aria-hidden />
          </button>
        </div>
      </div>
    </li>
  );
}

/** The filmstrip's picture under the pointer, so that moving over a card looks through the clip. */
function CardPicture({ footage }: { footage: Footage }) {
  const [at, setAt] = useState(0.3);
  const { count } = footage.facts.strip;
  const { width, height } = footage.facts.proxy;
  const index = Math.min(count - 1, Math.floor(at * count));
  return (
    <div
      className="bg-frame aspect-video w-full"
      onPointerMove={(e) => setAt((e.clientX - e.currentTarget.getBoundingClientRect().left) / e.currentTarget.clientWidth)}
      style={
        footage.status === 'ready'
          ? {
              backgroundImage: `url(${stripUrl(footage.id)})`,
              backgroundRepeat: 'no-repeat',
              backgroundSize: `${(count * 100 * Math.min(1, width / height / (16 / 9))).toFixed(3)}% auto`,
              backgroundPosition: count > 1 ? `${(index / (count - 1)) * 100}% 50%` : '50% 50%',
            }
          : {}
      }
    />
  );
}

const percent = (speed: number) => `${Math.round(speed * 1000) / 10}`;

/** "120 fps on 24: down to 20 % with every frame real; even at 20 40 60 80 100 %". */
function whatItBears(facts: Footage['facts'], { reel }: Project): string {
  const slowest = slowestRealSpeed(facts.rate, reel.rate);
  const even = evenSpeeds(facts.rate, reel.rate, Math.min(slowest, 1), 1).slice(0, 6);
  const bears = slowest < 0.999 ? `down to ${percent(slowest)} % with every frame real` : 'no slow motion without made frames';
  return `${speakRate(facts.rate)} fps on ${speakRate(reel.rate)}: ${bears}${even.length ? `; even at ${even.map(percent).join(' ')} %` : ''}`;
}

/** The reel of this version holds one clip: another takes its place (one undo brings it back). */
function putOnReel(project: Project, footage: Footage): Project {
  const { rate, frames } = footage.facts;
  const known = project.sources.some((s) => s.id === footage.id);
  const withSource = known
    ? project
    : addSource(project, { id: footage.id, name: footage.name.replace(/\.\w+$/, ''), frames, nativeRate: rate, readAs: rate, moments: [] });
  const emptied = {
    ...withSource,
    reel: {
      ...withSource.reel,
      items: [],
      ...(withSource.reel.items.length === 0 && { width: even(facts(footage).width), height: even(facts(footage).height) }),
    },
  };
  return appendClip(emptied, `clip-${crypto.randomUUID().slice(0, 8)}`, footage.id);
}

const facts = (footage: Footage) => {
  const [num, den] = footage.facts.pixelAspect.split(':').map(Number) as [number, number];
  return { width: (footage.facts.width * num) / den, height: footage.facts.height };
};
const even = (n: number) => Math.max(2, Math.round(n / 2) * 2);
