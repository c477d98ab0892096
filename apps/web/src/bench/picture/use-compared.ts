import { useMemo } from 'react';
import type { Compared } from '../../preview/messages.ts';
import type { BenchClip } from '../../session/bench-state.ts';
import { useBench, useProject } from '../../ui/use-session.ts';
import { compared } from '../compare/commands.ts';

/** What the picture is compared with: the same value while nothing about it changes. */
export function useCompared(bench: BenchClip): Compared | undefined {
  const compare = useBench((s) => s.compare);
  const reel = useProject((s) => s.document?.reel);
  return useMemo(() => {
    const other = compare && compared(bench, compare);
    return other && { ...other, how: compare.how, by: compare.by, edge: compare.edge };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the bench is new with every edit; what matters of it is named
  }, [compare, bench.clip, bench.source, reel?.method, reel?.tuning]);
}
