import { Check, ChevronDown } from 'lucide-react';
import { Select as List } from 'radix-ui';
import { useId, useRef, type KeyboardEvent } from 'react';

interface Option {
  readonly value: string;
  readonly text: string;
}

interface OptionGroup {
  readonly group: string;
  readonly options: readonly Option[];
}

interface SelectProps {
  readonly label: string;
  /** Where its words stand: above it, before it on the same line, or nowhere to be seen. */
  readonly place?: 'above' | 'before' | 'hidden';
  /** The chosen option’s value. Where no option has it, `none` is shown. */
  readonly value: string;
  readonly none?: string;
  readonly options: readonly (Option | OptionGroup)[];
  readonly choose: (value: string) => void;
  readonly disabled?: boolean;
  /** Of the field itself. */
  readonly className?: string;
}

/** Letters that find an option are no commands of the bench; Escape gives the keys back to it. */
const forTheList = (event: KeyboardEvent<HTMLElement>) => {
  if (event.key.length === 1 && !event.ctrlKey && !event.metaKey) event.stopPropagation();
  if (event.key === 'Escape') event.currentTarget.blur();
};

/** One of several, in a list that opens. */
export function Select({ label, place = 'above', value, none, options, choose, disabled, className }: SelectProps) {
  const id = useId();
  /** A choice by pointer leaves the keys to the bench; whoever came by keyboard stays where they are. */
  const isByPointer = useRef(false);
  const all = options.flatMap((each) => ('group' in each ? each.options : [each]));
  const chosen = all.find((each) => each.value === value);
  const words = {
    above: 'label',
    before: 'text-faint whitespace-nowrap',
    hidden: 'sr-only',
  }[place];
  return (
    <div className={place === 'before' ? 'flex items-center gap-2' : 'min-w-0'}>
      <span id={id} className={words}>
        {label}
      </span>
      <List.Root value={chosen ? value : ''} onValueChange={(next) => next !== '' && choose(next)} disabled={disabled}>
        <List.Trigger
          aria-labelledby={id}
          className={`field flex items-center justify-between gap-1.5 text-left font-sans disabled:opacity-45 ${className ?? 'w-full'}`}
          onKeyDown={forTheList}
        >
          <span className="truncate">
            <List.Value placeholder={none}>{chosen?.text ?? none}</List.Value>
          </span>
          <ChevronDown size={14} className="text-faint shrink-0" aria-hidden />
        </List.Trigger>
        <List.Portal>
          <List.Content
            position="popper"
            sideOffset={3}
            collisionPadding={8}
            onKeyDown={(event) => {
              isByPointer.current = false;
              event.stopPropagation();
            }}
            onPointerUp={() => (isByPointer.current = true)}
            onCloseAutoFocus={(event) => isByPointer.current && event.preventDefault()}
            className="border-line bg-sheet z-50 max-h-[min(22rem,var(--radix-select-content-available-height))] min-w-[var(--radix-select-trigger-width)] overflow-hidden rounded-lg border shadow-lg"
          >
            <List.Viewport className="p-1">
              {options.map((each) =>
                'group' in each ? (
                  <List.Group key={each.group}>
                    <List.Label className="text-faint px-2 pt-1.5 pb-0.5 text-xs">{each.group}</List.Label>
                    {each.options.map((option) => (
                      <Item key={option.value} {...option} />
                    ))}
                  </List.Group>
                ) : (
                  <Item key={each.value} {...each} />
                ),
              )}
            </List.Viewport>
          </List.Content>
        </List.Portal>
      </List.Root>
    </div>
  );
}

function Item({ value, text }: Option) {
  return (
    <List.Item
      value={value}
      className="data-[highlighted]:bg-river-pale flex cursor-default items-center justify-between gap-3 rounded px-2 py-1 text-sm whitespace-nowrap outline-none"
    >
      <List.ItemText>{text}</List.ItemText>
      <List.ItemIndicator>
        <Check size={14} className="text-river" aria-hidden />
      </List.ItemIndicator>
    </List.Item>
  );
}
