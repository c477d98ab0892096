import { setClipSound, setReachSound } from '@idle-bend/core/edit';
import {
  MAX_CLIP_GAIN,
  MIN_CLIP_GAIN,
  type ClipSound as Own,
  type FreezeSound,
  type SoundMode,
} from '@idle-bend/core/model';
import { useFootageOf } from '../motion.ts';
import { Choice } from '../../ui/choice.tsx';
import { Note } from '../../ui/panel.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { typedNumber } from '../../ui/typed-number.ts';
import { edit } from '../../session/session.ts';
import { type BenchClip } from '../../session/bench-state.ts';
import { attempt } from '../../session/command.ts';

const SOUND_CHOICES: readonly { value: SoundMode; text: string; title: string }[] = [
  { value: 'follow', text: 'follows', title: 'Its pitch falls and rises with the speed; backward it plays backward' },
  {
    value: 'keep',
    text: 'keeps pitch',
    title: 'It is drawn out and together along the same curve, and its pitch stays',
  },
  { value: 'mute', text: 'muted', title: 'It is not heard' },
];

const FREEZES: readonly { value: FreezeSound; text: string; title: string }[] = [
  { value: 'silence', text: 'silence', title: 'Nothing is heard while the picture stands still' },
  { value: 'grain', text: 'held', title: 'The moment goes on sounding' },
];

export const readDecibels = (typed: string): number => typedNumber(typed, /dB$/i, 'decibels');
const readSeconds = (typed: string): number => typedNumber(typed, /s$/, 'seconds');

/** The clip's own sound: how it goes with the picture, how loud. */
export function ClipSound({ bench }: { bench: BenchClip }) {
  const { clip, source } = bench;
  const { sound } = clip;
  const media = useFootageOf(source.id);
  const set = (change: Partial<Own>) => edit((project) => setClipSound(project, clip.id, change));
  if (media && media.sound === 'none') return <Note>This footage has no sound.</Note>;
  return (
    <>
      <Choice
        label="Its own sound"
        value={sound.mode}
        options={SOUND_CHOICES}
        choose={(mode) => attempt(() => set({ mode }))}
      />
      <Choice
        label="In a freeze"
        value={sound.freeze}
        options={FREEZES}
        choose={(freeze) => attempt(() => set({ freeze }))}
      />
      <div className="grid grid-cols-3 gap-3">
        <TypedField
          label="Loudness"
          text={`${sound.gainDb} dB`}
          commit={(typed) => set({ gainDb: readDecibels(typed) })}
          step={(by) => set({ gainDb: Math.max(MIN_CLIP_GAIN, Math.min(MAX_CLIP_GAIN, sound.gainDb + by)) })}
        />
        <TypedField
          label="Fade in, s"
          text={String(sound.fadeInSeconds)}
          commit={(typed) => set({ fadeInSeconds: readSeconds(typed) })}
        />
        <TypedField
          label="Fade out, s"
          text={String(sound.fadeOutSeconds)}
          commit={(typed) => set({ fadeOutSeconds: readSeconds(typed) })}
        />
      </div>
      {sound.reaches.length > 0 && (
        <p className="text-faint text-xs">
          {sound.reaches.length === 1 ? 'One reach is' : `${sound.reaches.length} reaches are`} heard another way: see
          the reach.
        </p>
      )}
      <p className="text-faint text-xs">
        Drawn on the reel as it will sound. Cuts are crossed over three thousandths of a second, so none clicks.
      </p>
    </>
  );
}

/** How a reach is heard, where not as the clip. */
export function ReachSound({ bench, index }: { bench: BenchClip; index: number }) {
  const { clip } = bench;
  const own = clip.sound.reaches.find(({ reach }) => reach === index)?.mode ?? 'clip';
  return (
    <Choice<SoundMode | 'clip'>
      label="Sound of this reach"
      value={own}
      options={[{ value: 'clip', text: 'the clip’s' }, ...SOUND_CHOICES]}
      choose={(next) => edit((project) => setReachSound(project, clip.id, index, next === 'clip' ? null : next))}
    />
  );
}
