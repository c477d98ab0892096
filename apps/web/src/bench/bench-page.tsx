import type { FootageFacts } from '@idle-bend/core/api';
import { footageOf } from '@idle-bend/core/group';
import { isGroup } from '@idle-bend/core/model';
import { lazy, Suspense, useEffect, useState, type ComponentType } from 'react';
import { Link, useParams } from 'react-router';
import { loadTheRest } from './lately.ts';
import { ChartTitle } from './chart/chart-title.tsx';
import { Chart } from './chart/chart.tsx';
import { firstStepsWait } from './first-steps-wait.ts';
import { HintLine } from './hint-line.tsx';
import { SelectionPanel } from './selection-panel.tsx';
import { Picture } from './picture/picture.tsx';
import { Divider, usePictureWidth } from './picture/picture-width.tsx';
import { Readouts } from './readouts.tsx';
import { useFootage } from './motion.ts';
import { ReelStrip } from './reel/reel-strip.tsx';
import { Transport } from './transport.tsx';
import { useActions } from './use-actions.ts';
import { useTransport } from './use-transport.ts';
import { closeAllGroups, projectStore } from '../session/session.ts';
import { activate, benchClip, benchStore, type BenchClip } from '../session/bench-state.ts';
import { useBench, useProject } from '../ui/use-session.ts';

export function BenchPage() {
  const { projectId = '' } = useParams();
  const activeId = useBench((s) => s.activeId);
  const bench = benchClip(
    useProject((s) => s.document),
    activeId,
  );
  const inGroup = useProject((s) => s.within.length > 0);
  // Elsewhere the project is the whole project.
  useEffect(() => closeAllGroups, []);
  if (!bench && inGroup)
    return (
      <main className="flex h-full flex-col">
        <Suspense>
          <Crumbs />
        </Suspense>
        <p className="text-faint mt-24 text-center">There is no clip in this group any more. Undo, or close it.</p>
      </main>
    );
  if (!bench)
    return (
      <main className="mx-auto mt-24 max-w-md text-center">
        <p className="font-display mb-1 text-lg font-semibold">There is no clip on the bench.</p>
        <p className="text-faint mb-4">Choose one in the footage room; it comes here to be bent.</p>
        <Link className="button" to={`/projects/${projectId}/footage`}>
          To the footage
        </Link>
      </main>
    );
  return <Bench bench={bench} projectId={projectId} />;
}

function Bench({ bench, projectId }: { bench: BenchClip; projectId: string }) {
  const media = useMediaOf(bench);
  useActions();
  useTransport(bench);
  // The clip may have been taken away, or none was chosen yet.
  useEffect(() => {
    if (benchStore.getState().activeId === bench.clip.id) return;
    benchStore.setState({ clock: 0 });
    activate(bench.clip.id);
  }, [bench.clip.id]);
  // What was picked or dismissed belongs to this project.
  useEffect(
    () => benchStore.setState({ picked: [], dismissed: [], opened: projectStore.getState().whole }),
    [projectId],
  );
  const inGroup = useProject((s) => s.within.length > 0);
  const picture = usePictureWidth();
  const isLarge = useBench((s) => s.isPictureLarge);
  const [isNew] = useState(() => firstStepsWait(projectId));
  return (
    <main className="flex h-full min-h-0 flex-col">
      <Suspense>{inGroup && <Crumbs />}</Suspense>
      {!isLarge && <ReelStrip bench={bench} />}
      <div className={`flex min-h-0 flex-1 ${isLarge ? 'flex-col-reverse' : ''}`}>
        <div className={`bg-shoal flex min-w-0 flex-col ${isLarge ? 'h-44 shrink-0' : 'flex-1'}`}>
          {!isLarge && <ChartTitle bench={bench} />}
          <Chart bench={bench} />
          <Suspense>{!isLarge && isNew && <FirstSteps />}</Suspense>
          {!isLarge && <HintLine />}
        </div>
        {!isLarge && <Divider {...picture} />}
        <aside
          className={`bg-paper flex flex-col overflow-hidden ${isLarge ? 'min-h-0 flex-1' : 'shrink-0'}`}
          style={isLarge ? {} : { width: picture.width }}
          aria-label="Picture and selection"
        >
          {media.ready ? <Picture bench={bench} width={picture.width} /> : <Waiting problem={media.problem} />}
          <Transport />
          {!isLarge && (
            <>
              <Readouts bench={bench} facts={media.facts} />
              {/* The picture stays in sight whatever is read below it. */}
              <div className="min-h-0 flex-1 overflow-y-auto">
                <SelectionPanel bench={bench} />
              </div>
            </>
          )}
        </aside>
      </div>
      <ActionsWhenLoaded />
      <MenuWhenOpen />
    </main>
  );
}

/** Whether all footage the clip shows can be looked at; of a clip that is no group, what its file says of itself. */
function useMediaOf({ project, clip, source }: BenchClip): {
  ready: boolean;
  problem: string | undefined;
  facts: FootageFacts | undefined;
} {
  const footage = useFootage() ?? [];
  const media = footageOf(project, clip).map(({ id }) => footage.find((f) => f.id === id));
  const failed = media.find((each) => each?.status === 'failed');
  return {
    ready: media.length > 0 && media.every((each) => each !== undefined && each.status !== 'failed'),
    problem: failed?.problem ?? undefined,
    facts: isGroup(source) ? undefined : media[0]?.facts,
  };
}

function Waiting({ problem }: { problem: string | null | undefined }) {
  return (
    <div className="bg-frame grid aspect-video w-full shrink-0 place-items-center p-6 text-center text-sm text-white/75">
      {problem ?? 'This clip’s footage is being looked for. The curve can be bent meanwhile.'}
    </div>
  );
}

const BenchMenu = lazy(async () => ({ default: (await import('./menu/menu.tsx')).BenchMenu }));

/** Menus are loaded when the first is opened. */
function MenuWhenOpen() {
  const isOpen = useBench((s) => s.menu !== undefined);
  return <Suspense>{isOpen && <BenchMenu />}</Suspense>;
}

const FirstSteps = lazy(async () => ({ default: (await import('./first-steps.tsx')).FirstSteps }));
const Crumbs = lazy(async () => ({ default: (await import('./group/crumbs.tsx')).Crumbs }));

/** After the bench itself is there. */
const LOAD_ACTIONS_MS = 1000;

/** The list of actions is loaded after the bench, or when it is asked for before; from then on it opens at once. */
function ActionsWhenLoaded() {
  const isOpen = useBench((s) => s.actionsOpen);
  const [List, setList] = useState<ComponentType>();
  useEffect(() => {
    if (List) return;
    const load = () => {
      loadTheRest();
      void import('./actions-list.tsx').then(
        ({ ActionsList }) => setList(() => ActionsList),
        () => undefined,
      );
    };
    const timer = setTimeout(load, isOpen ? 0 : LOAD_ACTIONS_MS);
    return () => clearTimeout(timer);
  }, [List, isOpen]);
  return List ? <List /> : null;
}
