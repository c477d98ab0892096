import { randomUUID } from 'node:crypto';
import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Injectable, NotFoundException, UnprocessableEntityException, type OnApplicationBootstrap } from '@nestjs/common';
import {
  parseProject,
  reelFrames,
  setReelRange,
  type FlowLevel,
  type Loudness,
  type Project,
  type Render,
  type RenderContainer,
  type RenderPart,
  type RenderRange,
} from '@idle-bend/core';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { FootageStore } from '../footage/footage.js';
import { JobQueue, runJob, type RunningJob } from '../jobs/job.js';
import { Projects } from '../projects/projects.js';
import { RenderRow } from '../storage/rows.js';

export interface RenderWish {
  readonly container: RenderContainer;
  readonly range?: RenderRange | undefined;
  readonly level?: FlowLevel | undefined;
  readonly part?: RenderPart | undefined;
}

/** The document with the range that is to be rendered, or with none. */
function partOf(project: Project, part: RenderPart): Project {
  if (part === 'reel') return setReelRange(project, null);
  if (!project.reel.range) throw new UnprocessableEntityException('The reel has no range; set its in and out point on the bench.');
  return project;
}

function framesOf(project: Project): number {
  const { range } = project.reel;
  return range ? Math.max(0, Math.min(range.to, reelFrames(project)) - range.from) : reelFrames(project);
}

/** Renders, one at a time, in the background; a restart begins what was running again. */
@Injectable()
export class Renders implements OnApplicationBootstrap {
  private readonly queue = new JobQueue();
  private readonly running = new Map<string, RunningJob>();
  private readonly progress = new Map<string, { done: number; secondsLeft: number | null }>();

  constructor(
    private readonly config: Config,
    private readonly events: Events,
    private readonly projects: Projects,
    private readonly footage: FootageStore,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    const rows = await RenderRow.findAll({ order: [['createdAt', 'ASC']] });
    const owned = new Set(rows.map((r) => r.id));
    for (const folder of await readdir(this.config.renderFolder))
      if (!owned.has(folder)) await rm(join(this.config.renderFolder, folder), { recursive: true, force: true });
    for (const row of rows)
      if (row.status === 'queued' || row.status === 'running') {
        await rm(this.folder(row.id), { recursive: true, force: true });
        await row.update({ status: 'queued' });
        this.enqueue(row);
      }
  }

  async list(projectId: string): Promise<Render[]> {
    return (await RenderRow.findAll({ where: { projectId }, order: [['createdAt', 'DESC']] })).map((row) => this.shown(row));
  }

  /** Renders the project as it is kept now; later edits do not reach it. */
  async ask(projectId: string, { container, range = 'keep', level = 'default', part = 'reel' }: RenderWish): Promise<Render> {
    const project = await this.projects.row(projectId);
    const document = partOf(parseProject(JSON.parse(project.document)), part);
    const frames = framesOf(document);
    if (frames === 0) throw new UnprocessableEntityException(`There is nothing on the ${part === 'range' ? 'reel in that range' : 'reel'} to render.`);
    const fileName = `${project.name.replace(/[^\p{L}\p{N} _-]/gu, '').trim() || 'reel'}.${container}`;
    const row = await RenderRow.create({
      id: randomUUID(),
      projectId,
      fileName,
      container,
      range,
      level,
      status: 'queued',
      problem: null,
      document: JSON.stringify(document),
      frames,
      bytes: null,
      loudness: null,
    });
    this.events.tell(projectId, { kind: 'renders' });
    this.enqueue(row);
    return this.shown(row);
  }

  async cancel(id: string): Promise<void> {
    const row = await this.row(id);
    if (row.status !== 'queued' && row.status !== 'running') return;
    await row.update({ status: 'cancelled' });
    this.running.get(id)?.cancel();
    this.events.tell(row.projectId, { kind: 'renders' });
  }

  async remove(id: string): Promise<void> {
    await this.cancel(id);
    const row = await this.row(id);
    await row.destroy();
    await rm(this.folder(id), { recursive: true, force: true });
    this.events.tell(row.projectId, { kind: 'renders' });
  }

  async file(id: string): Promise<{ path: string; fileName: string }> {
    const row = await this.row(id);
    if (row.status !== 'done') throw new NotFoundException('This render is not finished.');
    return { path: join(this.folder(id), `reel.${row.container}`), fileName: row.fileName };
  }

  private enqueue(row: RenderRow): void {
    this.queue.add(async () => {
      await row.reload().catch(() => undefined);
      if (row.status !== 'queued') return;
      await row.update({ status: 'running' });
      this.events.tell(row.projectId, { kind: 'renders' });
      const file = join(this.folder(row.id), `reel.${row.container}`);
      await mkdir(this.folder(row.id), { recursive: true });
      const started = Date.now();
      const originals = await this.footage.originals(row.projectId);
      const motion = { folder: this.config.motionFolder, mostBytes: this.config.motionBytes };
      const job = runJob(
        { kind: 'render', document: row.document, file, originals, toneMap: row.range === 'standard', level: row.level, motion },
        (done, total) => {
          const secondsLeft = done < 5 ? null : ((Date.now() - started) / 1000 / done) * (total - done);
          this.progress.set(row.id, { done, secondsLeft });
          this.events.tell(row.projectId, { kind: 'render-progress', renderId: row.id, done, total, secondsLeft });
        },
      );
      this.running.set(row.id, job);
      try {
        const { loudness } = await job.result;
        await RenderRow.update(
          { status: 'done', bytes: (await stat(file)).size, loudness: loudness ? JSON.stringify(loudness) : null },
          { where: { id: row.id } },
        );
      } catch (error) {
        await rm(this.folder(row.id), { recursive: true, force: true });
        await RenderRow.update({ status: 'failed', problem: (error as Error).message }, { where: { id: row.id, status: 'running' } });
      }
      this.running.delete(row.id);
      this.progress.delete(row.id);
      this.events.tell(row.projectId, { kind: 'renders' });
    });
  }

  private shown(row: RenderRow): Render {
    const progress = this.progress.get(row.id);
    return {
      id: row.id,
      fileName: row.fileName,
      container: row.container as RenderContainer,
      level: row.level,
      status: row.status,
      problem: row.problem,
      frames: row.frames,
      bytes: row.bytes,
      loudness: row.loudness ? (JSON.parse(row.loudness) as Loudness) : null,
      createdAt: (row.createdAt as Date).toISOString(),
      done: row.status === 'done' ? row.frames : (progress?.done ?? 0),
      secondsLeft: progress?.secondsLeft ?? null,
    };
  }

  private async row(id: string): Promise<RenderRow> {
    const row = await RenderRow.findByPk(id);
    if (!row) throw new NotFoundException('There is no such render.');
    return row;
  }

  private folder(id: string): string {
    return join(this.config.renderFolder, id);
  }
}
