import { randomUUID } from 'node:crypto';
import { rm, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import {
  ConflictException,
  HttpException,
  Injectable,
  NotFoundException,
  UnprocessableEntityException,
} from '@nestjs/common';
import { readLoudness, type Render, type RenderEstimate } from '@idle-bend/core/api';
import { footageOnReel } from '@idle-bend/core/group';
import { parseProject, type Project, type Stretch } from '@idle-bend/core/model';
import {
  atQuality,
  chunksOf,
  estimateSeconds,
  DEFAULT_SETTINGS,
  RENDER_FORMATS,
  readRenderCost,
  type RenderCost,
  renderCost,
  renderDocument,
  renderPieces,
  type RenderPart,
  type RenderPiece,
  type RenderSettings,
} from '@idle-bend/core/render';
import { frameToSeconds } from '@idle-bend/core/time';
import { renderName } from '@idle-bend/media';
import { availableParallelism } from 'node:os';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { FootageRows } from '../footage/footage-rows.js';
import { Projects } from '../projects/projects.js';
import { runJob } from '../jobs/job.js';
import { ChunkRow, RenderRow } from '../storage/rows.js';
import { RenderQueue } from './render-queue.js';
import { ACTIVE, change, projectOf, settingsOf, stretchOf } from './render-rows.js';

export interface RenderRequest extends Partial<RenderSettings> {
  readonly part?: RenderPart | undefined;
  readonly clipId?: string | undefined;
}

/** Sound, while it is made: two channels of 32-bit floats at 48 kHz, and what it becomes. */
const SOUND_BYTES_PER_SECOND = 2 * 48_000 * 8;
/** How many of the last chunks tell how fast this machine is. */
const MAX_MEASURED = 60;
/** Frames that are looked at without keeping the server from answering: about 50 ms. */
const MAX_COUNTED_HERE = 50_000;
const ESTIMATE_SECONDS = 30;

/** Renders: asking for them, their place in the queue, and what comes of them. */
@Injectable()
export class Renders {
  constructor(
    private readonly config: Config,
    private readonly events: Events,
    private readonly projects: Projects,
    private readonly queue: RenderQueue,
    private readonly footage: FootageRows,
  ) {}

  async list(projectId: string): Promise<Render[]> {
    await this.projects.row(projectId);
    const rows = await RenderRow.findAll({
      where: { projectId },
      order: [['position', 'DESC']],
      attributes: { exclude: ['document'] },
    });
    return rows.map((row) => this.shown(row));
  }

  /** Renders the project as it is kept now; later edits do not reach it. One file, or one for every clip. */
  async ask(projectId: string, request: RenderRequest): Promise<Render[]> {
    const { project, name, settings, pieces } = await this.wanted(projectId, request);
    const { maxBytes, freeBytes } = await this.needs(project, settings, pieces);
    if (freeBytes < maxBytes)
      throw new HttpException(
        {
          message: `This render may take up to ${bytes(maxBytes)} of disk while it is made, and ${bytes(freeBytes)} is free. Free some, or render a draft or a part.`,
        },
        507,
      );
    let position = ((await RenderRow.max<number, RenderRow>('position')) ?? 0) + 1;
    const rows: RenderRow[] = [];
    for (const [i, piece] of pieces.entries()) {
      const document = renderDocument(project, piece);
      const number = pieces.length > 1 ? `${String(i + 1).padStart(2, '0')} ` : '';
      const mark = piece.clipName === null ? '' : ` - ${number}${plain(piece.clipName)}`;
      const { from, to } = piece.stretch;
      const row = await RenderRow.create({
        id: randomUUID(),
        projectId,
        fileName: `${plain(name) || 'reel'}${mark}.${RENDER_FORMATS[settings.format].extension}`,
        settings: JSON.stringify(settings),
        status: 'paused',
        problem: null,
        document: JSON.stringify(document),
        position: position++,
        first: from,
        frames: to - from,
        bytes: null,
        loudness: null,
        note: null,
      });
      await ChunkRow.bulkCreate(await chunkRows(row.id, document, settings, piece.stretch));
      // Only now that its chunks are known may its turn come.
      await row.update({ status: 'queued' });
      rows.push(row);
    }
    this.events.tell(projectId, { kind: 'renders' });
    this.queue.turn();
    return rows.map((row) => this.shown(row));
  }

  async estimate(projectId: string, request: RenderRequest): Promise<RenderEstimate> {
    const { project, settings, pieces } = await this.wanted(projectId, request);
    const scaled = atQuality(project, settings.quality);
    const chunks = pieces.flatMap(({ stretch }) => chunksOf(stretch, project));
    const cost = (await costsOf(scaled, chunks, ESTIMATE_SECONDS)).reduce(added);
    const kind = kindOf(settings);
    const rows = await ChunkRow.findAll({
      where: { kind, status: 'done' },
      order: [['updatedAt', 'DESC']],
      limit: MAX_MEASURED,
    });
    const measured = rows.flatMap((row) =>
      row.seconds === null ? [] : [{ cost: readRenderCost(JSON.parse(row.cost), 'cost'), seconds: row.seconds }],
    );
    const seconds = estimateSeconds(measured, cost);
    // Each was measured beside others; so many run at once.
    const atOnce = Math.min(availableParallelism(), chunks.length);
    return {
      files: pieces.length,
      cost,
      seconds: seconds === undefined ? null : seconds / atOnce,
      ...(await this.needs(project, settings, pieces)),
    };
  }

  private async wanted(projectId: string, { part = 'reel', clipId, ...chosen }: RenderRequest) {
    const row = await this.projects.row(projectId);
    const kept = parseProject(JSON.parse(row.document));
    const used = footageOnReel(kept);
    const project = await this.footage.counted(projectId, kept, (id) => used.has(id));
    const settings: RenderSettings = { ...DEFAULT_SETTINGS, ...defined(chosen) };
    if (part === 'range' && !project.reel.range)
      throw new UnprocessableEntityException('The reel has no range; set its in and out point on the bench.');
    const pieces = renderPieces(project, part, clipId);
    const where = {
      reel: 'on the reel',
      range: 'on the reel in that range',
      clip: 'of that clip on the reel',
      clips: 'on the reel',
    }[part];
    if (pieces.length === 0) throw new UnprocessableEntityException(`There is nothing ${where} to render.`);
    return { project, name: row.name, settings, pieces };
  }

  /** At most so much disk a render takes while it is made: its chunks and what they become, side by side; and how much is free. */
  private async needs(
    project: Project,
    settings: RenderSettings,
    pieces: readonly RenderPiece[],
  ): Promise<{ maxBytes: number; freeBytes: number }> {
    const { width, height, rate } = atQuality(project, settings.quality).reel;
    const frames = pieces.reduce((sum, { stretch }) => sum + stretch.to - stretch.from, 0);
    const picture = (2 * frames * width * height * RENDER_FORMATS[settings.format].maxBits) / 8;
    const { bavail, bsize } = await statfs(this.config.renderFolder);
    return {
      maxBytes: Math.ceil(picture + frameToSeconds(frames, rate) * SOUND_BYTES_PER_SECOND),
      freeBytes: bavail * bsize,
    };
  }

  async cancel(id: string): Promise<void> {
    const row = await this.row(id);
    if (!(await change(id, [...ACTIVE, 'paused', 'failed'], { status: 'cancelled' }))) return;
    await this.stopped(row);
  }

  async pause(id: string): Promise<void> {
    const row = await this.row(id);
    if (!(await change(id, ACTIVE, { status: 'paused' })))
      throw new ConflictException('This render does not wait and is not under way.');
    await this.stopped(row);
  }

  /** Goes on with a render that rests, has failed or was cancelled, from the chunks that are finished. */
  async resume(id: string): Promise<void> {
    await this.queue.noteTrouble(id);
    const row = await this.row(id);
    // One from before renders were made in chunks has no chunks yet.
    if (row.status !== 'done' && (await ChunkRow.count({ where: { renderId: id } })) === 0) {
      const project = projectOf(row);
      const stretch = stretchOf(project);
      await row.update({ frames: stretch.to - stretch.from, first: stretch.from });
      await ChunkRow.bulkCreate(await chunkRows(id, project, settingsOf(row), stretch));
    }
    if (!(await change(id, ['paused', 'failed', 'cancelled'], { status: 'queued', problem: null })))
      throw new ConflictException('This render does not rest.');
    this.events.tell(row.projectId, { kind: 'renders' });
    this.queue.turn();
  }

  /** Moves a render in the queue, to just before another one, or to the end. What is under way is finished first. */
  async move(id: string, before: string | null): Promise<void> {
    const row = await this.row(id);
    const others = (await RenderRow.findAll({ order: [['position', 'ASC']] })).filter((r) => r.id !== id);
    const at = before === null ? others.length : others.findIndex((r) => r.id === before);
    if (at < 0) throw new NotFoundException('There is no such render to go before.');
    const [low, high] = [others[at - 1]?.position, others[at]?.position];
    await row.update({
      position: low === undefined ? (high ?? 0) - 1 : high === undefined ? low + 1 : (low + high) / 2,
    });
    this.events.tell(row.projectId, { kind: 'renders' });
    this.queue.turn();
  }

  async remove(id: string): Promise<void> {
    const row = await this.row(id);
    await row.destroy();
    await ChunkRow.destroy({ where: { renderId: id, seconds: null } });
    this.queue.stop(id);
    if (!this.queue.progressOf(row)) await rm(this.queue.folder(id), { recursive: true, force: true });
    this.events.tell(row.projectId, { kind: 'renders' });
    this.queue.turn();
  }

  async file(id: string): Promise<{ path: string; fileName: string }> {
    const row = await this.row(id);
    if (row.status !== 'done') throw new NotFoundException('This render is not finished.');
    return { path: join(this.queue.folder(id), renderName(settingsOf(row).format)), fileName: row.fileName };
  }

  private async stopped(row: RenderRow): Promise<void> {
    this.queue.stop(row.id);
    await this.queue.cleanUp(row);
    this.events.tell(row.projectId, { kind: 'renders' });
    this.queue.turn();
  }

  private shown(row: RenderRow): Render {
    const progress = this.queue.progressOf(row);
    const trouble = this.queue.troubleOf(row.id);
    const isWaiting = row.status === 'queued' || row.status === 'running';
    return {
      id: row.id,
      fileName: row.fileName,
      settings: settingsOf(row),
      stretch: { from: row.first, to: row.first + row.frames },
      status: trouble?.status ?? row.status,
      problem: trouble?.problem ?? row.problem,
      note: row.note ?? (isWaiting ? (this.queue.whyLeft(row.id) ?? null) : null),
      frames: row.frames,
      bytes: row.bytes,
      loudness: row.loudness ? readLoudness(JSON.parse(row.loudness), 'loudness') : null,
      createdAt: (row.createdAt as Date).toISOString(),
      done: row.status === 'done' ? row.frames : (progress?.done ?? 0),
      secondsLeft: progress?.secondsLeft ?? null,
      waitsForWorker: isWaiting && !this.queue.isThere(),
    };
  }

  private async row(id: string): Promise<RenderRow> {
    const row = await RenderRow.findByPk(id);
    if (!row) throw new NotFoundException('There is no such render.');
    return row;
  }
}

/** Renders whose speeds can be compared. */
const kindOf = ({ format, quality, level }: RenderSettings) => `${format} ${quality} ${level}`;

/** What stretches ask of a machine. Frames are looked at one by one, so those of a long reel are in a process of their own. */
async function costsOf(
  project: Project,
  stretches: readonly Stretch[],
  maxSeconds?: number,
): Promise<readonly RenderCost[]> {
  const frames = stretches.reduce((sum, { from, to }) => sum + to - from, 0);
  if (frames <= MAX_COUNTED_HERE) return stretches.map((stretch) => renderCost(project, stretch));
  const { result, cancel } = runJob('costs', { project, stretches });
  let isLate = false;
  const giveUp = () => {
    isLate = true;
    cancel();
  };
  const deadline = maxSeconds === undefined ? undefined : setTimeout(giveUp, maxSeconds * 1000);
  try {
    return await result;
  } catch (error) {
    if (!isLate) throw error;
    throw new UnprocessableEntityException(
      `What this render asks for could not be told within ${maxSeconds} s. It can be rendered all the same.`,
    );
  } finally {
    clearTimeout(deadline);
  }
}

async function chunkRows(
  renderId: string,
  document: Project,
  settings: RenderSettings,
  stretch: Stretch,
): Promise<Record<string, string | number | null>[]> {
  if (RENDER_FORMATS[settings.format].picture === null) return [];
  const chunks = chunksOf(stretch, document);
  const costs = await costsOf(atQuality(document, settings.quality), chunks);
  return chunks.map((chunk, number) => ({
    id: `${renderId}/${number}`,
    renderId,
    number,
    first: chunk.from,
    end: chunk.to,
    status: 'waiting',
    cost: JSON.stringify(costs[number]),
    kind: kindOf(settings),
    seconds: null,
  }));
}

const added = (a: RenderCost, b: RenderCost): RenderCost => ({
  frames: a.frames + b.frames,
  made: a.made + b.made,
  blended: a.blended + b.blended,
  pictures: a.pictures + b.pictures,
  pixels: a.pixels + b.pixels,
});

const plain = (name: string) => name.replace(/[^\p{L}\p{N} _-]/gu, '').trim();
const bytes = (count: number) => (count < 1e9 ? `${(count / 1e6).toFixed(0)} MB` : `${(count / 1e9).toFixed(1)} GB`);
/** Without the fields a request left out. */
const defined = <T extends object>(value: T): T =>
  Object.fromEntries(Object.entries(value).filter(([, v]) => v !== undefined)) as T;
