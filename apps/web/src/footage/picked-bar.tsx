import type { Footage } from '@idle-bend/core/api';
import { parseRate, speakRate } from '@idle-bend/core/time';
import { Gauge, ListEnd, X } from 'lucide-react';
import { useFootageRoom } from './in-out-points.ts';
import { readFootageAs } from '@idle-bend/core/edit';
import { usePutOnReel } from './use-put-on-reel.tsx';
import { READ_AS_RATES } from './read-as-rates.ts';
import { edit } from '../session/session.ts';
import { useProject } from '../ui/use-session.ts';
import { Select } from '../ui/select.tsx';

/** What can be done with all footage that is picked, as one edit; in the order of `footage`. */
export function PickedBar({ footage, projectId }: { footage: readonly Footage[]; projectId: string }) {
  const { put, question } = usePutOnReel(projectId);
  const picked = useFootageRoom((s) => s.picked);
  const reelRate = useProject((s) => s.document?.reel.rate);
  const isPicked = new Set(picked);
  const chosen = footage.filter((f) => isPicked.has(f.id) && f.facts.picture);
  if (chosen.length === 0 || !reelRate) return null;
  const readAll = (rateOf: (f: Footage) => Parameters<typeof readFootageAs>[3]) =>
    edit((project) => chosen.reduce((p, f) => readFootageAs(p, f, f.facts.picture!, rateOf(f)), project));
  const usable = chosen.filter(({ status }) => status !== 'failed');
  return (
    <div
      className="border-river bg-river-pale mb-4 flex flex-wrap items-center gap-3 rounded-xl border px-4 py-2"
      role="group"
      aria-label="Picked footage"
    >
      {question}
      <span className="font-semibold">{chosen.length === 1 ? 'One is picked' : `${chosen.length} are picked`}</span>
      <button
        className="button button-ink"
        disabled={usable.length === 0}
        data-tip="One after another, in the order they are shown in"
        onClick={() => put(usable)}
      >
        <ListEnd size={15} aria-hidden /> Put on the reel
      </button>
      <button className="button" onClick={() => readAll(() => reelRate)}>
        <Gauge size={15} aria-hidden /> Slow to the timeline’s {speakRate(reelRate)} fps
      </button>
      <Select
        label="Read all as"
        place="before"
        value=""
        none="choose a rate…"
        className="w-auto"
        options={[
          { value: 'own', text: 'its own rate' },
          ...READ_AS_RATES.map((rate) => ({ value: rate, text: `${rate} fps` })),
        ]}
        choose={(value) => readAll((f) => (value === 'own' ? f.facts.picture!.rate : parseRate(value)))}
      />
      <button
        className="button ml-auto px-2"
        aria-label="Pick none"
        onClick={() => useFootageRoom.setState({ picked: [] })}
      >
        <X size={15} aria-hidden />
      </button>
    </div>
  );
}
