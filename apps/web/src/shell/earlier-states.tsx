import { useMutation, useQuery } from '@tanstack/react-query';
import type { Backup, Footage } from '@idle-bend/core/api';
import { formatTimecode } from '@idle-bend/core/time';
import { X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { api } from '../api.ts';
import { useFootage } from '../bench/motion.ts';
import { smallOf } from '../bench/strips.ts';
import { capital } from '../session/command.ts';
import { flush, takeAfter } from '../session/session.ts';
import { useProject } from '../ui/use-session.ts';
import { tellError } from '../session/notices.ts';

/** Earlier states of the project, saved on the server; one press goes back to one, and one undo forward again. */
export function EarlierStates({ projectId, close }: { projectId: string; close: () => void }) {
  return (
    <Dialog.Root open onOpenChange={(isOpen) => !isOpen && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 bg-black/40" />
        <Dialog.Content className="bg-paper border-line fixed top-20 left-1/2 w-[44rem] max-w-[calc(100vw-2rem)] -translate-x-1/2 rounded-xl border p-5">
          <div className="flex items-start justify-between">
            <Dialog.Title className="font-display mb-1 text-lg font-semibold">Earlier states</Dialog.Title>
            <Dialog.Close className="text-faint hover:text-river" aria-label="Close">
              <X size={18} aria-hidden />
            </Dialog.Close>
          </div>
          <Dialog.Description className="text-faint mb-3 text-[13px]">
            While you edit, a state of the project is saved about once a minute. Going back to one saves what is there
            now as well.
          </Dialog.Description>
          <States projectId={projectId} close={close} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** What the reel showed where it began, in its middle and at its end. */
function Pictures({ state, footage }: { state: Backup; footage: readonly Footage[] }) {
  return (
    <span className="bg-frame flex h-12 w-[16.5rem] shrink-0 overflow-hidden rounded" aria-hidden>
      {state.shows.map(({ footageId, frame }, i) => {
        const small = smallOf(footage, footageId, frame);
        return (
          <span
            key={i}
            className="h-full flex-1 bg-cover"
            style={
              small && {
                backgroundImage: `url(${small.address})`,
                backgroundSize: `${small.count * 100}% 100%`,
                backgroundPosition: small.count > 1 ? `${(small.index / (small.count - 1)) * 100}% 0` : '0 0',
              }
            }
          />
        );
      })}
    </span>
  );
}

function States({ projectId, close }: { projectId: string; close: () => void }) {
  const rate = useProject((s) => s.document?.reel.rate);
  const { data, error } = useQuery({
    queryKey: ['backups', projectId],
    queryFn: () => api.backups(projectId),
    gcTime: 0,
  });
  const footage = useFootage() ?? [];
  const goBack = useMutation({
    mutationFn: async ({ version }: Backup) => {
      await flush();
      await takeAfter(() => api.goBack(projectId, version));
    },
    onSuccess: close,
    onError: (e) => tellError(e.message),
  });
  if (error) return <p className="text-vermilion">{error.message}</p>;
  if (data?.length === 0) return <p className="text-faint">Nothing was saved yet.</p>;
  return (
    <ul className="grid max-h-[28rem] gap-1 overflow-y-auto">
      {data?.map((state) => (
        <li key={state.version} className="border-line bg-sheet flex items-center gap-3 rounded-lg border px-3 py-1.5">
          <Pictures state={state} footage={footage} />
          <span className="min-w-0 flex-1 text-xs">
            <span className="block font-mono">
              {new Date(state.keptAt).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'medium' })}
            </span>
            <span className="text-faint block">
              {state.clips} {state.clips === 1 ? 'clip' : 'clips'}
              {rate && ` · ${formatTimecode(state.frames, rate)}`}
            </span>
            {state.changed && <span className="block">{capital(state.changed)}.</span>}
          </span>
          <button
            className="button shrink-0 px-2 py-0.5 text-xs"
            disabled={goBack.isPending}
            onClick={() => goBack.mutate(state)}
          >
            Go back to it
          </button>
        </li>
      ))}
    </ul>
  );
}
