import { benchStore, select } from '../../session/bench-state.ts';

/** Whether what is selected has a speed that digits begin: a reach, or a range. */
export const takesDigits = () => ['reach', 'range'].includes(benchStore.getState().selection.kind);

/** So many pictures the panel may take to appear. */
const MOST_FRAMES = 120;

const field = () => document.querySelector<HTMLInputElement>('input[data-takes-typing]');

/** Does something with the field of the speed, once its panel is there; with none where it does not come. */
function withField(act: (input: HTMLInputElement | undefined) => void, left = MOST_FRAMES): void {
  const there = field();
  if (!there && left > 0 && takesDigits()) requestAnimationFrame(() => withField(act, left - 1));
  else act(there ?? undefined);
}

/** Puts the keyboard into the field of a reach's speed. */
export function editSpeed(index: number): void {
  select({ kind: 'reach', index });
  withField((input) => input?.focus());
}

/** Digits typed before the field was there, and whether Enter was. */
let early = '';
let isEntered = false;

/** What comes before its field is the field's, and nobody else's. */
function hearEnter(event: KeyboardEvent): void {
  if (event.key !== 'Enter') return;
  event.preventDefault();
  event.stopImmediatePropagation();
  isEntered = true;
}

/** While a reach or a range is selected a digit, or a minus, begins its speed. Where its field is there already, the key itself is typed into it. */
export function typeIntoSpeed(digit: string): void {
  if (!takesDigits()) return;
  const there = field();
  if (there) return there.focus();
  early += digit;
  if (early.length > 1) return;
  isEntered = false;
  addEventListener('keydown', hearEnter, true);
  withField((input) => {
    removeEventListener('keydown', hearEnter, true);
    const typed = early;
    early = '';
    if (!input) return;
    input.focus();
    // React hears of a value that is set so.
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')?.set?.call(input, typed);
    input.dispatchEvent(new Event('input', { bubbles: true }));
    if (isEntered) setTimeout(() => input.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true })));
  });
}
