import { isGroup } from '@idle-bend/core/model';
import { byDoubt } from '@idle-bend/core/rough';
import { speedRange } from '@idle-bend/core/time-map';
import { Tabs } from 'radix-ui';
import { lazy, Suspense } from 'react';
import { speedWords } from '../speed/speed-words.ts';
import { useRoughSpots } from '../motion.ts';
import { blurAfterPointer } from '../../ui/choice.tsx';
import { ClipSpeed } from '../speed/clip-speed.tsx';
import { MenuButton } from '../menu/menu-button.tsx';
import { Panel } from '../../ui/panel.tsx';
import { benchStore, goTo, type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';

/** What is not needed for the first picture comes right after it. */
const AdviceList = lazy(async () => ({ default: (await import('../between/advice-list.tsx')).AdviceList }));
const GroupLine = lazy(async () => ({ default: (await import('../group/group-line.tsx')).GroupLine }));
/** Speed comes with the bench; the other pages are loaded when they are opened. */
const ClipBetween = lazy(async () => ({ default: (await import('../between/clip-between.tsx')).ClipBetween }));
const ClipPicture = lazy(async () => ({ default: (await import('./clip-picture.tsx')).ClipPicture }));
const ClipMore = lazy(async () => ({ default: (await import('./clip-more.tsx')).ClipMore }));
const ClipPlace = lazy(async () => ({ default: (await import('./clip-place.tsx')).ClipPlace }));
const ClipShapes = lazy(async () => ({ default: (await import('../shape/clip-shapes.tsx')).ClipShapes }));
const ClipSound = lazy(async () => ({ default: (await import('../sound/clip-sound.tsx')).ClipSound }));
const ClipVersions = lazy(async () => ({ default: (await import('../compare/clip-versions.tsx')).ClipVersions }));

const PAGES = [
  { value: 'speed', text: 'Speed', page: ClipSpeed },
  { value: 'between', text: 'Frames', page: ClipBetween },
  { value: 'shapes', text: 'Shapes', page: ClipShapes },
  { value: 'more', text: 'Holds', page: ClipMore },
  { value: 'place', text: 'Place', page: ClipPlace },
  { value: 'framing', text: 'Picture', page: ClipPicture },
  { value: 'sound', text: 'Sound', page: ClipSound },
  { value: 'versions', text: 'Compare', page: ClipVersions },
] as const;

export function ClipPanel({ bench }: { bench: BenchClip }) {
  const { clip, frames, slope } = bench;
  const page = useBench((s) => s.clipPage);
  return (
    <Panel
      title={isGroup(bench.source) ? 'Group' : 'Clip'}
      about={`${frames} frames · ${speedWords(speedRange(clip.map, slope))}`}
      action={<MenuButton of="clip" label="Menu of the clip" />}
    >
      <Suspense>{isGroup(bench.source) && <GroupLine bench={bench} />}</Suspense>
      <Suspense>
        <AdviceList bench={bench} />
      </Suspense>
      <RoughLine bench={bench} />
      <Tabs.Root value={page} onValueChange={(clipPage) => benchStore.setState({ clipPage })}>
        <Tabs.List
          aria-label="What to do with the clip"
          className="border-line mb-3 flex justify-between gap-1 border-b text-[13px]"
        >
          {PAGES.map(({ value, text }) => (
            <Tabs.Trigger
              key={value}
              value={value}
              onClick={blurAfterPointer}
              className="text-faint data-[state=active]:border-vermilion data-[state=active]:text-ink -mb-px border-b-2 border-transparent pb-1 whitespace-nowrap data-[state=active]:font-semibold"
            >
              {text}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        {PAGES.map(({ value, page: Page }) => (
          <Tabs.Content key={value} value={value} className="flex flex-col gap-3">
            <Suspense>
              <Page bench={bench} />
            </Suspense>
          </Tabs.Content>
        ))}
      </Tabs.Root>
    </Panel>
  );
}

/** That Flow is likely to go wrong somewhere, wherever one looks; a press leads to the worst place and what mends it. */
function RoughLine({ bench }: { bench: BenchClip }) {
  const spots = useRoughSpots(bench);
  if (spots.length === 0) return null;
  const worst = byDoubt(spots)[0]!;
  const go = () => {
    benchStore.setState({ clipPage: 'between' });
    goTo(Math.round((worst.from + worst.to) / 2), bench.frames);
  };
  return (
    <button
      className="border-vermilion bg-sheet rounded-lg border border-dashed px-3 py-1.5 text-left text-[13px] hover:underline"
      onClick={go}
    >
      {spots.length === 1 ? 'One rough spot' : `${spots.length} rough spots`}: Flow is likely to tear or smear around
      frame {Math.round((worst.from + worst.to) / 2)}.
    </button>
  );
}
