import { memo, type ReactNode } from 'react';

/** How often each part of the interface was drawn, by name: tests and profiling read it. */
const drawn = new Map<string, number>();
Object.assign(globalThis, { idleBendDrawn: drawn });

/**
 * A part that is drawn again only when one of the values it shows is another; other properties may change as they like, so what a
 * part does when it is used reads what is current then. `name` says which part it is, of several alike which one.
 */
export function drawnBy<P extends object>(
  name: string | ((props: P) => string),
  values: (props: P) => readonly unknown[],
  Part: (props: P) => ReactNode,
) {
  const Counted = (props: P) => {
    const own = typeof name === 'string' ? name : name(props);
    drawn.set(own, (drawn.get(own) ?? 0) + 1);
    return Part(props);
  };
  return memo(Counted, (before, now) => {
    const [a, b] = [values(before), values(now)];
    return a.length === b.length && a.every((value, i) => Object.is(value, b[i]));
  });
}
