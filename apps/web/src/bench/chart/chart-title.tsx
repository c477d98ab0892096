import { evenSpeeds } from '@idle-bend/core/cadence';
import { isGroup } from '@idle-bend/core/model';
import { speakRate } from '@idle-bend/core/time';
import { listOfPercents } from '../../ui/list-of-percents.ts';
import { MenuButton } from '../menu/menu-button.tsx';
import { type BenchClip } from '../../session/bench-state.ts';
import { drawnBy } from '../../ui/drawn-by.ts';

/** What the source is and bears, above the chart. */
function ChartTitlePart({ bench }: { bench: BenchClip }) {
  const { source, project, slope } = bench;
  // With fewer source frames than the reel has, each is held, at half its speed twice as long.
  const slowest = slope < 1 ? 0.25 : 1 / slope;
  const even = evenSpeeds(source.readAs, project.reel.rate, slowest, 1).slice(0, 6);
  const clean = even.length > 0 ? ` · clean at ${listOfPercents(even)}` : '';
  return (
    <div className="flex items-baseline gap-4 px-2 pt-2 pb-1">
      <h1 className="font-display text-sm font-semibold whitespace-nowrap">{bench.clip.name}</h1>
      <p className="text-faint truncate font-mono text-xs">
        {isGroup(source)
          ? `group · ${source.content.items.filter(({ kind }) => kind === 'clip').length} clips, ${source.frames} frames inside · Enter opens it`
          : `${speakRate(source.nativeRate)} fps read as ${speakRate(source.readAs)} · ${Math.round(slope * 1000) / 1000} source frames per frame at 100 %${clean}`}
      </p>
      <span className="-my-1 ml-auto self-center">
        <MenuButton of="chart" label="Menu of the chart" />
      </span>
    </div>
  );
}

export const ChartTitle = drawnBy(
  'chart title',
  ({ bench }) => [bench.clip.name, bench.source, bench.slope, bench.project.reel.rate],
  ChartTitlePart,
);
