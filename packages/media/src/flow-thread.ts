import { parentPort } from 'node:worker_threads';
import type { Frame } from '@idle-bend/core';
import type { Keys, Level } from '@idle-bend/kernels';
import { loadFlow } from './kernels.js';

/** A thread that finds the motion of the pairs it is sent; see `FlowThreads`. */
export interface PairWish {
  readonly id: number;
  readonly a: Frame;
  readonly b: Frame;
  readonly level: Level;
  readonly keys: Keys;
}

const flow = loadFlow();
parentPort!.on('message', ({ id, a, b, level, keys }: PairWish) => {
  try {
    parentPort!.postMessage({ id, pair: flow.pair(a, b, level, keys) });
  } catch (error) {
    parentPort!.postMessage({ id, error: (error as Error).message });
  }
});
