import kernelsUrl from '@idle-bend/kernels/kernels.wasm?url';
import { Flow, type PairFlow, type PairWish } from '@idle-bend/kernels';

/** The second thread of the preview: finds the motion of pairs while the first makes and draws pictures. */
export type PairAnswer =
  { readonly id: number; readonly pair: PairFlow } | { readonly id: number; readonly message: string };

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
