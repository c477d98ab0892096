import { steadySentence } from '@idle-bend/core/steady';
import { setSteady } from '@idle-bend/core/edit';
import { isGroup, type SteadyKeeps } from '@idle-bend/core/model';
import { Crosshair } from 'lucide-react';
import { useFootageOf, useMotion } from '../motion.ts';
import { holdWhole } from './commands.ts';
import { Choice } from '../../ui/choice.tsx';
import { edit } from '../../session/session.ts';
import { benchStore, type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';

const CHOICES = [
  { value: 'off', text: 'as filmed', title: 'The picture as it is' },
  { value: 'still', text: 'still', title: 'As if the camera stood still, for the range or the whole clip' },
  { value: 'move', text: 'even move', title: 'Its movement goes on, without the shake' },
] as const;

/** Holds the picture steady: shake multiplies where a clip is sped up. */
export function ClipSteady({ bench }: { bench: BenchClip }) {
  const { clip, source } = bench;
  const { motion } = useMotion(source.id);
  const picture = useFootageOf(source.id)?.facts.picture;
  const picking = useBench((s) => s.picking !== undefined);
  const keeps = clip.steady?.keeps ?? 'still';
  if (isGroup(source) || !picture) return null;
  const aspect = picture.width / picture.height;
  const choose = (next: 'off' | SteadyKeeps) => {
    if (next === 'off') return edit((project) => setSteady(project, clip.id, null));
    holdWhole(bench, motion, next, aspect);
  };
  return (
    <>
      <div className="grid grid-cols-[1fr_auto] items-end gap-3">
        <Choice label="Held steady" value={clip.steady?.keeps ?? 'off'} options={CHOICES} choose={choose} />
        <button
          className={`button h-8 ${picking ? 'border-river text-river' : ''}`}
          aria-pressed={picking}
          data-tip="Then press on the picture: what is there is held where it is"
          onClick={() => benchStore.setState({ picking: picking ? undefined : { keeps, aspect } })}
        >
          <Crosshair size={15} aria-hidden /> A patch…
        </button>
      </div>
      {clip.steady && <p className="text-faint text-xs">{steadySentence(clip.steady)}</p>}
    </>
  );
}
