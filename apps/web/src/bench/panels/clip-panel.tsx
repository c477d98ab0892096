import { speedRange } from '@idle-bend/core';
import { Tabs } from 'radix-ui';
import { useBench, type BenchClip } from '../bench-store.ts';
import { speedWords } from '../speed-words.ts';
import { AdviceList } from './advice-list.tsx';
import { ClipMore } from './clip-more.tsx';
import { ClipShapes } from './clip-shapes.tsx';
import { ClipSpeed } from './clip-speed.tsx';
import { ClipVersions } from './clip-versions.tsx';
import { Panel } from './panel.tsx';

const PAGES = [
  { value: 'speed', text: 'Speed', page: ClipSpeed },
  { value: 'shapes', text: 'Shapes', page: ClipShapes },
  { value: 'more', text: 'Hold, steps', page: ClipMore },
  { value: 'versions', text: 'Compare', page: ClipVersions },
] as const;

export function ClipPanel({ bench }: { bench: BenchClip }) {
  const { clip, frames, slope } = bench;
  const page = useBench((s) => s.clipPage);
  return (
    <Panel title="Clip" about={`${frames} frames · ${speedWords(speedRange(clip.map, slope))}`}>
      <AdviceList bench={bench} />
      <Tabs.Root value={page} onValueChange={(clipPage) => useBench.setState({ clipPage })}>
        <Tabs.List aria-label="What to do with the clip" className="border-line mb-3 flex gap-4 border-b">
          {PAGES.map(({ value, text }) => (
            <Tabs.Trigger
              key={value}
              value={value}
              className="text-faint data-[state=active]:border-vermilion data-[state=active]:text-ink -mb-px border-b-2 border-transparent pb-1 data-[state=active]:font-semibold"
            >
              {text}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        {PAGES.map(({ value, page: Page }) => (
          <Tabs.Content key={value} value={value} className="flex flex-col gap-3">
            <Page bench={bench} />
          </Tabs.Content>
        ))}
      </Tabs.Root>
    </Panel>
  );
}
