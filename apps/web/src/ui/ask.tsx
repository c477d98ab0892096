import { AlertDialog } from 'radix-ui';
import type { ReactElement } from 'react';

interface Question {
  readonly question: string;
  /** What a yes means. */
  readonly means: string;
  readonly yes: string;
  readonly no?: string;
  readonly run: () => void;
}

/** A button that asks first. */
export function Ask({ children, ...question }: Question & { readonly children: ReactElement }) {
  return (
    <AlertDialog.Root>
      <AlertDialog.Trigger asChild>{children}</AlertDialog.Trigger>
      <AskFrame {...question} />
    </AlertDialog.Root>
  );
}

/** The question itself, for what opens it otherwise. */
export function AskFrame({ question, means, yes, no = 'Keep it', run }: Question) {
  return (
    <AlertDialog.Portal>
      <AlertDialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
      <AlertDialog.Content className="bg-sheet fixed top-1/3 left-1/2 z-50 w-[26rem] -translate-x-1/2 rounded-xl p-5 shadow-xl">
        <AlertDialog.Title className="font-display text-lg font-semibold break-words">{question}</AlertDialog.Title>
        <AlertDialog.Description className="text-faint mt-1 text-sm">{means}</AlertDialog.Description>
        <div className="mt-4 flex justify-end gap-2">
          <AlertDialog.Cancel className="button">{no}</AlertDialog.Cancel>
          <AlertDialog.Action className="button button-ink" onClick={run}>
            {yes}
          </AlertDialog.Action>
        </div>
      </AlertDialog.Content>
    </AlertDialog.Portal>
  );
}
