import { setFraming } from '@idle-bend/core/edit';
import { InvalidInput } from '@idle-bend/core/foundation';
import { coveredShare, placePicture } from '@idle-bend/core/framing';
import { FITTED, isGroup, MAX_SCALE, MIN_SCALE, type Framing } from '@idle-bend/core/model';
import { RotateCcw } from 'lucide-react';
import { useFootageOf } from '../motion.ts';
import { Choice } from '../../ui/choice.tsx';
import { Note } from '../../ui/panel.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { edit } from '../../session/session.ts';
import { type BenchClip } from '../../session/bench-state.ts';
import { attempt } from '../../session/command.ts';

const FITS = [
  { value: 'fit', text: 'Fit', title: 'All of the picture, with black beside it where the shapes differ' },
  { value: 'fill', text: 'Fill', title: 'All of the reel, with what stands out cut off' },
] as const;

const percent = (share: number) => `${Math.round(share * 1000) / 10} %`;

function readPercent(typed: string): number {
  const value = Number(typed.replace('%', '').replace('−', '-').trim());
  if (!Number.isFinite(value) || typed.trim() === '')
    throw new InvalidInput('framing', `"${typed}" is not a number of per cent`);
  return value / 100;
}

/** How the clip's picture lies in the reel's; while this is open the picture itself can be dragged. */
export function ClipFraming({ bench }: { bench: BenchClip }) {
  const { clip, project, source } = bench;
  const { width, height } = project.reel;
  const framing = clip.framing ?? FITTED;
  const picture = useFootageOf(source.id)?.facts.picture;
  const change = (to: Partial<Framing>) => edit((before) => setFraming(before, clip.id, { ...framing, ...to }));
  if (isGroup(source))
    return <Note>Each clip inside a group has a framing of its own: open the group to change it.</Note>;
  const place = picture && placePicture(picture.width / picture.height, project.reel, framing);
  const step = (field: 'x' | 'y', size: number) => (by: number) =>
    change({ [field]: framing[field] + (2 * by) / size });
  return (
    <>
      <div className="grid grid-cols-[1fr_auto] items-end gap-3">
        <Choice
          label={`In the reel’s ${width} × ${height}`}
          value={framing.fit}
          options={FITS}
          choose={(fit) => attempt(() => change({ fit }))}
        />
        <button
          className="button h-8"
          disabled={clip.framing === null}
          onClick={() => edit((before) => setFraming(before, clip.id, null))}
        >
          <RotateCcw size={14} aria-hidden /> As fitted
        </button>
      </div>
      <div className="grid grid-cols-3 gap-3">
        <TypedField
          label="Scale"
          text={percent(framing.scale)}
          commit={(typed) => change({ scale: readPercent(typed) })}
          step={(by) => change({ scale: Math.min(MAX_SCALE, Math.max(MIN_SCALE, framing.scale + by / 100)) })}
        />
        <TypedField
          label="Across"
          text={percent(framing.x)}
          commit={(typed) => change({ x: readPercent(typed) })}
          step={step('x', width)}
        />
        <TypedField
          label="Down"
          text={percent(framing.y)}
          commit={(typed) => change({ y: readPercent(typed) })}
          step={step('y', height)}
        />
      </div>
      {place && picture && (
        <p className="text-faint font-mono text-xs">
          {picture.width} × {picture.height} shown at {place.width} × {place.height}, covers{' '}
          {percent(coveredShare(place, project.reel))} of the reel’s picture
          {place.width > picture.width * 1.001 && ` · enlarged ${(place.width / picture.width).toFixed(2)} times`}
        </p>
      )}
      <p className="text-faint text-xs">Drag the picture to move it in its frame; the wheel over it scales.</p>
    </>
  );
}
