import { useEffect } from 'react';
import { toast, Toaster } from 'sonner';
import { showNoticesWith, type Notices as Shown } from '../session/notices.ts';
import { useTheme } from './use-theme.ts';

const SHOW = { plain: toast, warning: toast.warning, error: toast.error } as const;

const notes: Shown = {
  show(sentence, tone, { id, durationMs, action }) {
    SHOW[tone](sentence, {
      ...(id !== undefined && { id }),
      ...(durationMs !== undefined && { duration: durationMs }),
      ...(action && { action: { label: action.label, onClick: () => act(action.run) } }),
    });
  },
  showBusy(sentence) {
    const shown = toast.loading(sentence);
    return () => toast.dismiss(shown);
  },
};

/** Whoever came to a notice by keys has them where they were before, at once: not when it goes, as something else may be typed in by then. */
function act(run: () => void): void {
  const here = document.activeElement;
  if (here instanceof HTMLElement && here.closest('[data-sonner-toaster]')) here.blur();
  run();
}

/** Sentences of commands, as notes in the corner. A press on one leaves the keys where they are. */
export function Notices() {
  useEffect(() => showNoticesWith(notes), []);
  const theme = useTheme() === 'night' ? 'dark' : 'light';
  return (
    <div onMouseDown={(event) => event.preventDefault()}>
      <Toaster position="bottom-left" theme={theme} toastOptions={{ className: 'font-sans' }} />
    </div>
  );
}
