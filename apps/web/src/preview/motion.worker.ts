import kernelsUrl from '@idle-bend/kernels/kernels.wasm?url';
import { Flow, type Keys, type Level, type PairFlow } from '@idle-bend/kernels';
import type { Frame } from '@idle-bend/core';

/** The second thread of the preview: finds the motion of pairs while the first makes and draws pictures. */
export interface PairWish {
  readonly id: number;
  readonly a: Frame;
  readonly b: Frame;
  readonly level: Level;
  readonly keys: Keys;
}
export type PairAnswer = { readonly id: number; readonly pair: PairFlow } | { readonly id: number; readonly message: string };

const flow = WebAssembly.compileStreaming(fetch(kernelsUrl)).then((module) => new Flow(module));

addEventListener('message', ({ data: { id, a, b, level, keys } }: MessageEvent<PairWish>) => {
  void (async () => {
    const say = (answer: PairAnswer) => postMessage(answer);
    try {
      say({ id, pair: (await flow).pair(a, b, level, keys) });
    } catch (error) {
      say({ id, message: (error as Error).message });
    }
  })();
});
