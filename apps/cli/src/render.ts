import { existsSync } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { dirname, extname, join, resolve } from 'node:path';
import { setReelRange } from '@idle-bend/core/edit';
import { InvalidInput } from '@idle-bend/core/foundation';
import { footageOnReel } from '@idle-bend/core/group';
import type { Project } from '@idle-bend/core/model';
import { reelFrames } from '@idle-bend/core/reel';
import {
  chaptersOf,
  chunksOf,
  RENDER_FORMAT_NAMES,
  formatOfEnding,
  RENDER_ENDINGS,
  RENDER_FORMATS,
  RENDER_TIMECODES,
  renderDepth,
  startTimecode,
  type RenderFormatName,
} from '@idle-bend/core/render';
import { speakRate } from '@idle-bend/core/time';
import {
  makeScratchFolder,
  releaseScratch,
  isNumbered,
  assembleRender,
  openSource,
  outputKind,
  renderName,
  writeChunk,
  writeReel,
  type Codec,
  type OpenedSource,
} from '@idle-bend/media';
import { refuseOddSize } from './even-size.js';
import { LEVELS } from '@idle-bend/pipeline';
import { choiceOption, DATA_OPTION, readOptions, sizeOption, text, UsageError, type OptionKind } from './options.js';
import { openProject } from './open-project.js';
import { refuseMissing, type ProjectFile } from './project-file.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  output: {
    type: 'string',
    help: 'OUT (-o)  .mp4 .webm .mov .mkv .gif .webp .wav .zip (numbered pictures) or frames/%05d.png',
  },
  media: { type: 'string', help: 'DIR  where the media are, known by their names; a bundle may have them inside' },
  data: DATA_OPTION,
  format: { type: 'string', help: `${RENDER_FORMAT_NAMES.join('|')}; by OUT’s ending without it` },
  range: { type: 'string', help: 'A-B  frames of the reel, both included; all of it without' },
  size: { type: 'string', help: 'WxH  of the output; the reel’s without it' },
  depth: { type: 'string', help: 'source|8|10  bits a sample; as the footage without it' },
  level: { type: 'string', help: 'quick|default|best  quality of Flow’s in-betweens' },
  timecode: { type: 'string', help: 'none|reel|source  where the file’s timecode begins' },
  chapters: { type: 'boolean', help: 'cues become chapters' },
};

export const render = {
  usage: 'idle-bend render PROJECT -o OUT [options]',
  about:
    'Renders a whole project, picture and sound: a document (.json) with its media, a bundle (.zip), or a project of a data folder.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, ['PROJECT']);
    const out = text(values, 'output');
    if (!out) throw new UsageError('-o OUT is missing');
    const numbered = isNumbered(out);
    const ending = extname(out).toLowerCase();
    const format = choiceOption(values, 'format', RENDER_FORMAT_NAMES) ?? formatOfEnding(ending);
    if (!numbered && !format) throw new InvalidInput('-o', `${out} ends in none of ${RENDER_ENDINGS.join(', ')}`);
    if (!numbered && `.${RENDER_FORMATS[format!].extension}` !== ending)
      throw new UsageError(`--format ${format} is written as .${RENDER_FORMATS[format!].extension}`);
    const level = choiceOption(values, 'level', LEVELS) ?? 'default';
    const depth = choiceOption(values, 'depth', ['source', '8', '10'] as const) ?? 'source';
    const timecode = choiceOption(values, 'timecode', RENDER_TIMECODES) ?? 'none';
    const size = sizeOption(values, 'size');
    const coding = numbered ? undefined : RENDER_FORMATS[format!].picture;
    const opened = await openProject(operands[0]!, { data: text(values, 'data'), media: text(values, 'media') });
    try {
      const project = ranged(
        size ? { ...opened.project, reel: { ...opened.project.reel, ...size } } : opened.project,
        text(values, 'range'),
      );
      const stretch = project.reel.range!;
      if (coding?.kind === 'film') refuseOddSize(coding.codec as Codec, size, project.reel, progress);
      refuseMissing(project, footageOnReel(project), opened.media);
      const open = opener(opened);
      let reported = -1;
      const onFrame = (done: number, total: number) => {
        const tenth = Math.floor((done * 10) / total);
        if (tenth > reported) progress(`${done} of ${total} frames`);
        reported = tenth;
      };
      const sources = await Promise.all([...footageOnReel(project)].map(open));
      const depths = sources.map(({ facts }) => facts.video!.format.layout.bitDepth);
      const alpha = sources.some(({ facts }) => facts.video!.format.layout.alpha);
      if (numbered) {
        await writeReel(project, open, out, outputKind(out), {
          onFrame,
          level,
          stretch,
          alpha,
          depth: depth === 'source' ? Math.max(...depths) : Number(depth),
        });
      } else {
        await inChunks(opened, project, out, format!, {
          depth: renderDepth(RENDER_FORMATS[format!], depth === 'source' ? depth : (Number(depth) as 8 | 10), depths),
          ...{ alpha, level, timecode, onFrame, open, chapters: values['chapters'] === true },
        });
      }
      print(`${out}: ${stretch.to - stretch.from} frames at ${speakRate(project.reel.rate)} fps`);
      return 0;
    } finally {
      await opened.close();
    }
  },
};

const opener = ({ media }: ProjectFile) => {
  const opened = new Map<string, Promise<OpenedSource>>();
  return (id: string) => {
    if (!opened.has(id)) opened.set(id, openSource(media[id]!.file, media[id]!.name));
    return opened.get(id)!;
  };
};

/** The project with the frames that are asked for as its range. */
function ranged(project: Project, wanted: string | undefined): Project {
  const end = reelFrames(project);
  if (end === 0) throw new InvalidInput('PROJECT', 'has nothing on its reel');
  if (wanted === undefined) return setReelRange(project, { from: 0, to: end });
  const [, first, last] = /^(\d+)-(\d+)$/.exec(wanted) ?? [];
  if (first === undefined || Number(last) < Number(first))
    throw new InvalidInput('--range', `"${wanted}" is not first-last, such as 120-239`);
  if (Number(last) >= end) throw new InvalidInput('--range', `the reel has frames 0 to ${end - 1}`);
  return setReelRange(project, { from: Number(first), to: Number(last) + 1 });
}

interface ChunkedChoice {
  readonly depth: number;
  readonly alpha: boolean;
  readonly level: (typeof LEVELS)[number];
  readonly timecode: (typeof RENDER_TIMECODES)[number];
  readonly chapters: boolean;
  readonly onFrame: (done: number, total: number) => void;
  readonly open: (id: string) => Promise<OpenedSource>;
}

/** The way the server renders, chunk after chunk, so that the file is the same. What was finished before a stop is not kept. */
async function inChunks(
  opened: ProjectFile,
  project: Project,
  out: string,
  format: RenderFormatName,
  choice: ChunkedChoice,
): Promise<void> {
  const stretch = project.reel.range!;
  const total = stretch.to - stretch.from;
  await mkdir(dirname(resolve(out)), { recursive: true });
  const folder = makeScratchFolder(join(dirname(resolve(out)), '.idle-bend-'));
  try {
    const chunks = RENDER_FORMATS[format].picture ? chunksOf(stretch, project) : [];
    for (const [index, chunk] of chunks.entries()) {
      const { depth, alpha, level } = choice;
      const order = {
        index,
        stretch: chunk,
        first: stretch.from,
        format,
        depth,
        alpha,
        toneMap: false,
        level,
        ownSize: false,
      };
      await writeChunk(project, order, choice.open, folder, {
        onFrame: (done) => choice.onFrame(chunk.from - stretch.from + done, total),
      });
    }
    const starts = new Map(
      await Promise.all(
        [...footageOnReel(project)].map(async (id) => [id, (await choice.open(id)).facts.startTimecode] as const),
      ),
    );
    await assembleRender(project, opened.media, folder, {
      ...{ format, chunks: chunks.length, stretch },
      chapters: choice.chapters ? chaptersOf(project, stretch) : [],
      timecode: startTimecode(project, stretch, choice.timecode, (id) => starts.get(id) ?? null),
    });
    await rename(join(folder, renderName(format)), out);
  } finally {
    if (existsSync(folder)) await rm(folder, { recursive: true, force: true });
    releaseScratch(folder);
  }
}
