import { Expand, Maximize, Pause, Play, Repeat, Shrink, StepBack, StepForward, Waves } from 'lucide-react';
import { ACTIONS, playOrStop, toggleLoop, toggleOriginal } from './actions.ts';
import { makeSmooth } from './motion.ts';
import { Meter } from './sound/meter.tsx';
import { current } from '../session/command.ts';
import { useBench, useOriginal } from '../ui/use-session.ts';
import { benchStore } from '../session/bench-state.ts';
import { drawnBy } from '../ui/drawn-by.ts';

const run = (name: string) => ACTIONS.find((a) => a.name === name)!.run;
const back = run('One frame back');
const on = run('One frame on');

const PACES: Readonly<Record<number, string>> = { 1: '1×', 0.5: '½×', 0.25: '¼×', 0.125: '⅛×' };

function TransportPart() {
  const clock = useBench((s) => s.clock);
  const loop = useBench((s) => s.loop);
  const pace = useBench((s) => s.pace);
  const bendChosen = useBench((s) => s.selection.kind === 'vertex');
  return (
    <div className="border-line @container flex items-center gap-1.5 border-b px-3.5 py-2">
      <button className="button px-2" onClick={back} aria-label="One frame back">
        <StepBack size={15} aria-hidden />
      </button>
      <button className="button button-ink w-[4.3rem] justify-center px-2" onClick={playOrStop}>
        {clock === 0 ? <Play size={15} aria-hidden /> : <Pause size={15} aria-hidden />}
        {clock === 0 ? 'Play' : 'Stop'}
      </button>
      <button className="button px-2" onClick={on} aria-label="One frame on">
        <StepForward size={15} aria-hidden />
      </button>
      <button
        className={`button px-2 ${loop ? 'border-river text-river' : ''}`}
        aria-pressed={loop !== undefined}
        data-tip={bendChosen ? 'Plays the bend over and over' : 'Plays the clip over and over'}
        onClick={toggleLoop}
      >
        <Repeat size={15} aria-hidden /> Loop
      </button>
      <button
        className={`button px-2 font-mono text-xs ${pace < 1 ? 'border-river text-river' : ''}`}
        data-tip="How fast it plays: − slower, = faster"
        aria-label={`Pace: ${pace} of real time; press for slower`}
        onClick={() => benchStore.setState({ pace: pace > 1 / 8 ? pace / 2 : 1 })}
      >
        {PACES[pace] ?? '1×'}
      </button>
      <SmoothButton />
      <span className="ml-auto">
        <Meter />
      </span>
      <OriginalButton />
      <LargeButton />
    </div>
  );
}

function LargeButton() {
  const isLarge = useBench((s) => s.isPictureLarge);
  const Icon = isLarge ? Shrink : Expand;
  return (
    <button
      className="button px-2"
      aria-pressed={isLarge}
      aria-label="Large picture"
      data-tip="The picture over the whole window, or back (Shift F)"
      onClick={() => benchStore.setState({ isPictureLarge: !isLarge })}
    >
      <Icon size={15} aria-hidden />
    </button>
  );
}

/** Apart from the rest: whether it is shown changes with the document. */
function OriginalButton() {
  const original = useOriginal();
  return (
    <button
      className={`button px-2 ${original ? 'border-river text-river' : ''}`}
      aria-pressed={original !== undefined}
      aria-label="Original"
      data-tip="The frame from the original, at full size (F)"
      onClick={() => void toggleOriginal()}
    >
      <Maximize size={15} aria-hidden /> <span className="@max-[30rem]:hidden">Original</span>
    </button>
  );
}

/** Makes the frames of the range, or of the clip, ahead as the render makes them, so that they play exactly. */
function SmoothButton() {
  const smooth = useBench((s) => s.smooth);
  const active = useBench((s) => s.activeId);
  const own = smooth && smooth.clip.id === active && smooth.clip === current()?.clip ? smooth : undefined;
  const running = own && own.done < own.total;
  return (
    <button
      className={`button w-10 justify-center px-1 ${own ? 'border-river text-river' : ''}`}
      data-tip="Make smooth: the range, or the clip, made ahead as the render makes it (Q)"
      aria-label={running ? 'Stop making smooth' : 'Make smooth'}
      onClick={makeSmooth}
    >
      {running ? (
        <span className="font-mono text-xs">{Math.round((100 * own.done) / own.total)}%</span>
      ) : (
        <Waves size={15} aria-hidden />
      )}
    </button>
  );
}

export const Transport = drawnBy('transport', () => [], TransportPart);
