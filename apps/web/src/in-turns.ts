/**
 * Runs tasks at most so many at once, in the order they came: a browser opens six connections to a server, and what can wait would take
 * them from what somebody waits for.
 */
export function inTurns(most: number): <T>(task: () => Promise<T>) => Promise<T> {
  let running = 0;
  const waiting: (() => void)[] = [];
  return async (task) => {
    if (running >= most) await new Promise<void>((go) => waiting.push(go));
    else running++;
    try {
      return await task();
    } finally {
      const next = waiting.shift();
      if (next) next();
      else running--;
    }
  };
}

/** What is drawn when it comes, and nobody waits for. */
export const later = inTurns(2);
