import type { Frame } from '@idle-bend/core/frame';
import type { Keys, Level, PairFlow, PairWish } from '@idle-bend/kernels';
import type { PairAnswer } from './motion.worker.ts';

/** Asks the motion thread; it takes copies of the frames at once. */
export function motionThread(): (a: Frame, b: Frame, level: Level, keys: Keys) => Promise<PairFlow> {
  const worker = new Worker(new URL('./motion.worker.ts', import.meta.url), { type: 'module' });
  const waiting = new Map<number, { resolve: (pair: PairFlow) => void; reject: (error: Error) => void }>();
  let next = 0;
  worker.addEventListener('message', ({ data }: MessageEvent<PairAnswer>) => {
    const request = waiting.get(data.id);
    waiting.delete(data.id);
    if ('pair' in data) request?.resolve(data.pair);
    else request?.reject(new Error(data.message));
  });
  worker.addEventListener('error', ({ message }) => {
    for (const { reject } of waiting.values()) reject(new Error(message));
    waiting.clear();
  });
  return (a, b, level, keys) => {
    const id = next++;
    worker.postMessage({ id, a, b, level, keys } satisfies PairWish);
    const answer = new Promise<PairFlow>((resolve, reject) => waiting.set(id, { resolve, reject }));
    // What was asked ahead may not be waited for.
    answer.catch(() => undefined);
    return answer;
  };
}
