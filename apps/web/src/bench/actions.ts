import { reelFrames } from '@idle-bend/core/reel';
import { bendWindow } from '@idle-bend/core/time-map';
import { reelFrameUrl } from '../api.ts';
import { LOOKS } from '../preview/messages.ts';
import { nextHow, nextInStep, toggleCompare } from './compare/commands.ts';
import { keepThisVersion } from './compare/versions.ts';
import { closeHere, groupHere, openHere, ungroupHere } from './group/commands.ts';
import { cuesFromCuts, leaveGapHere, pinHere } from './reel/commands.ts';
import { clearReelRange, reelIn, reelOut, toggleReelLoop } from './reel/range-commands.ts';
import { lately } from './lately.ts';
import { makeSmooth } from './motion.ts';
import { nextUnits } from './units.ts';
import { seeAll, zoomReel } from './reel/reel-view.ts';
import { tapHere } from './sound/taps.ts';
import { walkFound } from './landing/found.ts';
import { bounceTheRange, clearRange, markIn, markOut, returnTheRange, turnTheRange } from './speed/range-commands.ts';
import { openGuide } from '../guide/guide-state.ts';
import { flush, projectStore, redo, undo } from '../session/session.ts';
import { tellError } from '../session/notices.ts';
import {
  type MenuPlace,
  activate,
  benchClips,
  benchStore,
  goTo,
  goToReelFrame,
  reelFrameOf,
  select,
  selected,
  togglePicked,
} from '../session/bench-state.ts';
import {
  bendHere,
  changeMethod,
  holdHere,
  joinWithNext,
  markMoment,
  moveClip,
  nudge,
  plainAgain,
  removeSelected,
  reverseClip,
  setCue,
  splitHere,
  takePickedOff,
  walkBends,
  widenBend,
} from './clip/commands.ts';
import { current } from '../session/command.ts';
import { kindOf } from '../session/selections.ts';

/** Something an editor can do on the bench: one table for keys, the hint line, menus and the searchable list. */
export interface Action {
  readonly name: string;
  /** The key, as the keyboard produces it, with its modifiers. */
  readonly keys?: readonly string[];
  /** The key as it is shown. */
  readonly shown?: string;
  /** Stands in the hint line with this word. */
  readonly hint?: string;
  /** Stands in the menus of these, in the order of this table. */
  readonly on?: readonly MenuPlace[];
  readonly run: () => void;
}

/** Frames, where the tab Holds says none. */
const RAMPS_OF_A_HOLD = 6;

const turnFullScreen = () =>
  document.fullscreenElement ? document.exitFullscreen() : document.documentElement.requestFullscreen();

const step = (by: number) => () => {
  const bench = current();
  if (!bench) return;
  benchStore.setState({ clock: 0 });
  const { gapAt, k } = benchStore.getState();
  if (gapAt !== undefined && Number.isFinite(by)) goToReelFrame(bench.project, gapAt + by);
  else goTo(k + by, bench.frames);
};

/** J and L start the clock, and each further press doubles it; the other direction begins again. */
const playRate = (direction: 1 | -1) => () => {
  const { clock } = benchStore.getState();
  const faster = Math.sign(clock) === direction ? Math.min(8, Math.abs(clock) * 2) : 1;
  benchStore.setState({ clock: direction * faster, original: undefined });
};

export function playOrStop(): void {
  const bench = current();
  if (!bench) return;
  const { clock, loop } = benchStore.getState();
  if (clock !== 0) return benchStore.setState({ clock: 0 });
  if (!loop && reelFrameOf(bench) >= reelFrames(bench.project) - 1) goToReelFrame(bench.project, 0);
  benchStore.setState({ clock: 1, original: undefined });
}

/** Plays from where the pointer is on the chart; elsewhere, from the playhead. */
function playFromPointer(): void {
  const bench = current();
  const { pointerAt } = benchStore.getState();
  if (bench && pointerAt !== undefined) goTo(pointerAt, bench.frames);
  benchStore.setState({ clock: 1, original: undefined });
}

/** Half or double the pace of playing, from an eighth to real time. */
function changePace(by: number): void {
  benchStore.setState(({ pace }) => ({ pace: Math.min(1, Math.max(1 / 8, pace * by)) }));
}

function neighbourOf(by: 1 | -1): string | undefined {
  const bench = current();
  const clips = bench ? benchClips(bench.project) : [];
  return clips[clips.findIndex(({ clip }) => clip.id === bench!.clip.id) + by]?.clip.id;
}

function walkClips(by: 1 | -1): void {
  const id = neighbourOf(by);
  if (id) activate(id);
}

function pickNeighbour(by: 1 | -1): void {
  const id = neighbourOf(by);
  if (id) togglePicked(id);
}

function pickAll(): void {
  const bench = current();
  if (bench)
    benchStore.setState({
      picked: benchClips(bench.project).flatMap(({ clip }) => (clip.id === bench.clip.id ? [] : [clip.id])),
    });
}

/** Goes round the selected bend with half a second on either side; without a bend, round the whole clip. */
export function toggleLoop(): void {
  const bench = current();
  if (!bench) return;
  const { loop } = benchStore.getState();
  const selection = selected(bench);
  if (loop) return benchStore.setState({ loop: undefined });
  let [from, to] = [0, bench.frames - 1];
  if (selection.kind === 'vertex') {
    const { rate } = bench.project.reel;
    const room = Math.round(rate.num / rate.den / 2);
    const window = bendWindow(bench.clip.map, selection.index);
    [from, to] = [Math.max(0, Math.floor(window.from) - room), Math.min(to, Math.ceil(window.to) + room)];
  }
  benchStore.setState({ loop: { from, to }, k: from, clock: 1, original: undefined });
}

/** Shows the current frame as the render has it, made from the originals at the reel's size, or the preview again. */
export async function toggleOriginal(): Promise<void> {
  const bench = current();
  if (bench && benchStore.getState().original?.of === bench.project)
    return benchStore.setState({ original: undefined });
  const { k, gapAt } = benchStore.getState();
  if (!bench || gapAt !== undefined) return;
  benchStore.setState({ clock: 0 });
  try {
    // It is made of the document as the server has it.
    await flush();
  } catch (error) {
    return tellError((error as Error).message);
  }
  const { id, version, within, document } = projectStore.getState();
  // What is in sight may be another frame by now.
  if (!id || document !== bench.project || benchStore.getState().k !== k) return;
  const address = reelFrameUrl(id, version, reelFrameOf(bench), within.at(-1)?.sourceId);
  benchStore.setState({ original: { address, of: document } });
}

function clearAll(): void {
  clearRange();
  benchStore.setState({ picked: [] });
  if (!kindOf(benchStore.getState().selection).ofReel) select({ kind: 'clip' });
}

/** The next way to look at a frame; looking closely and comparing exclude each other. */
function nextLook(): void {
  benchStore.setState(({ look }) => ({ look: LOOKS[(LOOKS.indexOf(look) + 1) % LOOKS.length]!, compare: undefined }));
}

function chooseMusic(): void {
  const sound = current()?.project.reel.sounds[0];
  if (sound) select({ kind: 'sound', id: sound.id });
}

function zoomAtPlayhead(factor: number): void {
  const bench = current();
  if (bench) zoomReel(factor, reelFrameOf(bench), Math.max(24, reelFrames(bench.project)));
}

export const ACTIONS: readonly Action[] = [
  { name: 'Play or stop', keys: ['space'], shown: 'Space', run: playOrStop },
  { name: 'Play backward, again: faster', keys: ['j'], shown: 'J', run: playRate(-1) },
  { name: 'Stop', keys: ['k'], shown: 'K', run: () => benchStore.setState({ clock: 0 }) },
  { name: 'Play forward, again: faster', keys: ['l'], shown: 'L', run: playRate(1) },
  { name: 'One frame back', keys: ['left'], shown: '←', run: step(-1) },
  { name: 'One frame on', keys: ['right'], shown: '→', run: step(1) },
  { name: 'Ten frames back', keys: ['shift+left'], shown: 'Shift ←', run: step(-10) },
  { name: 'Ten frames on', keys: ['shift+right'], shown: 'Shift →', run: step(10) },
  { name: 'To the start of the clip', keys: ['home'], shown: 'Home', run: step(-Infinity) },
  { name: 'To the end of the clip', keys: ['end'], shown: 'End', run: step(Infinity) },
  { name: 'Bend here', on: ['chart'], keys: ['b'], shown: 'B', hint: 'bend', run: () => bendHere() },
  { name: 'Moment here', on: ['chart', 'clip'], keys: ['m'], shown: 'M', hint: 'moment', run: markMoment },
  { name: 'To the next possible hit', keys: ['shift+m'], shown: 'Shift M', run: walkFound },
  { name: 'Cue here', on: ['chart', 'clip', 'reel'], keys: ['c'], shown: 'C', hint: 'cue', run: setCue },
  {
    name: 'Land the moment on its cue',
    on: ['chart', 'clip'],
    keys: ['t'],
    shown: 'T',
    hint: 'land',
    run: lately(async () => (await import('./landing/commands.ts')).landHere),
  },
  {
    name: 'Hold this frame, as long as the tab Holds says',
    on: ['chart', 'clip'],
    keys: ['h'],
    shown: 'H',
    hint: 'hold',
    run: () => {
      const { holdFrames, holdRamps } = benchStore.getState();
      holdHere(holdFrames, holdRamps);
    },
  },
  {
    name: 'Hold this frame with ramps in and out',
    on: ['chart', 'clip'],
    keys: ['shift+h'],
    shown: 'Shift H',
    run: () => {
      const { holdFrames, holdRamps } = benchStore.getState();
      holdHere(holdFrames, holdRamps || RAMPS_OF_A_HOLD);
    },
  },
  { name: 'Split the clip here', on: ['chart', 'clip'], keys: ['s'], shown: 'S', hint: 'split', run: splitHere },
  { name: 'Join with the next clip', on: ['clip'], keys: ['shift+s'], shown: 'Shift S', run: joinWithNext },
  {
    name: 'Ramp join: the clip races into the next one',
    on: ['clip'],
    keys: ['shift+j'],
    shown: 'Shift J',
    run: lately(async () => (await import('./join/commands.ts')).joinHere),
  },
  {
    name: 'Dissolve into the next clip',
    on: ['clip'],
    keys: ['shift+d'],
    shown: 'Shift D',
    run: lately(async () => (await import('./accent/commands.ts')).dissolveHere),
  },
  {
    name: 'Ramp joins at every cut of the picked clips',
    run: lately(async () => (await import('./join/commands.ts')).joinPicked),
  },
  {
    name: 'Dissolves at every cut of the picked clips',
    run: lately(async () => (await import('./accent/commands.ts')).dissolvePicked),
  },
  { name: 'Back to plain: take all retiming off the clip', on: ['clip', 'chart'], run: plainAgain },
  {
    name: 'Pin the clip’s cut to the nearest cue or beat, or unpin it',
    on: ['clip', 'cue'],
    keys: ['d'],
    shown: 'D',
    hint: 'pin cut',
    run: pinHere,
  },
  {
    name: 'Land the whole reel',
    on: ['reel'],
    keys: ['shift+t'],
    shown: 'Shift T',
    run: lately(async () => (await import('./landing/commands.ts')).landWholeReel),
  },
  { name: 'The reel: its rate and size', on: ['reel'], run: () => select({ kind: 'reel' }) },
  { name: 'The music: its beats and loudness', on: ['reel'], run: chooseMusic },
  {
    name: 'Accents and transitions: flashes, punches, pushes, dissolves',
    on: ['reel', 'cue'],
    keys: ['shift+a'],
    shown: 'Shift A',
    run: () => select({ kind: 'accents', id: undefined }),
  },
  { name: 'All landings', on: ['reel'], run: () => select({ kind: 'landings' }) },
  {
    name: 'Lay clips on the music',
    on: ['reel', 'sound'],
    keys: ['e'],
    shown: 'E',
    hint: 'lay on the music',
    run: () => select({ kind: 'lay' }),
  },
  {
    name: 'Tap the beat',
    on: ['sound'],
    keys: ['n'],
    shown: 'N',
    run: tapHere,
  },
  {
    name: 'Hear the beats half a beat later, where they could be',
    on: ['sound'],
    keys: ['shift+n'],
    shown: 'Shift N',
    run: lately(async () => (await import('./sound/panel.tsx')).hearOtherHalf),
  },
  {
    name: 'A cue at every cut',
    on: ['reel'],
    run: cuesFromCuts,
  },
  {
    name: 'Remove the clip and leave a gap',
    on: ['clip'],
    keys: ['alt+delete'],
    shown: 'Alt Del',
    run: leaveGapHere,
  },
  { name: 'Zoom in on the reel', on: ['reel'], keys: ['z'], shown: 'Z', run: () => zoomAtPlayhead(0.5) },
  { name: 'Zoom out of the reel', on: ['reel'], keys: ['shift+z'], shown: 'Shift Z', run: () => zoomAtPlayhead(2) },
  { name: 'The whole reel', on: ['reel'], keys: ['a'], shown: 'A', run: seeAll },
  {
    name: 'Remove the clip, or all that are picked',
    on: ['clip'],
    keys: ['shift+delete'],
    shown: 'Shift Del',
    run: takePickedOff,
  },
  {
    name: 'Move the clip earlier on the reel',
    on: ['clip'],
    keys: ['alt+left'],
    shown: 'Alt ←',
    run: () => moveClip(-1),
  },
  {
    name: 'Move the clip later on the reel',
    on: ['clip'],
    keys: ['alt+right'],
    shown: 'Alt →',
    run: () => moveClip(1),
  },
  { name: 'The clip before', keys: ['pageup'], shown: 'PgUp', run: () => walkClips(-1) },
  { name: 'The clip after', keys: ['pagedown'], shown: 'PgDn', run: () => walkClips(1) },
  { name: 'Pick the clip before too', keys: ['shift+pageup'], shown: 'Shift PgUp', run: () => pickNeighbour(-1) },
  { name: 'Pick the clip after too', keys: ['shift+pagedown'], shown: 'Shift PgDn', run: () => pickNeighbour(1) },
  {
    name: 'Group the picked clips',
    keys: ['ctrl+b'],
    shown: 'Ctrl B',
    run: groupHere,
  },
  {
    name: 'Ungroup',
    keys: ['ctrl+shift+b'],
    shown: 'Ctrl Shift B',
    run: ungroupHere,
  },
  {
    name: 'Open the group',
    keys: ['enter'],
    shown: 'Enter',
    run: openHere,
  },
  {
    name: 'Close the group',
    keys: ['shift+enter'],
    shown: 'Shift Enter',
    run: closeHere,
  },
  { name: 'The reel’s range begins here', on: ['reel'], keys: ['shift+i'], shown: 'Shift I', run: reelIn },
  { name: 'The reel’s range ends here', on: ['reel'], keys: ['shift+o'], shown: 'Shift O', run: reelOut },
  { name: 'Clear the reel’s range', on: ['reel'], run: clearReelRange },
  { name: 'Loop the reel’s range', keys: ['shift+g'], shown: 'Shift G', run: toggleReelLoop },
  { name: 'Pick all clips', on: ['reel'], keys: ['ctrl+a'], shown: 'Ctrl A', run: pickAll },
  {
    name: 'Keep this version of the curve',
    on: ['chart'],
    keys: ['v'],
    shown: 'V',
    run: keepThisVersion,
  },
  { name: 'Compare, or stop comparing', on: ['chart'], keys: ['x'], shown: 'X', hint: 'compare', run: toggleCompare },
  { name: 'Compare another way: side by side, wipe, blink, difference', keys: ['y'], shown: 'Y', run: nextHow },
  { name: 'Compare in step by time, or by source moment', keys: ['shift+y'], shown: 'Shift Y', run: nextInStep },
  { name: 'Play from the pointer', keys: ['p'], shown: 'P', run: playFromPointer },
  {
    name: 'Make smooth: the range or the clip, made ahead as the render makes it',
    on: ['chart'],
    keys: ['q'],
    shown: 'Q',
    run: makeSmooth,
  },
  { name: 'Look at the picture, its neighbours, its motion or what is hidden', keys: ['w'], shown: 'W', run: nextLook },
  { name: 'Slower playback', keys: ['-'], shown: '−', run: () => changePace(0.5) },
  { name: 'Faster playback', keys: ['='], shown: '=', run: () => changePace(2) },
  { name: 'Rulers in timecode, frames or seconds', keys: ['u'], shown: 'U', run: nextUnits },
  { name: 'Reverse the clip', on: ['clip', 'chart'], keys: ['r'], shown: 'R', run: reverseClip },
  { name: 'Narrow the bend', keys: ['['], shown: '[', run: () => widenBend(-1) },
  { name: 'Widen the bend', keys: [']'], shown: ']', run: () => widenBend(1) },
  { name: 'The range begins here', on: ['chart'], keys: ['i'], shown: 'I', hint: 'range', run: markIn },
  { name: 'The range ends here', on: ['chart'], keys: ['o'], shown: 'O', run: markOut },
  { name: 'Reverse the range', on: ['chart'], run: turnTheRange },
  { name: 'Play the range there and back; the clip ends there', on: ['chart'], run: returnTheRange },
  { name: 'Bounce the range: there, back and there again', on: ['chart'], run: bounceTheRange },
  { name: 'Clear the range, and what is picked', on: ['chart'], keys: ['escape'], shown: 'Esc', run: clearAll },
  { name: 'Bend before', keys: ['up'], shown: '↑', run: () => walkBends(-1) },
  { name: 'Bend after', keys: ['down'], shown: '↓', run: () => walkBends(1) },
  { name: 'Move the bend a frame earlier', keys: ['ctrl+left'], shown: 'Ctrl ←', run: () => nudge(-1, 0) },
  { name: 'Move the bend a frame later', keys: ['ctrl+right'], shown: 'Ctrl →', run: () => nudge(1, 0) },
  { name: 'Move the bend up a source frame', keys: ['ctrl+up'], shown: 'Ctrl ↑', run: () => nudge(0, 1) },
  { name: 'Move the bend down a source frame', keys: ['ctrl+down'], shown: 'Ctrl ↓', run: () => nudge(0, -1) },
  { name: 'Loop the bend', on: ['chart'], keys: ['g'], shown: 'G', run: toggleLoop },
  {
    name: 'This frame from the original, full size',
    on: ['chart'],
    keys: ['f'],
    shown: 'F',
    hint: 'original',
    run: () => void toggleOriginal(),
  },
  {
    name: 'The picture over the whole window, or back',
    keys: ['shift+f'],
    shown: 'Shift F',
    run: () => benchStore.setState(({ isPictureLarge }) => ({ isPictureLarge: !isPictureLarge })),
  },
  {
    name: 'The picture in a second window, or no longer',
    keys: ['shift+w'],
    shown: 'Shift W',
    run: lately(async () => (await import('./picture/second-window.ts')).toggleSecondWindow),
  },
  { name: 'Full screen, or back', keys: ['alt+enter'], shown: 'Alt Enter', run: () => void turnFullScreen() },
  {
    name: 'Step: each frame the one before it',
    on: ['clip'],
    keys: ['alt+1'],
    shown: 'Alt 1',
    run: () => changeMethod('step'),
  },
  {
    name: 'Mix: each frame blended of two',
    on: ['clip'],
    keys: ['alt+2'],
    shown: 'Alt 2',
    run: () => changeMethod('mix'),
  },
  {
    name: 'Flow: each frame made where things have moved to',
    on: ['clip'],
    keys: ['alt+3'],
    shown: 'Alt 3',
    run: () => changeMethod('flow'),
  },
  {
    name: 'Remove what is selected',
    on: ['cue', 'sound'],
    keys: ['delete', 'backspace'],
    shown: 'Del',
    run: removeSelected,
  },
  { name: 'Undo', shown: 'Ctrl Z', run: undo },
  { name: 'Redo', shown: 'Ctrl Shift Z', run: redo },
  { name: 'The guide: how to do each job', shown: '?', run: () => openGuide() },
  {
    name: 'All actions',
    keys: ['/'],
    shown: '/',
    hint: 'all actions',
    run: () => benchStore.setState({ actionsOpen: true }),
  },
];
