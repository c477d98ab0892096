import { whatChanged } from '@idle-bend/core/edit';
import { useQuery } from '@tanstack/react-query';
import { reelFrames } from '@idle-bend/core/reel';
import { speakRate, formatTimecode } from '@idle-bend/core/time';
import { CircleQuestionMark, History, type LucideIcon, Moon, Redo2, Sun, Undo2 } from 'lucide-react';
import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { Link, NavLink, Outlet, useNavigate, useParams } from 'react-router';
import { useStore } from 'zustand';
import { guideStore, openGuide } from '../guide/guide-state.ts';
import { Mark } from './mark.tsx';
import { useServerEvents } from './use-server-events.ts';
import { select } from '../session/bench-state.ts';
import { flush, loadProject, projectStore, redo, undo } from '../session/session.ts';
import { type KeepState } from '../session/document-store.ts';
import { useProject } from '../ui/use-session.ts';
import { tell, tellError } from '../session/notices.ts';

const MachineState = lazy(async () => ({ default: (await import('./machine-state.tsx')).MachineState }));

const FrameCounts = lazy(async () => ({ default: (await import('../footage/frame-counts.tsx')).FrameCounts }));

const KEEP_WORDS: Readonly<Record<KeepState, string>> = {
  kept: 'Saved',
  keeping: 'Saving…',
  waiting: 'Waiting for the server; changes are safe here',
  conflict: 'Changed in another window',
};

/** A slider or a choice that has the keys has no undo of its own; fields do. */
const IN_CONTROLS = { enableOnFormTags: ['slider', 'radio'] as const };

/** The frame around a project's three places: footage, bench, renders. */
export function ProjectShell() {
  const { projectId = '' } = useParams();
  const { isError, error, refetch } = useQuery({
    queryKey: ['load', projectId],
    queryFn: () => loadProject(projectId).then(() => true),
    gcTime: 0,
    staleTime: Infinity,
    retry: 1,
  });
  useServerEvents(projectId);
  const id = useProject((s) => s.id);
  const name = useProject((s) => s.name);
  const keep = useProject((s) => s.keep);
  const guideIsOpen = useStore(guideStore, (s) => s.page !== undefined);
  const isEmpty = useProject((s) => s.document === undefined || reelFrames(s.document) === 0);
  useHotkeys('?', () => openGuide(), { useKey: true });
  useHotkeys('mod+z', (e) => (e.preventDefault(), turnBack(undo)), IN_CONTROLS);
  useHotkeys('mod+shift+z, mod+y', (e) => (e.preventDefault(), turnBack(redo)), IN_CONTROLS);
  useEffect(() => {
    const warn = (event: BeforeUnloadEvent) => projectStore.getState().keep !== 'kept' && event.preventDefault();
    addEventListener('beforeunload', warn);
    return () => removeEventListener('beforeunload', warn);
  }, []);

  return (
    <div className="flex h-full flex-col">
      <header className="border-line flex h-11 shrink-0 items-center gap-3 border-b px-3">
        <Link
          to="/"
          className="font-display flex shrink-0 items-center gap-2 text-lg font-bold whitespace-nowrap"
          aria-label="Idle Bend, all projects"
        >
          <Mark /> <span className="max-[1180px]:hidden">Idle Bend</span>
        </Link>
        <span className="border-line h-6 border-l" />
        <span className="font-display max-w-56 min-w-24 truncate font-semibold" data-tip={name}>
          {name}
        </span>
        <ReelFacts projectId={projectId} />
        <nav className="ml-3 flex h-full shrink-0 gap-4" aria-label="Places">
          {['footage', 'bench', 'renders'].map((place) => (
            <NavLink
              key={place}
              to={`/projects/${projectId}/${place}`}
              className={({ isActive }) =>
                `flex h-full items-center border-b-2 capitalize ${isActive ? 'border-vermilion font-semibold' : 'text-faint border-transparent'}`
              }
            >
              {place}
            </NavLink>
          ))}
        </nav>
        <span
          className={`ml-auto min-w-0 truncate text-xs ${keep === 'waiting' || keep === 'conflict' ? 'text-vermilion' : 'text-faint'}`}
          role="status"
          title={KEEP_WORDS[keep]}
        >
          {KEEP_WORDS[keep]}
        </span>
        <button
          className="button px-2"
          aria-label="Guide"
          data-tip="How to do each job (?)"
          onClick={() => openGuide()}
        >
          <CircleQuestionMark size={15} aria-hidden />
        </button>
        <ThemeButton />
        <EarlierStatesButton projectId={projectId} />
        <UndoButtons />
        <RenderButton projectId={projectId} disabled={isEmpty} />
      </header>
      <Suspense>
        <MachineState />
        <FrameCounts />
      </Suspense>
      <div className="min-h-0 flex-1">
        {isError ? (
          <div className="mx-auto mt-24 max-w-md text-center">
            <p className="font-display mb-2 text-lg font-semibold">This project could not be opened.</p>
            <p className="text-faint mb-4">{error.message}</p>
            <button className="button" onClick={() => void refetch()}>
              Try again
            </button>
          </div>
        ) : id === projectId ? (
          <Outlet />
        ) : (
          <p className="text-faint mt-24 text-center">Opening…</p>
        )}
      </div>
      <Suspense>{guideIsOpen && <Guide />}</Suspense>
      {keep === 'conflict' && (
        <Suspense>
          <ConflictDialog />
        </Suspense>
      )}
    </div>
  );
}

/** Undoes, or does again; where the bench cannot be seen it says what that was. */
function turnBack(step: typeof undo): void {
  const { whole: before } = projectStore.getState();
  step();
  const { whole: after } = projectStore.getState();
  if (!before || !after || before === after || location.pathname.endsWith('/bench')) return;
  const verb = step === undo ? 'Undone' : 'Done again';
  tell(`${verb}: ${whatChanged(before, after)}.`, { id: 'turned-back' });
}

/** The reel's rate, size and length: the way to where they are set. */
function ReelFacts({ projectId }: { projectId: string }) {
  const document = useProject((s) => s.document);
  const navigate = useNavigate();
  if (!document) return null;
  const { rate, width, height } = document.reel;
  return (
    <button
      className="text-faint hover:text-river min-h-6 font-mono text-xs whitespace-nowrap"
      data-tip="The reel’s rate and size"
      onClick={() => {
        select({ kind: 'reel' });
        void navigate(`/projects/${projectId}/bench`);
      }}
    >
      {speakRate(rate)} fps
      <span className="max-[940px]:hidden">
        {' '}
        · {width}×{height} · {formatTimecode(reelFrames(document), rate)}
      </span>
    </button>
  );
}

function UndoButtons() {
  const canUndo = useProject((s) => s.past.length > 0);
  const canRedo = useProject((s) => s.future.length > 0);
  return (
    <>
      <TurnButton step={undo} word="Undo" keys="Ctrl Z" icon={Undo2} can={canUndo} />
      <TurnButton step={redo} word="Redo" keys="Ctrl Shift Z" icon={Redo2} can={canRedo} />
    </>
  );
}

function TurnButton({
  step,
  word,
  keys,
  icon: Icon,
  can,
}: {
  step: typeof undo;
  word: string;
  keys: string;
  icon: LucideIcon;
  can: boolean;
}) {
  return (
    <button
      className="button"
      onClick={() => turnBack(step)}
      disabled={!can}
      aria-label={word}
      data-tip={`${word} (${keys})`}
    >
      <Icon size={15} aria-hidden /> <span className="max-[1180px]:hidden">{word}</span>
    </button>
  );
}

function ThemeButton() {
  const [night, setNight] = useState(() => document.documentElement.dataset['theme'] === 'night');
  const Icon = night ? Sun : Moon;
  const turn = () => {
    document.documentElement.dataset['theme'] = night ? 'day' : 'night';
    localStorage.setItem('theme', night ? 'day' : 'night');
    setNight(!night);
  };
  return (
    <button className="button px-2" onClick={turn} aria-label={night ? 'Day theme' : 'Night theme'}>
      <Icon size={15} aria-hidden />
    </button>
  );
}

function RenderButton({ projectId, disabled }: { projectId: string; disabled: boolean }) {
  const navigate = useNavigate();
  const start = async () => {
    try {
      await flush();
      await navigate(`/projects/${projectId}/renders`);
    } catch (error) {
      tellError((error as Error).message);
    }
  };
  return (
    <button className="button button-ink" disabled={disabled} onClick={() => void start()}>
      Render…
    </button>
  );
}

const Guide = lazy(async () => ({ default: (await import('../guide/guide.tsx')).Guide }));
const ConflictDialog = lazy(async () => ({ default: (await import('./conflict-dialog.tsx')).ConflictDialog }));
const EarlierStates = lazy(async () => ({ default: (await import('./earlier-states.tsx')).EarlierStates }));

function EarlierStatesButton({ projectId }: { projectId: string }) {
  const [isOpen, setOpen] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  const close = () => {
    setOpen(false);
    button.current?.focus();
  };
  return (
    <>
      <button
        ref={button}
        className="button px-2"
        aria-label="Earlier states"
        aria-haspopup="dialog"
        data-tip="Earlier states of this project"
        onClick={() => setOpen(true)}
      >
        <History size={15} aria-hidden />
      </button>
      {isOpen && (
        <Suspense>
          <EarlierStates projectId={projectId} close={close} />
        </Suspense>
      )}
    </>
  );
}
