import { existsSync } from 'node:fs';
import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { Loudness } from '@idle-bend/core/api';
import type { Project } from '@idle-bend/core/model';
import { chaptersOf, RENDER_FORMATS, renderDepth, startTimecode, type RenderSettings } from '@idle-bend/core/render';
import {
  chunkName,
  renderName,
  type ChunkOrder,
  type JoinOrder,
  chunkIdentities,
  type ChunkIdentities,
} from '@idle-bend/media';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { Foreground } from '../footage/foreground.js';
import { FootageMedia, type RenderMedia } from '../footage/footage-media.js';
import { runJob, type RunningJob } from '../jobs/job.js';
import { FileNotHere } from '../media-roots/media-roots.js';
import { ChunkRow, RenderRow } from '../storage/rows.js';
import { LocalProcesses, type ChunkMaker, type MakingChunk } from './makers.js';
import { change, chunksOfRender, inTurn, projectOf, settingsOf, stretchOf } from './render-rows.js';

export interface RenderProgress {
  readonly done: number;
  readonly secondsLeft: number | null;
}

/** Why a render does not go on. */
export interface Trouble {
  /** It waits for whoever can bring a file back; else it failed. */
  readonly status: 'paused' | 'failed';
  readonly problem: string;
}

/** When what could not be written down is tried again. */
const AGAIN_MS = 1000;

/** What is under way of a render. */
interface Running {
  readonly making: Map<number, { readonly chunk: MakingChunk; done: number }>;
  joining: RunningJob<Loudness | undefined> | undefined;
  /** Frames that were finished when this server took the render up, and when that was. */
  readonly finishedBefore: number;
  readonly since: number;
  finished: number;
  /** It is to end; what comes of it is not a failure. */
  stopped: boolean;
  /** Tells its chunks apart. */
  readonly identityOf: ChunkIdentities;
}

/**
 * Makes renders chunk by chunk, as many at once as the maker has room for, in the order of the queue; puts a render's chunks together when
 * all are there. What is finished is on disk and in the database, so a restart goes on from there.
 */
@Injectable()
export class RenderQueue implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly logger = new Logger('renders');
  private readonly running = new Map<string, Running>();
  private readonly troubles = new Map<string, Trouble>();
  private maker!: ChunkMaker;
  private turning: Promise<void> = Promise.resolve();
  private closing = false;

  constructor(
    private readonly config: Config,
    private readonly events: Events,
    private readonly footage: FootageMedia,
    private readonly foreground: Foreground,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    const motion = { folder: this.config.motionFolder, maxBytes: this.config.motionBytes };
    this.maker = this.config.redis
      ? // What talks to the queue takes a while to load.
        new (await import('./remote-workers.js')).RemoteWorkers(this.config.redis, () => this.turn())
      : new LocalProcesses(availableParallelism(), motion);
    await this.resumeAll();
    this.turn();
  }

  async onApplicationShutdown(): Promise<void> {
    this.closing = true;
    for (const { making, joining } of this.running.values()) {
      making.forEach(({ chunk }) => chunk.cancel());
      joining?.cancel();
    }
    await this.maker.close();
  }

  /** After a restart: folders nobody owns, half-made things and chunks of a finished file go; other chunks that stand in their place are done. */
  private async resumeAll(): Promise<void> {
    const rows = await RenderRow.findAll();
    const owned = new Map(rows.map((row) => [row.id, row]));
    for (const name of await readdir(this.config.renderFolder)) {
      const row = owned.get(name);
      if (!row) await rm(join(this.config.renderFolder, name), { recursive: true, force: true });
      else if (row.status === 'done') await this.keepOnlyFile(row);
      else
        for (const inside of await readdir(this.folder(name)))
          if (inside.startsWith('.')) await rm(join(this.folder(name), inside), { recursive: true, force: true });
    }
    const chunks = await ChunkRow.findAll({ attributes: ['renderId'], group: ['renderId'] });
    await ChunkRow.destroy({
      where: { renderId: chunks.map(({ renderId }) => renderId).filter((id) => !owned.has(id)) },
    });
    for (const row of rows)
      if (row.status === 'running' || row.status === 'joining') await row.update({ status: 'queued' });
  }

  isThere(): boolean {
    return this.maker.isThere();
  }

  /** Why the workers that are there make nothing of a render, in a sentence. */
  whyLeft(id: string): string | undefined {
    const reason = this.maker.whyLeft(id);
    return reason && `A worker left its chunks to others: ${reason}.`;
  }

  progressOf({ id, frames }: RenderRow): RenderProgress | undefined {
    const run = this.running.get(id);
    return run && this.progress(run, frames);
  }

  /** Looks what can be begun now; called whenever something has changed. */
  turn(): void {
    this.turning = this.turning.then(() => this.begin()).catch((error: Error) => this.logger.error(error.stack));
  }

  /** Stops what is under way of a render; its finished chunks stay. */
  stop(id: string): void {
    const run = this.running.get(id);
    if (!run) return;
    run.stopped = true;
    run.making.forEach(({ chunk }) => chunk.cancel());
    run.joining?.cancel();
  }

  /** What is made ahead stands still while this machine renders; workers have machines of their own. */
  private tellForeground(): void {
    this.foreground.rendering(this.running.size > 0 && !this.config.redis);
  }

  private get busy(): number {
    return [...this.running.values()].reduce((sum, { making, joining }) => sum + making.size + (joining ? 1 : 0), 0);
  }

  private async begin(): Promise<void> {
    if (this.closing) return;
    for (const row of await inTurn()) {
      if (this.troubles.has(row.id)) continue;
      if (this.busy >= this.maker.slots) return;
      // What was stopped and begun again at once waits until the last of it is gone.
      if (row.status === 'queued' && this.running.has(row.id)) continue;
      try {
        await this.beginRender(row);
      } catch (error) {
        await this.fail(row, error as Error);
        // What could not even be begun has nothing under way that would clear up after it.
        const run = this.running.get(row.id);
        if (run) await this.settle(row, run);
      }
    }
  }

  private async beginRender(row: RenderRow): Promise<void> {
    const known = this.running.get(row.id);
    if (known?.joining || known?.stopped) return;
    const settings = settingsOf(row);
    const chunks = await chunksOfRender(row.id);
    await mkdir(this.folder(row.id), { recursive: true });
    const project = projectOf(row);
    const identityOf = known?.identityOf ?? chunkIdentities(project, row.document, settings.quality);
    if (!known) await this.dropOutdated(row, project, identityOf, settings, chunks);
    for (const chunk of chunks) {
      const stands = existsSync(join(this.folder(row.id), chunkName(settings.format, chunk.number)));
      if (stands !== (chunk.status === 'done')) await chunk.update({ status: stands ? 'done' : 'waiting' });
    }
    const finished = chunks.reduce((sum, c) => sum + (c.status === 'done' ? c.end - c.first : 0), 0);
    let run = this.running.get(row.id);
    if (!run) {
      if (!(await change(row.id, ['queued'], { status: 'running' }))) return;
      this.running.set(
        row.id,
        (run = {
          making: new Map(),
          joining: undefined,
          finishedBefore: finished,
          since: Date.now(),
          finished,
          stopped: false,
          identityOf,
        }),
      );
      this.tellForeground();
      this.tell(row);
    }
    if (run.joining || run.stopped) return;
    const waiting = chunks.filter((c) => c.status === 'waiting' && !run.making.has(c.number));
    for (const chunk of waiting) {
      if (this.busy >= this.maker.slots) return;
      await this.makeChunk(row, run, project, settings, chunk);
      // It was stopped while the chunk was got ready, and there may be nothing under way that would clear up.
      if (run.stopped) return this.settle(row, run);
    }
    if (waiting.length === 0 && run.making.size === 0) await this.join(row, run, project, settings, chunks.length);
  }

  /**
   * Finished chunks that would be made otherwise today are made again: of another file that was put behind footage, by another ffmpeg or
   * another version of this program. How many is said with the render.
   */
  private async dropOutdated(
    row: RenderRow,
    project: Project,
    identityOf: ChunkIdentities,
    settings: RenderSettings,
    chunks: readonly ChunkRow[],
  ): Promise<void> {
    const place = (chunk: ChunkRow) => join(this.folder(row.id), chunkName(settings.format, chunk.number));
    const standing = chunks.filter((chunk) => existsSync(place(chunk)));
    if (standing.length === 0) return;
    const media = await this.footage.renderMedia(row.projectId, project, settings.quality === 'draft');
    let count = 0;
    for (const chunk of standing) {
      if (chunk.identity === (await identityOf(orderOf(chunk, project, settings, media), media.files))) continue;
      await rm(place(chunk), { recursive: true, force: true });
      await chunk.update({ status: 'waiting', identity: null });
      count++;
    }
    if (count === 0) return;
    const parts = count === 1 ? 'One finished part was' : `${count} finished parts were`;
    await row.update({
      note: `${parts} made again, because a file, ffmpeg or this program is not what it was when the render began.`,
    });
  }

  private async makeChunk(
    row: RenderRow,
    run: Running,
    project: Project,
    settings: RenderSettings,
    chunk: ChunkRow,
  ): Promise<void> {
    const { quality } = settings;
    const media = await this.footage.renderMedia(row.projectId, project, quality === 'draft');
    const { files } = media;
    const order = orderOf(chunk, project, settings, media);
    // Before it is made: it may stand in its place and the server end before it could say so.
    await chunk.update({ identity: await run.identityOf(order, files) });
    if (run.stopped) return;
    const started = Date.now();
    const wanted = {
      renderId: row.id,
      job: { document: row.document, quality, order },
      files,
      folder: this.folder(row.id),
    };
    const making = this.maker.make(wanted, (done) => {
      const mine = run.making.get(chunk.number);
      if (mine) mine.done = done;
      this.tellProgress(row, run);
    });
    run.making.set(chunk.number, { chunk: making, done: 0 });
    this.unlessChanged(row, project, settings, making.result)
      .catch(async (error: Error) => {
        // Of a file that was rewritten meanwhile nobody knows which of the two it shows.
        await rm(join(this.folder(row.id), chunkName(settings.format, chunk.number)), { recursive: true, force: true });
        throw error;
      })
      .then(async () => {
        run.finished += chunk.end - chunk.first;
        await chunk.update({ status: 'done', seconds: (Date.now() - started) / 1000 });
      })
      .catch((error: Error) => this.fail(row, error))
      .finally(() => {
        run.making.delete(chunk.number);
        void this.settle(row, run)
          .catch((error: Error) => this.logger.warn(error.message))
          .finally(() => this.turn());
      });
  }

  /** What comes of work on a render's media. Where one of them was changed or went meanwhile, that is what is wrong, and not what a decoder makes of it. */
  private async unlessChanged<T>(
    { projectId }: RenderRow,
    project: Project,
    { quality }: RenderSettings,
    result: Promise<T>,
  ): Promise<T> {
    const [settled] = await Promise.allSettled([result]);
    await this.footage.renderMedia(projectId, project, quality === 'draft');
    if (settled.status === 'rejected') throw settled.reason;
    return settled.value;
  }

  /** Clears up once nothing of a render is under way that was stopped, failed or is done; else it goes on. */
  private async settle(row: RenderRow, run: Running): Promise<void> {
    if (run.making.size > 0 || run.joining) return;
    const known = await RenderRow.findByPk(row.id);
    if (known && !run.stopped && (known.status === 'running' || known.status === 'joining')) return;
    if (this.running.get(row.id) === run) this.running.delete(row.id);
    this.tellForeground();
    await this.cleanUp(row);
    this.tell(row);
    this.turn();
  }

  /** Of what was cancelled or removed nothing stays; of what failed or is paused, its finished chunks. */
  async cleanUp({ id }: RenderRow): Promise<void> {
    const known = await RenderRow.findByPk(id);
    if (this.running.has(id) || (known && known.status !== 'cancelled')) return;
    await rm(this.folder(id), { recursive: true, force: true });
    await ChunkRow.update({ status: 'waiting' }, { where: { renderId: id } });
  }

  private async join(
    row: RenderRow,
    run: Running,
    project: Project,
    settings: RenderSettings,
    chunks: number,
  ): Promise<void> {
    if (!(await change(row.id, ['running'], { status: 'joining' }))) return;
    const stretch = stretchOf(project);
    const starts = await this.footage.startTimecodes(row.projectId);
    const order: JoinOrder = {
      format: settings.format,
      chunks,
      stretch,
      chapters: settings.chapters ? chaptersOf(project, stretch) : [],
      timecode: startTimecode(project, stretch, settings.timecode, (id) => starts.get(id) ?? null),
    };
    const files = await this.footage.originals(row.projectId);
    if (run.stopped) return this.settle(row, run);
    const folder = this.folder(row.id);
    run.joining = runJob('assemble', { document: row.document, quality: settings.quality, join: order, files, folder });
    this.tell(row);
    // Its sound is read from the originals now.
    this.unlessChanged(row, project, settings, run.joining.result)
      .then((loudness) => this.finish(row, settings, loudness))
      .catch((error: Error) => this.fail(row, error))
      .finally(() => {
        run.joining = undefined;
        void this.settle(row, run).catch((error: Error) => this.logger.warn(error.message));
      });
  }

  private async finish(row: RenderRow, settings: RenderSettings, loudness: Loudness | undefined): Promise<void> {
    const file = renderName(settings.format);
    const { size } = await stat(join(this.folder(row.id), file));
    const isDone = await change(row.id, ['joining'], {
      status: 'done',
      problem: null,
      bytes: size,
      loudness: loudness ? JSON.stringify(loudness) : null,
    });
    // What was paused meanwhile is joined again of its chunks.
    if (isDone) await this.keepOnlyFile(row);
  }

  /** Of a finished render its file stays, and what it was joined from goes. */
  private async keepOnlyFile(row: RenderRow): Promise<void> {
    const file = renderName(settingsOf(row).format);
    for (const name of await readdir(this.folder(row.id)))
      if (name !== file) await rm(join(this.folder(row.id), name), { recursive: true, force: true });
  }

  /** What was stopped on purpose did not fail; what lacks a file that somebody can bring back is paused. */
  private async fail(row: RenderRow, error: Error): Promise<void> {
    if (this.closing || this.running.get(row.id)?.stopped) return;
    const status = error instanceof FileNotHere ? 'paused' : 'failed';
    this.troubles.set(row.id, { status, problem: error.message });
    this.stop(row.id);
    await this.noteTrouble(row.id);
    this.tell(row);
  }

  /** What went wrong with a render, while that cannot be written down: the disk may be full. */
  troubleOf(id: string): Trouble | undefined {
    return this.troubles.get(id);
  }

  /** Writes down that a render failed or had to be paused; tries again until it can. */
  async noteTrouble(id: string): Promise<void> {
    const trouble = this.troubles.get(id);
    if (!trouble || this.closing) return;
    try {
      await change(id, ['queued', 'running', 'joining'], { ...trouble });
      this.troubles.delete(id);
      this.turn();
    } catch (error) {
      this.logger.warn(`What is wrong with a render could not be written down yet: ${(error as Error).message}`);
      setTimeout(() => void this.noteTrouble(id), AGAIN_MS).unref();
    }
  }

  private progress(run: Running, frames: number): RenderProgress {
    const done = run.finished + [...run.making.values()].reduce((sum, { done }) => sum + done, 0);
    const fresh = done - run.finishedBefore;
    return { done, secondsLeft: fresh < 5 ? null : ((Date.now() - run.since) / 1000 / fresh) * (frames - done) };
  }

  private tellProgress(row: RenderRow, run: Running): void {
    this.events.tell(row.projectId, {
      kind: 'render-progress',
      renderId: row.id,
      total: row.frames,
      ...this.progress(run, row.frames),
    });
  }

  private tell(row: RenderRow): void {
    this.events.tell(row.projectId, { kind: 'renders' });
  }

  folder(id: string): string {
    return join(this.config.renderFolder, id);
  }
}

/** How a chunk is made: by the settings of its render, and as deep as its footage. */
function orderOf(chunk: ChunkRow, project: Project, settings: RenderSettings, media: RenderMedia): ChunkOrder {
  const { quality, format, level, range, depth } = settings;
  const draft = quality === 'draft';
  return {
    index: chunk.number,
    stretch: { from: chunk.first, to: chunk.end },
    first: stretchOf(project).from,
    format,
    depth: renderDepth(RENDER_FORMATS[format], draft ? 8 : depth, media.depths),
    alpha: !draft && media.alpha,
    // Proxies are in the standard range, and a draft is what the bench shows of them.
    toneMap: draft || range === 'standard',
    // What playback shows can be asked of it too; more than the bench ever shows cannot.
    level: draft && level === 'best' ? 'default' : level,
    ownSize: draft,
  };
}
