import { useEffect } from 'react';
import { toast, Toaster } from 'sonner';
import { showNoticesWith, type Notices as Shown } from '../session/notices.ts';

const SHOW = { plain: toast, warning: toast.warning, error: toast.error } as const;

const notes: Shown = {
  show(sentence, tone, { id, durationMs, action }) {
    SHOW[tone](sentence, {
      ...(id !== undefined && { id }),
      ...(durationMs !== undefined && { duration: durationMs }),
      ...(action && { action: { label: action.label, onClick: action.run } }),
    });
  },
  showBusy(sentence) {
    const shown = toast.loading(sentence);
    return () => toast.dismiss(shown);
  },
};

/** Sentences of commands, as notes in the corner. */
export function Notices() {
  useEffect(() => showNoticesWith(notes), []);
  return <Toaster position="bottom-left" toastOptions={{ className: 'font-sans' }} />;
}
