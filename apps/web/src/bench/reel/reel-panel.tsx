import {
  BT2100_HLG,
  BT2100_PQ,
  BT709,
  highRangeOf,
  sameSpace,
  spaceWords,
  type ColourSpace,
} from '@idle-bend/core/colour';
import {
  rateChangeReport,
  setReelColour,
  setCeiling,
  setReelBlur,
  setReelRange,
  setReelRate,
  setReelSize,
} from '@idle-bend/core/edit';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Project } from '@idle-bend/core/model';
import { reelFrames } from '@idle-bend/core/reel';
import { formatTimecode, parseRate, parseTimecode, speakRate, type Rate } from '@idle-bend/core/time';
import { Repeat, X } from 'lucide-react';
import { useMemo, useRef, useState } from 'react';
import { CUE_FORMATS, saveCues, takeCues } from '../landing/cue-files.ts';
import { ProxyLinesField } from './proxy-lines.tsx';
import { clearReelRange, toggleReelLoop } from './range-commands.ts';
import { readDecibels } from '../sound/clip-sound.tsx';
import { BlurFields } from '../blur/blur-fields.tsx';
import { Note, Panel } from '../../ui/panel.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { edit } from '../../session/session.ts';
import { select, type BenchClip } from '../../session/bench-state.ts';
import { attempt } from '../../session/command.ts';
import { useBench } from '../../ui/use-session.ts';
import { Select } from '../../ui/select.tsx';
import { Check } from '../../ui/check.tsx';

const RATES = ['24000/1001', '24', '25', '30000/1001', '30', '50', '60'];
const SHAPES = [
  { text: 'Wide', width: 16, height: 9 },
  { text: 'Upright', width: 9, height: 16 },
  { text: 'Square', width: 1, height: 1 },
  { text: 'Tall', width: 4, height: 5 },
] as const;

/** The reel itself: its rate and size, and what another rate does to every clip before it is taken. */
export function ReelPanel({ bench: { project } }: { bench: BenchClip }) {
  const { rate, width, height } = project.reel;
  const [tried, setTried] = useState<Rate>();
  const put = (change: (before: Project) => Project) => attempt(() => edit(change));
  const size = (typed: string): number => {
    const value = Number(typed);
    if (!Number.isInteger(value)) throw new InvalidInput('size', `"${typed}" is not a whole number of pixels`);
    return value;
  };
  // A shape keeps the shorter side.
  const short = Math.min(width, height);
  const shaped = (w: number, h: number) => {
    const unit = short / Math.min(w, h);
    const even = (n: number) => 2 * Math.round((n * unit) / 2);
    put((before) => setReelSize(before, even(w), even(h)));
  };
  return (
    <Panel
      title="Reel"
      recipe="framing"
      about={formatTimecode(reelFrames(project), rate)}
      action={
        <button className="button px-1.5" aria-label="Close" onClick={() => select({ kind: 'clip' })}>
          <X size={15} aria-hidden />
        </button>
      }
    >
      <div className="grid grid-cols-3 gap-3">
        <Select
          label="Rate, fps"
          value={`${(tried ?? rate).num}/${(tried ?? rate).den}`}
          options={[...new Set([...RATES.map((text) => parseRate(text)), rate].map((r) => `${r.num}/${r.den}`))].map(
            (value) => ({ value, text: speakRate(parseRate(value)) }),
          )}
          choose={(value) => setTried(parseRate(value))}
        />
        <TypedField label="Width" text={String(width)} commit={(t) => edit((p) => setReelSize(p, size(t), height))} />
        <TypedField label="Height" text={String(height)} commit={(t) => edit((p) => setReelSize(p, width, size(t)))} />
      </div>
      <div className="flex gap-1.5" role="group" aria-label="Shape of the picture">
        {SHAPES.map(({ text, width: w, height: h }) => (
          <button
            key={text}
            className="button px-2 text-xs"
            aria-pressed={Math.abs(width / height / (w / h) - 1) < 0.01}
            onClick={() => shaped(w, h)}
          >
            {text} {w}:{h}
          </button>
        ))}
      </div>
      <Colour project={project} />
      <ProxyLinesField />
      <BlurFields
        label="Motion blur of all clips"
        blur={project.reel.blur}
        set={(blur) => blur && put((before) => setReelBlur(before, blur))}
      />
      <Ceiling project={project} />
      <Range project={project} />
      <Cues project={project} />
      {tried && <Account project={project} rate={tried} leave={() => setTried(undefined)} />}
    </Panel>
  );
}

const BT601: ColourSpace = { matrix: 'smpte170m', primaries: 'smpte170m', transfer: 'smpte170m', range: 'limited' };
const SPACES: readonly ColourSpace[] = [BT709, BT601, BT2100_PQ, BT2100_HLG];

/** The colour space of all pictures; clips of others are converted. */
function Colour({ project }: { project: Project }) {
  const { colour } = project.reel;
  const all = [...SPACES, ...(colour && !SPACES.some((space) => sameSpace(space, colour)) ? [colour] : [])];
  const chosen = colour ? String(all.findIndex((space) => sameSpace(space, colour))) : 'first';
  return (
    <div className="text-sm">
      <Select
        label="Colour"
        value={chosen}
        options={[
          { value: 'first', text: 'as the first clip' },
          ...all.map((space, i) => ({ value: String(i), text: spaceWords(space) })),
        ]}
        choose={(value) =>
          attempt(() => edit((before) => setReelColour(before, value === 'first' ? null : all[Number(value)]!)))
        }
      />
      {colour && highRangeOf(colour) && (
        <span className="text-faint text-[13px]">
          High dynamic range: shown here in the standard range; renders have all of it.
        </span>
      )}
    </div>
  );
}

/** A limit on the peaks of the whole mix, in renders. */
function Ceiling({ project }: { project: Project }) {
  const { ceiling } = project.reel;
  return (
    <div className="grid grid-cols-[auto_1fr] items-end gap-3">
      <Check
        label="Hold the mix’s true peaks down"
        className="h-8"
        tip="In renders; playing here is not held down"
        checked={ceiling !== null}
        set={(held) => attempt(() => edit((before) => setCeiling(before, held ? -1 : null)))}
      />
      {ceiling !== null && (
        <TypedField
          label="to"
          text={`${ceiling} dBTP`}
          commit={(typed) => edit((before) => setCeiling(before, readDecibels(typed.replace(/TP$/i, ''))))}
        />
      )}
    </div>
  );
}

/** The stretch of the reel that is played round, and rendered alone. */
function Range({ project }: { project: Project }) {
  const { rate, range } = project.reel;
  const looped = useBench((s) => s.reelLoop);
  if (!range)
    return (
      <p className="text-faint text-[13px]">
        No range: <kbd className="text-ink font-mono">Shift I</kbd> begins one at the playhead,{' '}
        <kbd className="text-ink font-mono">Shift O</kbd> ends it.
      </p>
    );
  const frame = (typed: string) => (typed.includes(':') ? parseTimecode(typed, rate) : Math.round(Number(typed)));
  const set = (to: Partial<typeof range>) => edit((before) => setReelRange(before, { ...range, ...to }));
  return (
    <div className="grid grid-cols-[1fr_1fr_auto_auto] items-end gap-2">
      <TypedField
        label="Range from"
        text={formatTimecode(range.from, rate)}
        commit={(t) => set({ from: frame(t) })}
        step={(by) => set({ from: range.from + by })}
      />
      <TypedField
        label="to, included"
        text={formatTimecode(range.to - 1, rate)}
        commit={(t) => set({ to: frame(t) + 1 })}
        step={(by) => set({ to: range.to + by })}
      />
      <button
        className={`button h-8 ${looped ? 'border-river text-river' : ''}`}
        aria-pressed={looped}
        onClick={toggleReelLoop}
      >
        <Repeat size={14} aria-hidden /> Loop
      </button>
      <button className="button h-8 px-2" aria-label="Clear the reel’s range" onClick={clearReelRange}>
        <X size={14} aria-hidden />
      </button>
    </div>
  );
}

/** The reel's cues out to a file, and in from one. */
function Cues({ project }: { project: Project }) {
  const chooser = useRef<HTMLInputElement>(null);
  return (
    <div>
      <span className="label">Cues: {project.reel.cues.length === 0 ? 'none yet' : project.reel.cues.length}</span>
      <div className="flex flex-wrap gap-1.5">
        <button className="button px-2 text-xs" onClick={() => chooser.current?.click()}>
          Import…
        </button>
        {CUE_FORMATS.map(({ ending, text, title }) => (
          <button
            key={ending}
            className="button px-2 text-xs"
            data-tip={title}
            disabled={project.reel.cues.length === 0}
            onClick={() => void saveCues(project, ending)}
          >
            Save as {text}
          </button>
        ))}
        <input
          ref={chooser}
          type="file"
          hidden
          accept=".csv,.txt,.tsv,.vtt,.mid,.midi"
          aria-label="File of cues"
          onChange={(e) => {
            const [file] = e.target.files ?? [];
            if (file) void takeCues(file);
            e.target.value = '';
          }}
        />
      </div>
    </div>
  );
}

/** What another rate does, clip by clip; nothing is changed before it is taken. */
function Account({ project, rate, leave }: { project: Project; rate: Rate; leave: () => void }) {
  const clips = useMemo(() => rateChangeReport(project, setReelRate(project, rate)), [project, rate]);
  const percent = (share: number) => `${Math.round(100 * share)} %`;
  return (
    <>
      <Note>
        Everything keeps its time; curves and cues are counted in the new frames, beats stay where they are heard.
      </Note>
      <table className="w-full text-sm" aria-label={`What ${speakRate(rate)} fps does`}>
        <thead className="text-faint text-left text-xs">
          <tr>
            <th className="font-normal">Clip</th>
            <th className="text-right font-normal">Frames</th>
            <th className="text-right font-normal">Real ones</th>
          </tr>
        </thead>
        <tbody className="font-mono text-xs">
          {clips.map(({ clipId, name, framesBefore, framesAfter, realBefore, realAfter }) => (
            <tr key={clipId} className="border-line border-t">
              <td className="max-w-40 truncate py-0.5 font-sans text-sm">{name}</td>
              <td className="text-right">
                {framesBefore} → {framesAfter}
              </td>
              <td
                className={`text-right ${realAfter < realBefore - 0.01 ? 'text-vermilion' : realAfter > realBefore + 0.01 ? 'text-moss' : ''}`}
              >
                {percent(realBefore)} → {percent(realAfter)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="flex gap-2">
        <button
          className="button button-ink"
          onClick={() => {
            edit((before) => setReelRate(before, rate));
            leave();
          }}
        >
          Make it {speakRate(rate)} fps
        </button>
        <button className="button" onClick={leave}>
          Cancel
        </button>
      </div>
    </>
  );
}
