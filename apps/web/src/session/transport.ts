import type { Project } from '@idle-bend/core/model';
import { reelFrames } from '@idle-bend/core/reel';
import { framesPerSecond } from '@idle-bend/core/time';
import { benchStore, goToReelFrame, reelFrameOf } from './bench-state.ts';
import { current } from './command.ts';
import { projectStore } from './session.ts';

/** Seconds of playing, as they are heard: the sound device's own clock. */
export interface SoundClock {
  now(): number;
}

/** What playing needs of the world around it. */
export interface TransportPorts {
  /** Milliseconds of a clock that only goes forward. */
  now(): number;
  /** Calls back when the next picture can be shown. */
  requestFrame(step: () => void): number;
  cancelFrame(handle: number): void;
  /** Plays the reel's sound from a second on, at a pace (1: as recorded). Answers its clock; nothing where nothing is heard. */
  playSound(project: Project, fromSecond: number, pace: number): Promise<SoundClock | undefined>;
  stopSound(): void;
  /** What is heard of the clips follows an edit while it plays. */
  updateSound(project: Project): void;
}

/** A device that says it plays and stands still for this long is not waited for. */
const DEVICE_PATIENCE_SECONDS = 1;

/**
 * While the clock runs, the playhead follows the sound as it is heard, or real time where nothing is; frames the machine cannot
 * keep up with are left out. Everything is counted from where and when playing began, so nothing adds up, across cuts and gaps
 * neither. Looping, it goes round the stretch of the clip that was chosen, or the reel's range; otherwise it stops at the reel's ends.
 */
export class Transport {
  /** What playing began with; when it changes, playing begins again. */
  private playing: readonly unknown[] = [];
  private stopPlaying: (() => void) | undefined;
  private isDue = false;
  private isOver = false;

  constructor(private readonly ports: TransportPorts) {}

  /** Follows what the bench asks for until the function it answers is called. */
  run(): () => void {
    this.isOver = false;
    const follow = () => this.followSoon();
    const hearings = [
      benchStore.subscribe(follow),
      projectStore.subscribe(({ document }, { document: before }) => {
        // What is heard of the clips follows every edit, also while it plays.
        if (document && document !== before && benchStore.getState().clock > 0) this.ports.updateSound(document);
        follow();
      }),
    ];
    follow();
    return () => {
      this.isOver = true;
      hearings.forEach((end) => end());
      this.stopPlaying?.();
      this.stopPlaying = undefined;
      this.playing = [];
    };
  }

  /** Once for everything that changes together. */
  private followSoon(): void {
    if (this.isDue) return;
    this.isDue = true;
    queueMicrotask(() => {
      this.isDue = false;
      if (!this.isOver) this.follow();
    });
  }

  private follow(): void {
    const { clock, pace, loop, reelLoop } = benchStore.getState();
    const reel = projectStore.getState().document?.reel;
    const wanted = [clock, pace, loop, reelLoop, reel?.rate, reel?.sounds];
    if (wanted.length === this.playing.length && wanted.every((part, i) => part === this.playing[i])) return;
    this.playing = wanted;
    this.begin();
  }

  private begin(): void {
    this.stopPlaying?.();
    this.stopPlaying = undefined;
    const now = current();
    const { clock, pace, loop } = benchStore.getState();
    if (clock === 0 || !now) return;
    benchStore.setState({ dropped: 0 });
    const { ports } = this;
    const fps = framesPerSecond(now.project.reel.rate);
    const speed = clock * pace;
    const from = reelFrameOf(now);
    let stopped = false;
    let handle = 0;

    const play = async () => {
      // Backward there is nothing to hear; round a loop the sound would have to be cut again each time.
      const heard = speed > 0 && !loop ? await ports.playSound(now.project, from / fps, speed) : undefined;
      if (stopped) return;
      const started = ports.now();
      const real = () => Math.max(0, ports.now() - started) / 1000;
      const isHeard = () => heard && (heard.now() > 0 || real() < DEVICE_PATIENCE_SECONDS);
      const seconds = () => (isHeard() ? heard!.now() : real()) * speed;
      const tick = () => {
        const frame = from + Math.floor(seconds() * fps + 1e-6);
        if (loop ? !goRound(frame, loop) : !this.goAlong(frame, speed)) return;
        if (!stopped) handle = ports.requestFrame(tick);
      };
      handle = ports.requestFrame(tick);
    };
    void play();

    this.stopPlaying = () => {
      stopped = true;
      ports.cancelFrame(handle);
      ports.stopSound();
    };
  }

  /** One step along the reel; false at its ends, where the clock stops, and where a lap of the reel's range begins again. */
  private goAlong(frame: number, speed: number): boolean {
    const project = projectStore.getState().document;
    if (!project) return false;
    const last = reelFrames(project) - 1;
    const { range } = project.reel;
    if (benchStore.getState().reelLoop && range) {
      const end = Math.min(range.to, last + 1);
      if (speed > 0 ? frame >= end : frame < range.from) {
        goToReelFrame(project, speed > 0 ? range.from : end - 1);
        // Each lap begins again, so that its sound does too.
        this.begin();
        return false;
      }
    }
    const at = Math.max(0, Math.min(last, frame));
    const shown = current();
    if (shown && at !== reelFrameOf(shown)) goToReelFrame(project, at);
    if (frame >= 0 && frame <= last) return true;
    benchStore.setState({ clock: 0 });
    return false;
  }
}

/** One step round the loop, which lies within the clip on the bench. */
function goRound(frame: number, loop: { readonly from: number; readonly to: number }): boolean {
  const shown = current();
  if (!shown) return false;
  const first = shown.start + loop.from;
  const length = Math.min(shown.frames - 1, loop.to) - loop.from + 1;
  const k = loop.from + ((((frame - first) % length) + length) % length);
  if (k !== benchStore.getState().k) benchStore.setState({ k, gapAt: undefined });
  return true;
}
