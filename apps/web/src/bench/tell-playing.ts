import { api, WINDOW_NAME } from '../api.ts';
import { benchStore } from '../session/bench-state.ts';

/** The server believes for ten seconds that a window plays. */
const AGAIN_MS = 5000;

/** While the bench plays the server is told, so that what it makes ahead leaves the processor to it; until the function it answers is called. */
export function tellPlaying(): () => void {
  let again: ReturnType<typeof setInterval> | undefined;
  const tell = () => void api.playing(WINDOW_NAME).catch(() => undefined);
  const follow = (plays: boolean) => {
    if (plays === (again !== undefined)) return;
    clearInterval(again);
    again = plays ? setInterval(tell, AGAIN_MS) : undefined;
    if (plays) tell();
    else void api.stopped(WINDOW_NAME).catch(() => undefined);
  };
  const end = benchStore.subscribe(({ clock }) => follow(clock !== 0));
  return () => {
    end();
    follow(false);
  };
}
