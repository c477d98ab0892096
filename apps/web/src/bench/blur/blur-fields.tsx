import { checkBlur, NO_BLUR, DEFAULT_SHUTTER, DEFAULT_SMEAR, type Blur } from '@idle-bend/core/model';
import { Choice } from '../../ui/choice.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { typedNumber } from '../../ui/typed-number.ts';
import { attempt } from '../../session/command.ts';
import { Check } from '../../ui/check.tsx';

interface Props {
  readonly label: string;
  readonly blur: Blur | null;
  /** What stands in where there is no blur of its own; without a word there always is one. */
  readonly inherits?: { readonly text: string; readonly title: string };
  readonly set: (blur: Blur | null) => void;
}

type Kind = Blur['kind'] | 'inherited';

const KINDS: readonly { value: Kind; text: string; title: string }[] = [
  { value: 'none', text: 'none', title: 'No blur beyond the footage’s own' },
  {
    value: 'shutter',
    text: 'shutter',
    title: 'What really passes while a shutter is open, from moments made along the motion',
  },
  {
    value: 'smear',
    text: 'smear',
    title: 'The picture drawn out along its common motion: quicker, and for footage Flow cannot follow',
  },
];

const FIRST: Readonly<Record<Blur['kind'], Blur>> = { none: NO_BLUR, shutter: DEFAULT_SHUTTER, smear: DEFAULT_SMEAR };

/** How motion is blurred: of the reel, of a clip, of a join. */
export function BlurFields({ label, blur, inherits, set }: Props) {
  const options = inherits ? [{ value: 'inherited' as const, ...inherits }, ...KINDS] : KINDS;
  const put = (next: Blur) => {
    checkBlur(next);
    set(next);
  };
  return (
    <>
      <Choice
        label={label}
        value={blur?.kind ?? 'inherited'}
        options={options}
        choose={(kind) => attempt(() => set(kind === 'inherited' ? null : FIRST[kind]))}
      />
      {blur && blur.kind !== 'none' && (
        <div className="grid grid-cols-[1fr_1fr_auto] items-end gap-3">
          {blur.kind === 'shutter' ? (
            <TypedField
              label="Shutter angle"
              text={`${blur.angle}°`}
              commit={(typed) => put({ ...blur, angle: typedNumber(typed, /°$/, 'degrees') })}
              step={(by) => put({ ...blur, angle: Math.min(720, Math.max(0, blur.angle + 5 * by)) })}
            />
          ) : (
            <>
              <TypedField
                label="Strength"
                text={`${Math.round(blur.strength * 100)} %`}
                commit={(typed) => put({ ...blur, strength: typedNumber(typed, /%$/, 'per cent') / 100 })}
                step={(by) => put({ ...blur, strength: Math.max(0, Math.round(blur.strength * 100 + 5 * by) / 100) })}
              />
              <TypedField
                label="Fade, frames"
                text={String(blur.fade)}
                commit={(typed) => put({ ...blur, fade: typedNumber(typed, /f$/, 'frames') })}
                step={(by) => put({ ...blur, fade: Math.max(0, blur.fade + by) })}
              />
            </>
          )}
          <Check
            label="at 100 % too"
            className="h-8"
            tip="Else only what speeding up took away from the footage’s own blur is added"
            checked={blur.always}
            set={(always) => attempt(() => put({ ...blur, always }))}
          />
        </div>
      )}
    </>
  );
}
