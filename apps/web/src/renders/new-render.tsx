import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import type { Footage, RenderEstimate } from '@idle-bend/core/api';
import { footageOnReel } from '@idle-bend/core/group';
import type { FlowLevel, Project } from '@idle-bend/core/model';
import { allClips, interpolationOf, placeItems, reelFrames, usesBlur } from '@idle-bend/core/reel';
import {
  DEFAULT_SETTINGS,
  RENDER_FORMAT_NAMES,
  RENDER_FORMATS,
  RENDER_PURPOSES,
  type RenderFormatName,
  type RenderPart,
  type RenderQuality,
  type RenderRange,
  type RenderSettings,
  type RenderTimecode,
} from '@idle-bend/core/render';
import { usesFlow } from '@idle-bend/core/sampling';
import { formatTimecode } from '@idle-bend/core/time';
import { RadioGroup } from 'radix-ui';
import { useState } from 'react';
import { api, type RenderRequest } from '../api.ts';
import { sizeText } from '../ui/size-text.ts';
import { Choice } from '../ui/choice.tsx';
import { flush } from '../session/session.ts';
import { tellError } from '../session/notices.ts';
import { Select } from '../ui/select.tsx';
import { Check } from '../ui/check.tsx';

/** The formats by what they are for. */
const PURPOSES = Object.entries(RENDER_PURPOSES).map(([purpose, title]) => ({
  title,
  formats: RENDER_FORMAT_NAMES.filter((name) => RENDER_FORMATS[name].purpose === purpose),
}));

const QUALITIES: readonly { value: RenderQuality; text: string; title: string }[] = [
  { value: 'full', text: 'Full', title: 'From the originals, at the reel’s size' },
  { value: 'draft', text: 'Draft', title: 'From the proxies, as the bench shows it' },
];
const RANGES: readonly { value: RenderRange; text: string }[] = [
  { value: 'keep', text: 'Keep, with its tags' },
  { value: 'standard', text: 'Convert to standard' },
];
const LEVELS: readonly { value: FlowLevel; text: string; title: string }[] = [
  { value: 'quick', text: 'Quick', title: 'As the bench plays it' },
  { value: 'default', text: 'Default', title: 'As the bench shows it when it stands still' },
  { value: 'best', text: 'Best', title: 'Two estimates of all motion, for about twice the time' },
];
const DEPTHS = [
  { value: 'source', text: 'As the footage' },
  { value: '8', text: '8 bit' },
  { value: '10', text: '10 bit' },
] as const;
const TIMECODES: readonly { value: RenderTimecode; text: string; title: string }[] = [
  { value: 'none', text: 'None', title: 'The file starts at zero' },
  { value: 'reel', text: 'Of the reel', title: 'The reel begins at 01:00:00:00' },
  { value: 'source', text: 'Of the source', title: 'The time of the source frame that is shown first' },
];

interface Props {
  readonly projectId: string;
  readonly document: Project;
  readonly footage: readonly Footage[];
}

/** What is to be rendered, as what, and what that asks of the machine. */
export function NewRender({ projectId, document, footage }: Props) {
  const [settings, setSettings] = useState<RenderSettings>(DEFAULT_SETTINGS);
  const set = (changed: Partial<RenderSettings>) => setSettings((before) => ({ ...before, ...changed }));
  const { range: stretch, rate, cues } = document.reel;
  const frames = reelFrames(document);
  const clips = placeItems(document).flatMap(({ item }) => (item.kind === 'clip' ? [item] : []));
  const [wantedPart, setPart] = useState<RenderPart>(stretch ? 'range' : 'reel');
  const part =
    (wantedPart === 'range' && !stretch) || (wantedPart === 'clip' && clips.length === 0) ? 'reel' : wantedPart;
  const [clipId, setClip] = useState('');
  const clip = clips.find(({ id }) => id === clipId) ?? clips[0];

  const format = RENDER_FORMATS[settings.format];
  const used = footageOnReel(document);
  const hasHighRange = footage.some((f) => used.has(f.id) && f.facts.picture?.highRange);
  const hasFlow = usesBlur(document) || allClips(document).some((c) => usesFlow(interpolationOf(document, c)));
  const full = settings.quality === 'full';
  const request: RenderRequest = {
    ...settings,
    range: hasHighRange ? settings.range : 'keep',
    part,
    ...(part === 'clip' && clip && { clipId: clip.id }),
  };
  const start = useMutation({
    mutationFn: async () => {
      await flush();
      return api.startRender(projectId, request);
    },
    onError: (e) => tellError(e.message),
  });
  const parts: { value: RenderPart; text: string; title?: string }[] = [
    { value: 'reel', text: 'Reel' },
    ...(stretch
      ? [
          {
            value: 'range' as const,
            text: `Its range, ${Math.min(stretch.to, frames) - stretch.from} frames`,
            title: `From ${formatTimecode(stretch.from, rate)}`,
          },
        ]
      : []),
    { value: 'clip', text: 'One clip' },
    { value: 'clips', text: 'Every clip', title: 'A file for every clip of the reel' },
  ];
  return (
    <section aria-label="New render" className="border-line bg-sheet mb-6 rounded-xl border p-4">
      <RadioGroup.Root
        aria-label="Format"
        value={settings.format}
        onValueChange={(value) => set({ format: value as RenderFormatName })}
        className="mb-2 grid grid-cols-4 gap-3"
      >
        {PURPOSES.map(({ title, formats }) => (
          <div key={title}>
            <span className="label">{title}</span>
            <div className="grid gap-1">
              {formats.map((name) => (
                <RadioGroup.Item
                  key={name}
                  value={name}
                  data-tip={RENDER_FORMATS[name].suits}
                  className="border-line hover:border-river data-[state=checked]:bg-ink data-[state=checked]:text-paper data-[state=checked]:border-ink rounded-lg border px-2.5 py-1 text-left whitespace-nowrap"
                >
                  {RENDER_FORMATS[name].title}
                </RadioGroup.Item>
              ))}
            </div>
          </div>
        ))}
      </RadioGroup.Root>
      <p className="text-faint mb-3 text-[13px]">{format.suits}</p>
      <div className="mb-3 flex flex-wrap items-end gap-x-5 gap-y-2">
        <Choice label="How much of it" value={part} options={parts} choose={setPart} />
        {part === 'clip' && clip && (
          <Select
            label="Which"
            value={clip.id}
            className="w-44"
            options={clips.map(({ id, name }) => ({ value: id, text: name }))}
            choose={setClip}
          />
        )}
        {format.picture && (
          <Choice label="Quality" value={settings.quality} options={QUALITIES} choose={(quality) => set({ quality })} />
        )}
        {full && format.depths.length > 1 && (
          <Choice
            label="Depth"
            value={String(settings.depth) as (typeof DEPTHS)[number]['value']}
            options={DEPTHS}
            choose={(depth) => set({ depth: depth === 'source' ? depth : (Number(depth) as 8 | 10) })}
          />
        )}
        {hasHighRange && full && (
          <Choice
            label="High dynamic range"
            value={settings.range}
            options={RANGES}
            choose={(range) => set({ range })}
          />
        )}
        {hasFlow && full && format.picture && (
          <Choice
            label="Flow’s in-betweens, and blur"
            value={settings.level}
            options={LEVELS}
            choose={(level) => set({ level })}
          />
        )}
        {format.timecode && (
          <Choice
            label="Timecode"
            value={settings.timecode}
            options={TIMECODES}
            choose={(timecode) => set({ timecode })}
          />
        )}
        {format.chapters && cues.length > 0 && (
          <Check
            label="Cues as chapters"
            className="pb-1"
            checked={settings.chapters}
            set={(chapters) => set({ chapters })}
          />
        )}
      </div>
      <div className="flex items-center gap-4">
        <button className="button button-ink" disabled={frames === 0 || start.isPending} onClick={() => start.mutate()}>
          Render
        </button>
        {frames > 0 && <Cost projectId={projectId} request={request} document={document} />}
      </div>
    </section>
  );
}

/** What a render asks of the machine, before it is begun. */
function Cost({ projectId, request, document }: { projectId: string; request: RenderRequest; document: Project }) {
  const { data, error } = useQuery({
    queryKey: ['render-estimate', projectId, request, document],
    queryFn: async () => {
      await flush();
      return api.estimateRender(projectId, request);
    },
    placeholderData: keepPreviousData,
    gcTime: 0,
    retry: false,
  });
  if (error) return <p className="text-vermilion text-[13px]">{error.message}</p>;
  if (!data) return null;
  return (
    <p className="text-faint font-mono text-xs" aria-label="Estimated cost">
      {costWords(data, RENDER_FORMATS[request.format].picture !== null)}
      {data.maxBytes > data.freeBytes && <span className="text-vermilion"> · not enough room on disk</span>}
    </p>
  );
}

function costWords({ files, cost, seconds, maxBytes, freeBytes }: RenderEstimate, hasPicture: boolean): string {
  const many = (n: number, one: string, more = `${one}s`) => `${n} ${n === 1 ? one : more}`;
  const pictures = cost.pictures > cost.made ? ` of ${cost.pictures} pictures` : '';
  return [
    ...(files > 1 ? [many(files, 'file')] : []),
    many(cost.frames, 'frame'),
    ...(hasPicture && cost.made > 0 ? [`${cost.made} made by Flow${pictures}`] : []),
    ...(hasPicture && cost.blended > 0 ? [`${cost.blended} blended`] : []),
    ...(hasPicture ? [`${(cost.pixels / 1e6).toFixed(0)} megapixels`] : []),
    ...(seconds === null ? [] : [`about ${lengthWords(seconds)} here`]),
    `at most ${sizeText(maxBytes)} of ${sizeText(freeBytes)} free`,
  ].join(' · ');
}

export const lengthWords = (seconds: number) =>
  seconds < 100
    ? `${Math.ceil(seconds)} s`
    : seconds < 6000
      ? `${Math.round(seconds / 60)} min`
      : `${(seconds / 3600).toFixed(1)} h`;
