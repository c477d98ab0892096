import { fieldsOf, LOOKS, type AccentLook, type LookField } from '@idle-bend/core/look';
import { Check } from '../../ui/check.tsx';
import { Choice } from '../../ui/choice.tsx';
import { Select } from '../../ui/select.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { typedNumber } from '../../ui/typed-number.ts';
import { attempt } from '../../session/command.ts';

/** What a look asks for: how long it is, and the settings of its kind. */
export function LookFields({ look, put }: { look: AccentLook; put: (look: AccentLook) => void }) {
  return (
    <div className="grid grid-cols-3 items-end gap-3">
      <TypedField
        label={LOOKS[look.kind].sustained ? 'Comes and goes, frames' : 'Frames'}
        text={String(look.frames)}
        commit={(typed) => put({ ...look, frames: typedNumber(typed, /f$/, 'frames') })}
        step={(by) => put({ ...look, frames: Math.max(1, look.frames + by) })}
      />
      {fieldsOf(look).map(([name, definition, value]) => (
        <OneField
          key={name}
          definition={definition}
          value={value}
          // What is typed is checked with the whole set.
          put={(next) => put({ ...look, [name]: next })}
        />
      ))}
    </div>
  );
}

interface FieldProps<Definition extends LookField = LookField> {
  readonly definition: Definition;
  readonly value: unknown;
  readonly put: (value: unknown) => void;
}

/** Choices of more letters than this in all do not fit side by side. */
const MOST_IN_A_ROW = 24;

/** A setting of a look, by its kind. */
function OneField({ definition, value, put }: FieldProps) {
  switch (definition.kind) {
    case 'colour':
      return <ColourField definition={definition} value={value} put={put} />;
    case 'text':
      return (
        <div className="col-span-3">
          <TypedField label={definition.label} text={String(value)} commit={put} />
        </div>
      );
    case 'flag':
      return <Check label={definition.label} className="h-8" checked={value === true} set={put} />;
    case 'degrees':
      return (
        <TypedField
          label={definition.label}
          text={`${Number(value)}°`}
          commit={(typed) => put(typedNumber(typed, /°$/, 'degrees'))}
          step={(by) => put(Math.max(definition.min, Math.min(definition.max, Number(value) + 5 * by)))}
        />
      );
    case 'choice':
      if (definition.options.join('').length > MOST_IN_A_ROW)
        return (
          <div className="col-span-2">
            <Select
              label={definition.label}
              value={String(value)}
              options={definition.options.map((option) => ({ value: option, text: option }))}
              choose={put}
            />
          </div>
        );
      return (
        <div className="col-span-2">
          <Choice
            label={definition.label}
            value={String(value)}
            options={definition.options.map((option) => ({ value: option, text: option }))}
            choose={put}
          />
        </div>
      );
    case 'share': {
      const { label, min, max, from, step } = definition;
      const steps = Math.round((Number(value) - from) / step);
      return (
        <TypedField
          label={label}
          text={`${Math.round((Number(value) - from) * 1000) / 10} %`}
          commit={(typed) => put(from + typedNumber(typed, /%$/, 'per cent') / 100)}
          step={(by) => put(Math.max(min, Math.min(max, Number((from + (steps + by) * step).toFixed(6)))))}
        />
      );
    }
  }
}

/** What a flash begins with when any colour may be chosen: the copper of the bell. */
const ANY_COLOUR = '#c8902a';

function ColourField({ definition, value, put }: FieldProps<Extract<LookField, { kind: 'colour' }>>) {
  const colour = String(value);
  const isTyped = colour.startsWith('#');
  return (
    <>
      <Select
        label={definition.label}
        value={isTyped ? '#' : colour}
        options={[
          ...(definition.isPlain ? ['white', 'black'] : ['white', 'black', 'inverted']).map((each) => ({
            value: each,
            text: each,
          })),
          { value: '#', text: 'a colour' },
        ]}
        choose={(value) => attempt(() => put(value === '#' ? ANY_COLOUR : value))}
      />
      {isTyped && <TypedField label="Colour" text={colour} commit={put} />}
    </>
  );
}
