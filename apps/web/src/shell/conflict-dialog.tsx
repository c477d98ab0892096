import { AlertDialog } from 'radix-ui';
import { keepOurs, takeTheirs } from '../session/session.ts';
import { tellError } from '../session/notices.ts';

/** Which of two changes goes on, this window's or another's. */
export function ConflictDialog() {
  const choose = (choice: () => Promise<void>) => () => void choice().catch((error: Error) => tellError(error.message));
  return (
    <AlertDialog.Root open>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 bg-black/40" />
        <AlertDialog.Content className="bg-paper border-line fixed top-1/3 left-1/2 w-[28rem] -translate-x-1/2 rounded-xl border p-5">
          <AlertDialog.Title className="font-display mb-1 text-lg font-semibold">
            Changed in another window
          </AlertDialog.Title>
          <AlertDialog.Description className="text-faint mb-4">
            This project was changed elsewhere while this window had changes of its own. Nothing is lost: choose which
            one goes on.
          </AlertDialog.Description>
          <div className="flex justify-end gap-2">
            <button className="button" onClick={choose(takeTheirs)}>
              Take the other window’s
            </button>
            <button className="button button-ink" onClick={choose(keepOurs)}>
              Keep this window’s
            </button>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
