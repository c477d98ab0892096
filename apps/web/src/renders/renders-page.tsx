import { useQuery } from '@tanstack/react-query';
import { reelFrames } from '@idle-bend/core/reel';
import { formatTimecode } from '@idle-bend/core/time';
import { useParams } from 'react-router';
import { api } from '../api.ts';
import { HandOver } from './hand-over.tsx';
import { KeptMotion } from './kept-motion.tsx';
import { NewRender } from './new-render.tsx';
import { RenderRow } from './render-row.tsx';
import { useProject } from '../ui/use-session.ts';

export function RendersPage() {
  const { projectId = '' } = useParams();
  const document = useProject((s) => s.document)!;
  const name = useProject((s) => s.name) ?? '';
  const { data, error } = useQuery({ queryKey: ['renders', projectId], queryFn: () => api.renders(projectId) });
  const { data: footage = [] } = useQuery({ queryKey: ['footage', projectId], queryFn: () => api.footage(projectId) });
  const { rate, width, height } = document.reel;
  const frames = reelFrames(document);
  // What waits stands on top, in the order of its turn; then what is past, the newest first.
  const queue = data?.filter(({ status }) => status === 'queued' || status === 'running').toReversed() ?? [];
  return (
    <main className="mx-auto h-full max-w-4xl overflow-y-auto p-6">
      <h1 className="font-display mb-1 text-2xl font-bold">Renders</h1>
      <p className="text-faint mb-4">
        {frames === 0
          ? 'There is no clip on the reel yet.'
          : `The reel is ${frames} frames, ${formatTimecode(frames, rate)}, at ${width}×${height}, made from the originals, with the clips’ own sounds and those that lie under it.`}
      </p>
      <NewRender projectId={projectId} document={document} footage={footage} />
      {error && <p className="text-vermilion">{error.message}</p>}
      {data?.length === 0 && <p className="text-faint">Nothing rendered yet.</p>}
      <ul className="grid gap-2">
        {queue.map((render) => (
          <RenderRow key={render.id} render={render} document={document} queue={queue} />
        ))}
        {data
          ?.filter((render) => !queue.includes(render))
          .map((render) => (
            <RenderRow key={render.id} render={render} document={document} queue={[]} />
          ))}
      </ul>
      {frames > 0 && <HandOver document={document} name={name} projectId={projectId} />}
      <KeptMotion />
    </main>
  );
}
