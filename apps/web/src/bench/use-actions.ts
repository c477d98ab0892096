import { useHotkeys, type HotkeyCallback } from 'react-hotkeys-hook';
import { ACTIONS } from './actions.ts';
import { isGuideOnItsWay } from '../guide/guide-state.ts';
import { takesDigits, typeIntoSpeed } from './speed/type-speed.ts';
import { benchStore } from '../session/bench-state.ts';

const byKey = new Map(ACTIONS.flatMap((action) => (action.keys ?? []).map((key) => [key, action] as const)));
/** Space is known by its place on the keyboard: what it produces is blank, which cannot be named. */
const SPACE = ['space'];
const PRODUCED = [...byKey.keys()].filter((key) => !SPACE.includes(key));
/** What a speed may begin with. */
const DIGITS = [...'0123456789'];
/** Controls of ours that take keys themselves where they need them and leave the others to the bench. */
const ALSO_IN = ['slider', 'radio'] as const;

/** The bench's keys. A focused button keeps Space; fields keep everything. */
export function useActions(): void {
  const act: HotkeyCallback = (event, { hotkey }) => {
    // A drag is finished first; Escape puts it back. The list of actions, menus and the guide take all keys while they are loaded.
    const { dragHint, actionsOpen, menu } = benchStore.getState();
    if (dragHint !== undefined || actionsOpen || menu || isGuideOnItsWay()) return;
    const target = event.target as HTMLElement;
    if (event.key === ' ' && target.closest('button, [role=button], [role=radio], a')) return;
    if (event.key.startsWith('Arrow') && !event.ctrlKey && target.closest('[role=radio], [role=slider]')) return;
    // Backward speeds begin with it.
    if (event.key === '-' && takesDigits()) return typeIntoSpeed('-');
    event.preventDefault();
    byKey.get(hotkey)?.run();
  };
  // The key itself is not taken: it is typed into the field.
  useHotkeys(DIGITS, ({ key }) => typeIntoSpeed(key), { useKey: true, enableOnFormTags: ALSO_IN });
  useHotkeys(PRODUCED, act, { useKey: true, enableOnFormTags: ALSO_IN });
  useHotkeys(SPACE, act, { enableOnFormTags: ALSO_IN });
}
