import type { Footage, PictureFacts } from '@idle-bend/core/api';
import { setDroppedRepeats } from '@idle-bend/core/edit';
import { describeRepeats } from '@idle-bend/core/health';
import type { DroppedRepeats } from '@idle-bend/core/model';
import { withSource } from '@idle-bend/core/edit';
import { edit } from '../session/session.ts';
import { useProject } from '../ui/use-session.ts';
import { Select } from '../ui/select.tsx';

const CHOICES: readonly { value: 'none' | DroppedRepeats['mode']; text: string }[] = [
  { value: 'none', text: 'Repeats shown' },
  { value: 'keep', text: 'Skipped, time kept' },
  { value: 'close', text: 'Skipped, closed up' },
];

/** What looking at the pictures found: where frames repeat, where scenes change, where frames are missing; and whether repeats are left out. */
export function HealthStrip({ footage, picture }: { footage: Footage; picture: PictureFacts }) {
  const droppedRepeats =
    useProject((s) => s.document?.sources.find((source) => source.id === footage.id)?.droppedRepeats) ?? null;
  const { health } = footage;
  if (!health) return null;
  const { repeats, cuts, drops } = health;
  const words = [
    describeRepeats(repeats, picture.frames),
    drops.length > 0 && `${drops.length} of them in place of a missing frame`,
    cuts.length > 0 &&
      `${cuts.length === 1 ? 'a scene change' : `${cuts.length} scene changes`} at ${cuts.slice(0, 4).join(', ')}`,
  ].filter((w): w is string => typeof w === 'string');
  if (words.length === 0) return <p className="text-moss text-sm">Every frame is its own: no repeats, no cuts.</p>;
  const choose = (value: string) => {
    const next = value === 'none' ? null : { mode: value as DroppedRepeats['mode'], repeats: [...repeats] };
    edit((project) => setDroppedRepeats(withSource(project, footage, picture), footage.id, next));
  };
  return (
    <div className="mt-1">
      <Strip repeats={repeats} cuts={cuts} frames={picture.frames} name={footage.name} />
      <p className="text-brass text-sm">{words.join('; ')}.</p>
      {repeats.length > 0 && (
        <div className="text-faint mt-1 flex items-center gap-2 text-xs">
          In clips
          <Select
            label={`Repeats of ${footage.name}`}
            place="hidden"
            value={droppedRepeats?.mode ?? 'none'}
            className="h-7 w-auto text-xs"
            options={CHOICES}
            choose={choose}
          />
        </div>
      )}
    </div>
  );
}

function Strip({
  repeats,
  cuts,
  frames,
  name,
}: {
  repeats: readonly number[];
  cuts: readonly number[];
  frames: number;
  name: string;
}) {
  const width = 300;
  const cell = Math.max(0.6, width / frames);
  const x = (n: number) => (n / frames) * width;
  return (
    <svg
      viewBox={`0 0 ${width} 10`}
      preserveAspectRatio="none"
      className="bg-river-pale h-2.5 w-full rounded"
      role="img"
      aria-label={`${name}: ${repeats.length} repeated frames, ${cuts.length} scene changes`}
    >
      <path
        d={repeats.map((n) => `M${x(n).toFixed(2)},0h${cell.toFixed(2)}v10h-${cell.toFixed(2)}z`).join('')}
        fill="var(--brass)"
      />
      <path d={cuts.map((n) => `M${x(n).toFixed(2)},0v10`).join('')} stroke="var(--ink)" strokeWidth={1.5} />
    </svg>
  );
}
