import { parentPort } from 'node:worker_threads';
import type { PairWish } from '@idle-bend/kernels';
import { loadFlow } from './kernels.js';

/** A thread that finds the motion of the pairs it is sent; see `FlowThreads`. */
const flow = loadFlow();
parentPort!.on('message', ({ id, a, b, level, keys }: PairWish) => {
  try {
    parentPort!.postMessage({ id, pair: flow.pair(a, b, level, keys) });
  } catch (error) {
    parentPort!.postMessage({ id, error: (error as Error).message });
  }
});
