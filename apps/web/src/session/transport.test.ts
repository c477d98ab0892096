import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { insertGap, setReelRange } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { parade } from '../../test/parade.ts';
import { benchStore, goToReelFrame, reelFrameOf } from './bench-state.ts';
import { current } from './command.ts';
import { projectStore } from './session.ts';
import { Transport, type SoundClock, type TransportPorts } from './transport.ts';

/** A browser whose time stands still until the test moves it. */
class StandInBrowser implements TransportPorts {
  milliseconds = 0;
  steps = new Map<number, () => void>();
  handles = 0;
  /** The device that plays, where there is one. */
  device: { seconds: number } | undefined;
  begun: [second: number, pace: number][] = [];
  stops = 0;
  updates: Project[] = [];

  now = () => this.milliseconds;
  requestFrame = (step: () => void) => {
    this.steps.set(++this.handles, step);
    return this.handles;
  };
  cancelFrame = (handle: number) => void this.steps.delete(handle);
  playSound = (_: Project, second: number, pace: number): Promise<SoundClock | undefined> => {
    this.begun.push([second, pace]);
    const { device } = this;
    return Promise.resolve(device && { now: () => device.seconds });
  };
  stopSound = () => void this.stops++;
  updateSound = (project: Project) => void this.updates.push(project);

  /** Time goes on, and a picture can be shown. */
  async pass(milliseconds: number): Promise<void> {
    this.milliseconds += milliseconds;
    const due = [...this.steps.values()];
    this.steps.clear();
    due.forEach((step) => step());
    await settled();
  }
}

/** Everything that waits for something that is there has gone on. */
const settled = async () => {
  for (let i = 0; i < 8; i++) await Promise.resolve();
};

const START = benchStore.getState();
let browser: StandInBrowser;
let end: () => void;
const frame = () => reelFrameOf(current()!);
const play = async (state: Partial<typeof START>) => {
  benchStore.setState(state);
  await settled();
};
const show = (document: Project) => projectStore.setState({ document, whole: document });

beforeEach(() => {
  // What is edited is sent by a timer that no test waits for.
  jest.useFakeTimers({ doNotFake: ['queueMicrotask'] });
  browser = new StandInBrowser();
  show(parade());
  benchStore.setState(START, true);
  end = new Transport(browser).run();
});
afterEach(() => {
  end();
  jest.useRealTimers();
});

describe('along the reel', () => {
  test('the frame is the one of the time since playing began, over the cut, until the last', async () => {
    await play({ clock: 1 });
    await browser.pass(1000);
    expect(frame()).toBe(24);
    await browser.pass(2041);
    expect(frame()).toBe(72);
    expect(current()!.clip.id).toBe('c1');
    await browser.pass(10_000);
    expect(frame()).toBe(119);
    expect(benchStore.getState().clock).toBe(0);
    await settled();
    expect(browser.steps.size).toBe(0);
  });

  test('frames that could not be shown in time are left out and nothing adds up', async () => {
    await play({ clock: 1 });
    for (let i = 1; i <= 40; i++) {
      await browser.pass(50 + (i % 7));
      expect(frame()).toBe(Math.floor((browser.milliseconds * 24) / 1000 + 1e-6));
    }
  });

  test('backward, faster and slower', async () => {
    goToReelFrame(projectStore.getState().document!, 80);
    await play({ clock: -2 });
    await browser.pass(500);
    expect(frame()).toBe(56);
    await play({ clock: 1, pace: 0.25 });
    await browser.pass(1000);
    expect(frame()).toBe(62);
    await play({ clock: -1, pace: 1 });
    await browser.pass(9000);
    expect(frame()).toBe(0);
    expect(benchStore.getState().clock).toBe(0);
  });

  test('it goes through a gap', async () => {
    show(insertGap(parade(), 1, 'gap', 10));
    await play({ clock: 1 });
    await browser.pass(3100);
    expect(frame()).toBe(74);
    expect(benchStore.getState().gapAt).toBe(74);
    await browser.pass(400);
    expect(benchStore.getState()).toMatchObject({ activeId: 'c1', k: 2, gapAt: undefined });
  });

  test('an edit while it plays is followed, in picture and sound', async () => {
    await play({ clock: 1 });
    await browser.pass(500);
    const shorter = { ...parade(), reel: { ...parade().reel, items: parade().reel.items.slice(0, 1) } };
    projectStore.setState({ document: shorter, whole: shorter });
    await settled();
    expect(browser.updates).toEqual([shorter]);
    await browser.pass(2600);
    expect(frame()).toBe(71);
    expect(benchStore.getState().clock).toBe(0);
  });

  test('stopped, nothing is asked of the browser any more', async () => {
    await play({ clock: 1 });
    await browser.pass(100);
    await play({ clock: 0 });
    await browser.pass(1000);
    expect(frame()).toBe(2);
    expect(browser.stops).toBe(1);
    projectStore.setState({ document: parade() });
    expect(browser.updates).toEqual([]);
  });

  test('when the bench is left, playing ends', async () => {
    await play({ clock: 1 });
    end();
    expect(browser.steps.size).toBe(0);
    expect(browser.stops).toBe(1);
  });
});

describe('sound', () => {
  test('the picture follows what is heard', async () => {
    browser.device = { seconds: 0 };
    goToReelFrame(projectStore.getState().document!, 12);
    await play({ clock: 1, pace: 0.5 });
    expect(browser.begun).toEqual([[0.5, 0.5]]);
    // The device is late: so is the picture.
    browser.device.seconds = 0.5;
    await browser.pass(900);
    expect(frame()).toBe(12 + 6);
  });

  test('a device that stands still is waited for no longer than a second', async () => {
    browser.device = { seconds: 0 };
    await play({ clock: 1 });
    await browser.pass(900);
    expect(frame()).toBe(0);
    await browser.pass(600);
    expect(frame()).toBe(36);
  });

  test('backward and round a loop no sound is played', async () => {
    await play({ clock: -1 });
    await play({ clock: 1, loop: { from: 3, to: 8 } });
    await browser.pass(100);
    expect(browser.begun).toEqual([]);
  });

  test('what was asked for before it began is not played', async () => {
    benchStore.setState({ clock: 1 });
    await Promise.resolve();
    benchStore.setState({ clock: 0 });
    await settled();
    await browser.pass(1000);
    expect(frame()).toBe(0);
    expect(browser.steps.size).toBe(0);
  });
});

describe('loops', () => {
  test('round a stretch of the clip, either way', async () => {
    await play({ clock: 1, k: 10, activeId: 'c0', loop: { from: 10, to: 13 } });
    const seen: number[] = [];
    for (let i = 0; i < 6; i++) {
      await browser.pass(1000 / 24 + (i === 0 ? 1 : 0));
      seen.push(frame());
    }
    expect(seen).toEqual([11, 12, 13, 10, 11, 12]);
    await play({ clock: -1, k: 11 });
    await browser.pass(2000 / 24 + 1);
    expect(frame()).toBe(12);
  });

  test('round the reel’s range, and each lap begins its sound again', async () => {
    show(setReelRange(parade(), { from: 48, to: 96 }));
    goToReelFrame(projectStore.getState().document!, 48);
    await play({ clock: 1, reelLoop: true });
    await browser.pass(1500);
    expect(frame()).toBe(84);
    await browser.pass(600);
    expect(frame()).toBe(48);
    expect(browser.begun).toEqual([
      [2, 1],
      [2, 1],
    ]);
    await browser.pass(500);
    expect(frame()).toBe(60);
    await play({ clock: -1 });
    await browser.pass(600);
    expect(frame()).toBe(95);
  });
});

test('without a project nothing plays', async () => {
  projectStore.setState({ document: undefined });
  await play({ clock: 1 });
  await browser.pass(1000);
  expect(browser.begun).toEqual([]);
  expect(browser.steps.size).toBe(0);
});
