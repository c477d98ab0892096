import { InvalidInput } from '@idle-bend/core/foundation';
import { holdPrograms, MediaError } from '@idle-bend/media';
import type { JobKind } from './define-job.js';
import type { JobMessage, JobOrder } from './job.js';
import { JOBS } from './registry.js';

/** The process a job runs in; the server itself stays free to answer. */
// Nobody is left to do it for.
process.once('disconnect', () => process.exit(1));
if (!process.connected) process.exit(1);
const stop = new AbortController();
/** A server that is gone hears nothing; this process then ends. */
const say = (message: JobMessage) => void (process.connected && process.send!(message, () => undefined));
/** Whatever is still open then (a decoder that was not read to its end) ends with this process. */
const last = (message: JobMessage) =>
  void (process.connected ? process.send!(message, () => process.exit(0)) : process.exit(0));
const { name, input } = await new Promise<Extract<JobOrder, { kind: 'begin' }>>((begin) => {
  process.on('message', (order: JobOrder) => {
    if (order.kind === 'begin') begin(order);
    else if (order.kind === 'cancel') stop.abort(new Error('cancelled'));
    else holdPrograms(order.kind === 'hold');
  });
});
let lastTold = 0;
const onProgress = (done: number, total: number) => {
  const now = Date.now();
  if (now - lastTold < 100 && done < total) return;
  lastTold = now;
  say({ kind: 'progress', done, total });
};

try {
  // The parent gave the input of this very kind.
  const kind = JOBS[name] as JobKind<unknown, unknown>;
  last({ kind: 'done', output: await kind.run(input, { signal: stop.signal, onProgress }) });
} catch (error) {
  last({
    kind: 'failed',
    message: (error as Error).message,
    refused: error instanceof MediaError || error instanceof InvalidInput,
  });
}
