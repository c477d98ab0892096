import { benchStore, select } from '../../session/bench-state.ts';

/** So many pictures the panel of a reach may take to appear. */
const MOST_FRAMES = 120;

const field = () => document.querySelector<HTMLInputElement>('input[data-takes-typing]');

/** Does something with the field of a reach's speed, once its panel is there. */
function withField(act: (input: HTMLInputElement) => void, left = MOST_FRAMES): void {
  const there = field();
  if (there) act(there);
  else if (left > 0 && benchStore.getState().selection.kind === 'reach')
    requestAnimationFrame(() => withField(act, left - 1));
}

/** Puts the keyboard into the field of a reach's speed. */
export function editSpeed(index: number): void {
  select({ kind: 'reach', index });
  withField((input) => input.focus());
}

/** Digits typed before the field was there. */
let early = '';

/** While a reach is selected a digit begins its speed. Where its field is there already, the key itself is typed into it. */
export function typeIntoSpeed(digit: string): void {
  if (benchStore.getState().selection.kind !== 'reach') return;
  const there = field();
  if (there) return there.focus();
  early += digit;
  if (early.length > 1) return;
  withField((input) => {
    input.focus();
    // React hears of a value that is set so.
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')?.set?.call(input, early);
    input.dispatchEvent(new Event('input', { bubbles: true }));
    early = '';
  });
}
