import { useQuery } from '@tanstack/react-query';
import { FileUp, FolderInput, HardDrive } from 'lucide-react';
import { lazy, Suspense, useRef, useState, type DragEvent } from 'react';
import { useParams } from 'react-router';
import { api } from '../api.ts';
import { Bar } from '../shell/bar.tsx';
import { arranged, ORDERS, type Order } from './arrange.ts';
import { FootageCard } from './footage-card.tsx';
import { useFootageRoom } from './in-out-points.ts';
import { MissingBar } from './missing-bar.tsx';
import { NearView } from './near-view.tsx';
import { PickedBar } from './picked-bar.tsx';
import { useMediaRoots } from './use-media-roots.ts';
import { headroomOf } from './slow-motion-headroom.ts';
import { sendFiles, useUploads } from './uploads.ts';
import { useProject } from '../ui/use-session.ts';
import { tell } from '../session/notices.ts';
import { Select } from '../ui/select.tsx';

const ThisMachine = lazy(() => import('./this-machine/this-machine.tsx'));

/** So many cards are seen at first, on a large screen. */
const FIRST = 24;

export function FootagePage() {
  const { projectId = '' } = useParams();
  const { data, error } = useQuery({ queryKey: ['footage', projectId], queryFn: () => api.footage(projectId) });
  const watchedFolder = useProject((s) => s.watchedFolder);
  const headroom = useProject((s) => s.document && headroomOf(s.document.reel.rate));
  const { running } = useUploads();
  const [sought, setSought] = useState('');
  const [order, setOrder] = useState<Order>('added');
  const shown = arranged(data ?? [], sought, order);
  const chooser = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const take = (files: FileList | null) => sendFiles(projectId, [...(files ?? [])]);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    take(event.dataTransfer.files);
  };
  const uploads = Object.entries(running);
  const roots = useMediaRoots();
  const [browsing, setBrowsing] = useState(false);
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
        <button className="button py-0.5 text-sm" data-tip={watchedFolder} onClick={() => void copyPath(watchedFolder)}>
          <FolderInput size={15} aria-hidden /> Copy its path
        </button>
        {roots.length > 0 && (
          <button className="button ml-auto" aria-expanded={browsing} onClick={() => setBrowsing(!browsing)}>
            <HardDrive size={16} aria-hidden /> This machine
          </button>
        )}
        <button className={`button ${roots.length > 0 ? '' : 'ml-auto'}`} onClick={() => chooser.current?.click()}>
          <FileUp size={16} aria-hidden /> Choose files…
        </button>
        <input
          ref={chooser}
          type="file"
          multiple
          hidden
          aria-label="Footage files"
          onChange={(e) => (take(e.target.files), (e.target.value = ''))}
        />
      </div>
      {browsing && roots.length > 0 && (
        <Suspense>
          <ThisMachine projectId={projectId} roots={roots} footage={data ?? []} close={() => setBrowsing(false)} />
        </Suspense>
      )}
      <MissingBar footage={data ?? []} projectId={projectId} canSearch={roots.length > 0} />
      {data && data.length > 1 && (
        <div className="mb-4 flex items-center gap-3">
          <input
            className="field max-w-64 font-sans"
            type="search"
            aria-label="Search footage"
            placeholder="Search by name or rate"
            value={sought}
            onChange={(e) => setSought(e.target.value)}
          />
          <Select
            label="Sort by"
            place="before"
            value={order}
            className="w-auto"
            options={ORDERS}
            choose={(value) => setOrder(value as Order)}
          />
          <button
            className="button"
            onClick={() => useFootageRoom.setState({ picked: shown.filter((f) => f.facts.picture).map((f) => f.id) })}
          >
            Pick all shown
          </button>
          <span className="text-faint text-sm">Move over a picture to look through it; I and O mark a part.</span>
        </div>
      )}
      <PickedBar footage={arranged(data ?? [], '', order)} projectId={projectId} />
      {error && <p className="text-vermilion">{error.message}</p>}
      {data && data.length > 0 && shown.length === 0 && <p className="text-faint">No matches.</p>}
      {data?.length === 0 && uploads.length === 0 && (
        <div className="border-line text-faint mt-8 rounded-2xl border-2 border-dashed p-16 text-center">
          <p className="font-display text-ink text-lg font-semibold">No footage yet</p>
          <p>Drop a clip here. High frame rates slow down best{headroom && `: ${headroom}`}.</p>
        </div>
      )}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(330px,1fr))] gap-4">
        {shown.map((footage, i) => (
          <NearView
            key={footage.id}
            label={footage.name}
            className="border-line bg-sheet flex flex-col overflow-hidden rounded-xl border"
            isFirst={i < FIRST}
          >
            <FootageCard footage={footage} projectId={projectId} />
          </NearView>
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

async function copyPath(path: string): Promise<void> {
  try {
    // Pages that came over a plain network have no clipboard.
    await navigator.clipboard.writeText(path);
    tell('The path is copied.');
  } catch {
    tell(path, { durationMs: 20_000 });
  }
}
