import { tellError } from '../session/notices.ts';

const loads: (() => Promise<unknown>)[] = [];

/** How many parts that were asked for are on their way: the page says that it is busy. */
let awaited = 0;

function nowAwaited(change: 1 | -1): void {
  awaited += change;
  document.body.ariaBusy = awaited > 0 ? 'true' : null;
}

/**
 * What is loaded after the bench's first picture, or when it is asked for before. Once it is there it runs within the gesture that asks for
 * it, so whatever comes after that gesture finds it done.
 */
export function lately<A extends unknown[]>(load: () => Promise<(...what: A) => void>): (...what: A) => void {
  let loaded: ((...what: A) => void) | undefined;
  const get = async () => (loaded ??= await load());
  loads.push(get);
  return (...what) => {
    if (loaded) return loaded(...what);
    nowAwaited(1);
    void get()
      .then(
        (run) => run(...what),
        () => tellError('That part of the program could not be loaded; is its server there?'),
      )
      .finally(() => nowAwaited(-1));
  };
}

/** From then on nothing has to be waited for. A server that is away is found so by whoever asks next. */
export const loadTheRest = (): void => void Promise.allSettled(loads.map((load) => load()));
