import { loudnessAmount } from '@idle-bend/core/accent';
import { AMOUNT_WAYS, type Amount, type Project } from '@idle-bend/core/model';
import { BEND_SHAPES } from '@idle-bend/core/shape';
import { Select } from '../../ui/select.tsx';
import { api } from '../../api.ts';
import { attempt } from '../../session/command.ts';
import { tellError } from '../../session/notices.ts';
import { useFootage } from '../motion.ts';

const SAME = 'same';
const WAY_WORDS = { rises: 'rises', falls: 'falls', swells: 'rises and falls' } as const;

interface Props {
  readonly project: Project;
  readonly amount: Amount | undefined;
  readonly put: (amount: Amount | undefined) => void;
}

/** How the strength changes over a range: by an ease, or with the loudness of the music. */
export function AmountFields({ project, amount, put }: Props) {
  const footage = useFootage();
  const { sounds } = project.reel;
  const followed = amount?.kind === 'loudness' ? amount.soundId : undefined;
  const listed = sounds.filter(
    (sound) =>
      sound.id === followed || footage?.some(({ id, sound: state }) => id === sound.footageId && state === 'ready'),
  );
  const ease = amount?.kind === 'eased' ? amount.ease : 'soft';
  const follow = async (soundId: string) => {
    const sound = sounds.find(({ id }) => id === soundId)!;
    try {
      const { revision } = footage!.find(({ id }) => id === sound.footageId)!;
      const peaks = await api.peaks(sound.footageId, revision);
      attempt(() => put(loudnessAmount(sound, peaks)));
    } catch (error) {
      tellError((error as Error).message);
    }
  };
  const choose = (value: string) => {
    const way = AMOUNT_WAYS.find((each) => each === value);
    if (way) put({ kind: 'eased', way, ease });
    else if (value === SAME) put(undefined);
    else void follow(value);
  };
  // Without its sound it stays the same.
  const value = amount?.kind === 'eased' ? amount.way : (listed.find(({ id }) => id === followed)?.id ?? SAME);
  const own = BEND_SHAPES.find((shape) => String(shape.ease) === String(ease));
  return (
    <div className="grid grid-cols-2 gap-3">
      <Select
        label="Its amount"
        value={value}
        options={[
          { value: SAME, text: 'stays the same' },
          ...AMOUNT_WAYS.map((way) => ({ value: way, text: WAY_WORDS[way] })),
          ...listed.map(({ id, name }) => ({ value: id, text: `is as loud as “${name}”` })),
        ]}
        choose={choose}
      />
      {amount?.kind === 'eased' && (
        <Select
          label="How it changes"
          value={own?.id ?? ''}
          options={BEND_SHAPES.map(({ id, name }) => ({ value: id, text: name }))}
          choose={(id) => put({ ...amount, ease: BEND_SHAPES.find((shape) => shape.id === id)!.ease })}
        />
      )}
    </div>
  );
}
