import {
  END_CHOICES,
  fitDuration,
  InvalidInput,
  mapDuration,
  missingSource,
  setClipSpeed,
  updateClip,
  type EndChoice,
  type Method,
  parseSpeed,
  percentText,
} from '@idle-bend/core';
import { Snowflake, Undo2 } from 'lucide-react';
import { useMemo } from 'react';
import { edit } from '../../shell/project-store.ts';
import { HOLD_FRAMES } from '../actions.ts';
import { speedMeasure, type BenchClip } from '../bench-store.ts';
import { applyMap, changeMethod, holdHere, reverseClip } from '../edits.ts';
import { AdviceList } from './advice-list.tsx';
import { Choice } from './choice.tsx';
import { TypedField } from './typed-field.tsx';
import { Panel } from './panel.tsx';

const METHOD_CHOICES: readonly { value: Method; text: string; title: string }[] = [
  { value: 'step', text: 'Step', title: 'Each frame is the source frame before it' },
  { value: 'mix', text: 'Mix', title: 'Each frame is blended of the two around it' },
];
const END_WORDS: Readonly<Record<EndChoice, string>> = { hold: 'holds its last frame', loop: 'begins again', black: 'is black' };

export function ClipPanel({ bench }: { bench: BenchClip }) {
  const { clip, source, frames, slope } = bench;
  const first = clip.map.vertices[0]!;
  const last = clip.map.vertices[clip.map.vertices.length - 1]!;
  const average = (last.s - first.s) / last.t / slope;
  const missing = useMemo(() => missingSource(clip.map, source.frames), [clip.map, source.frames]);
  const setFrames = (n: number) => applyMap((map) => fitDuration(map, n));
  return (
    <Panel
      title="Clip"
      about={`${frames} frames · source ${Math.round(Math.min(first.s, last.s))} to ${Math.min(source.frames - 1, Math.round(Math.max(first.s, last.s)))}`}
    >
      <div className="grid grid-cols-2 gap-3">
        <TypedField
          label="Speed over all"
          text={percentText(average)}
          commit={(typed) => applyMap((map) => setClipSpeed(map, parseSpeed(typed, speedMeasure(bench, last.t, average)), slope))}
        />
        <TypedField
          label="Length, frames"
          text={String(Math.round(mapDuration(clip.map) * 1000) / 1000)}
          commit={(typed) => {
            if (!/^\d+(\.\d+)?$/.test(typed)) throw new InvalidInput('length', `"${typed}" is not a number of frames`);
            setFrames(Number(typed));
          }}
          step={(by) => setFrames(Math.round(mapDuration(clip.map)) + by)}
        />
      </div>
      <Choice label="In-betweens" value={clip.method} options={METHOD_CHOICES} choose={changeMethod} />
      <div className="flex gap-2">
        <button className="button" onClick={() => holdHere(HOLD_FRAMES)}>
          <Snowflake size={15} aria-hidden /> Hold {HOLD_FRAMES} frames here
        </button>
        <button className="button" onClick={reverseClip}>
          <Undo2 size={15} aria-hidden /> Reverse
        </button>
      </div>
      <AdviceList bench={bench} />
      {missing && (
        <Choice
          label={`Where source is missing the clip ${END_WORDS[clip.end]}`}
          value={clip.end}
          options={END_CHOICES.map((value) => ({ value, text: value.charAt(0).toUpperCase() + value.slice(1) }))}
          choose={(end) => edit((project) => updateClip(project, clip.id, (c) => ({ ...c, end })))}
        />
      )}
    </Panel>
  );
}
