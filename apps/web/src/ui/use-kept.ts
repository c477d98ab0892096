import { create } from 'zustand';

const useValues = create<Readonly<Record<string, unknown>>>(() => ({}));

/** As `useState`, and the value outlasts the panel it was typed in: undo, another tab, another clip. Until the page is loaded again. */
export function useKept<T>(name: string, initial: T): readonly [T, (value: T) => void] {
  const value = useValues((values) => (name in values ? (values[name] as T) : initial));
  return [value, (next) => useValues.setState({ [name]: next })];
}
