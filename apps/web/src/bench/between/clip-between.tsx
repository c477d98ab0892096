import { setDroppedRepeats, updateClip } from '@idle-bend/core/edit';
import { DEFAULT_TUNING, sameTuning, type FlowTuning, type Mend, type Method } from '@idle-bend/core/model';
import { methodOf, tuningOf, interpolationOf } from '@idle-bend/core/reel';
import { removeMend, updateMend } from '@idle-bend/core/rough';
import { usesFlow } from '@idle-bend/core/sampling';
import { RotateCcw, X } from 'lucide-react';
import type { Look } from '../../preview/messages.ts';
import { useFootageOf } from '../motion.ts';
import { Choice } from '../../ui/choice.tsx';
import { METHOD_CHOICES } from '../speed/clip-speed.tsx';
import { RoughList } from './rough-list.tsx';
import { SlideField } from '../../ui/slide-field.tsx';
import { edit, editDuringGesture } from '../../session/session.ts';
import { benchStore, type BenchClip } from '../../session/bench-state.ts';
import { changeMethod } from '../clip/commands.ts';
import { useBench } from '../../ui/use-session.ts';
import { Select } from '../../ui/select.tsx';

const LOOK_CHOICES: readonly { value: Look; text: string; title: string }[] = [
  { value: 'picture', text: 'Picture', title: 'The frame as it is' },
  { value: 'neighbours', text: 'Neighbours', title: 'The made frame between the two real ones' },
  { value: 'arrows', text: 'Arrows', title: 'Where every part comes from and goes to' },
  { value: 'colour', text: 'Colour', title: 'Motion as colour: hue by direction, strength by distance' },
  { value: 'hidden', text: 'Hidden', title: 'What one of the two real frames does not see' },
  {
    value: 'blended',
    text: 'Blended',
    title: 'Where motion explains too little, and the two frames are blended instead',
  },
];
const MEND_WORDS: Readonly<Record<Mend['way'], string>> = { step: 'Step', mix: 'Mix', hold: 'frozen' };

/** How the clip's in-betweens are made, how they look, and where they are likely to go wrong. */
export function ClipBetween({ bench }: { bench: BenchClip }) {
  const { clip, project } = bench;
  const look = useBench((s) => s.look);
  const method = methodOf(project, clip);
  const making = interpolationOf(project, clip);
  const forReel = () => edit((p) => ({ ...p, reel: { ...p.reel, method, tuning: tuningOf(p, clip) } }));
  const reelsOwn = clip.method === null && clip.tuning === null;
  const sameAsReel = method === project.reel.method && sameTuning(making.tuning, project.reel.tuning);
  return (
    <>
      <Choice<Method> label="In-betweens" value={method} options={METHOD_CHOICES} choose={changeMethod} />
      <div className="text-faint -mt-1.5 flex items-center gap-3 text-xs">
        {reelsOwn ? (
          <span>As the reel says.</span>
        ) : (
          <button
            className="text-river font-semibold hover:underline"
            onClick={() => edit((p) => updateClip(p, clip.id, (c) => ({ ...c, method: null, tuning: null })))}
          >
            As the reel says ({METHOD_CHOICES.find(({ value }) => value === project.reel.method)!.text})
          </button>
        )}
        {!sameAsReel && (
          <button className="text-river ml-auto font-semibold hover:underline" onClick={forReel}>
            Make it the reel’s way
          </button>
        )}
      </div>
      {usesFlow(making) && <Repeats bench={bench} />}
      <RoughList bench={bench} />
      <Mends bench={bench} />
      {usesFlow(making) && <Tuning bench={bench} tuning={making.tuning} />}
      {usesFlow(making) && (
        <Choice<Look>
          label="Look at"
          value={look}
          options={LOOK_CHOICES}
          choose={(next) => benchStore.setState({ look: next, compare: undefined })}
        />
      )}
    </>
  );
}

/** Flow stands still at a repeated frame; left out, motion goes on past it. */
function Repeats({ bench: { source } }: { bench: BenchClip }) {
  const repeats = useFootageOf(source.id)?.health?.repeats;
  if (!repeats || repeats.length === 0 || source.droppedRepeats) return null;
  return (
    <p className="border-line bg-sheet rounded-lg border px-3 py-1.5 text-[13px]">
      {repeats.length === 1 ? 'One frame of this footage repeats' : `${repeats.length} frames of this footage repeat`}{' '}
      the one before: Flow stands still there.{' '}
      <button
        className="text-river font-semibold hover:underline"
        onClick={() => edit((p) => setDroppedRepeats(p, source.id, { mode: 'keep', repeats }))}
      >
        Leave {repeats.length === 1 ? 'it' : 'them'} out
      </button>
    </p>
  );
}

/** How far motion is trusted, calm or keen: both seen at once on the frame that shows. */
function Tuning({ bench, tuning }: { bench: BenchClip; tuning: FlowTuning }) {
  const slide = (change: Partial<FlowTuning>) =>
    editDuringGesture((project) =>
      updateClip(project, bench.clip.id, (c) => ({ ...c, tuning: { ...tuningOf(project, c), ...change } })),
    );
  const keen = Math.round(tuning.keenness * 100);
  return (
    <div className="grid grid-cols-[1fr_1fr_auto] items-center gap-4">
      <SlideField
        label="Motion is trusted"
        value={Math.round(tuning.trust * 100)}
        low={0}
        high={100}
        ends={['nowhere', 'everywhere']}
        shown={`${Math.round(tuning.trust * 100)} %`}
        slide={(value) => slide({ trust: value / 100 })}
      />
      <SlideField
        label="Where frames differ"
        value={keen}
        low={-100}
        high={100}
        ends={['calm', 'keen']}
        shown={keen === 0 ? 'even' : `${Math.abs(keen)} ${keen > 0 ? 'keen' : 'calm'}`}
        slide={(value) => slide({ keenness: value / 100 })}
      />
      <button
        className="button px-1.5"
        aria-label="Back to full trust, even"
        data-tip="Back to full trust, even"
        disabled={sameTuning(tuning, DEFAULT_TUNING)}
        onClick={() => edit((project) => updateClip(project, bench.clip.id, (c) => ({ ...c, tuning: DEFAULT_TUNING })))}
      >
        <RotateCcw size={14} aria-hidden />
      </button>
    </div>
  );
}

/** Stretches of the source that are made another way. */
function Mends({ bench }: { bench: BenchClip }) {
  const { clip } = bench;
  if (clip.mends.length === 0) return null;
  return (
    <div>
      <span className="label">Mended</span>
      <ul className="flex flex-col gap-1" aria-label="Mended stretches">
        {clip.mends.map((mend) => (
          <li
            key={mend.id}
            className="border-line bg-sheet flex items-center gap-2 rounded-lg border px-2 py-1 text-[13px]"
          >
            <span className="min-w-0 flex-1 truncate">
              <span className="font-mono">
                {mend.from}–{mend.to}
              </span>{' '}
              {MEND_WORDS[mend.way]}
            </span>
            <div className="text-faint flex items-center gap-1.5 text-xs">
              handed over in
              <Select
                label="Handed over in, source frames"
                place="hidden"
                value={String(mend.soft)}
                className="h-6 w-auto px-1 text-xs"
                options={[...new Set([0, 0.5, 1, 2, 4, mend.soft])]
                  .sort((a, b) => a - b)
                  .map((soft) => ({ value: String(soft), text: String(soft) }))}
                choose={(soft) => edit((project) => updateMend(project, clip.id, mend.id, { soft: Number(soft) }))}
              />
              source frames
            </div>
            <button
              className="text-faint hover:text-ink"
              aria-label={`Take the mend of ${mend.from} to ${mend.to} off`}
              onClick={() => edit((project) => removeMend(project, clip.id, mend.id))}
            >
              <X size={14} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
