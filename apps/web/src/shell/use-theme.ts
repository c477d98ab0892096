import { useSyncExternalStore } from 'react';

const subscribe = (changed: () => void) => {
  const observer = new MutationObserver(changed);
  observer.observe(document.documentElement, { attributeFilter: ['data-theme'] });
  return () => observer.disconnect();
};

/** The theme that is on: what is drawn by hand is drawn again when it changes. */
export const useTheme = (): string =>
  useSyncExternalStore(subscribe, () => document.documentElement.dataset['theme'] ?? 'day');
