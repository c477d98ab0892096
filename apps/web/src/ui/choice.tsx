import { ToggleGroup } from 'radix-ui';
import type { MouseEvent } from 'react';

interface Props<T extends string> {
  readonly label: string;
  readonly value: T;
  readonly options: readonly { readonly value: T; readonly text: string; readonly title?: string }[];
  readonly choose: (value: T) => void;
}

/** A press with the pointer leaves the keys to the bench; whoever came by keyboard stays where they are. */
export function blurAfterPointer({ detail, currentTarget }: MouseEvent<HTMLElement>): void {
  if (detail > 0) currentTarget.blur();
}

/** One of a few, all in sight. */
export function Choice<T extends string>({ label, value, options, choose }: Props<T>) {
  return (
    <div>
      <span className="label">{label}</span>
      <ToggleGroup.Root
        type="single"
        aria-label={label}
        value={value}
        onValueChange={(next) => next && choose(next as T)}
        className="border-line bg-sheet flex rounded-lg border p-0.5"
      >
        {options.map((option) => (
          <ToggleGroup.Item
            key={option.value}
            value={option.value}
            data-tip={option.title}
            onClick={blurAfterPointer}
            className="data-[state=on]:bg-ink data-[state=on]:text-paper flex-1 rounded-md px-2 py-0.5 whitespace-nowrap"
          >
            <span className="inline-block first-letter:uppercase">{option.text}</span>
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
    </div>
  );
}
