import { randomUUID } from 'node:crypto';
import { constants } from 'node:fs';
import { cp, rm } from 'node:fs/promises';
import {
  Injectable,
  Logger,
  NotFoundException,
  type OnApplicationBootstrap,
  type OnApplicationShutdown,
} from '@nestjs/common';
import type { Binned, OpenedProject, ProjectSizes } from '@idle-bend/core/api';
import { withFootageIds } from '@idle-bend/core/exchange';
import { parseProject } from '@idle-bend/core/model';
import { bytesIn } from '../disk/bytes-in.js';
import { FootageBin } from '../footage/footage-bin.js';
import { FootageAnalysis } from '../footage/footage-analysis.js';
import { FootagePaths } from '../footage/footage-paths.js';
import { FootageRows } from '../footage/footage-rows.js';
import { Projects } from '../projects/projects.js';
import { RenderQueue } from '../renders/render-queue.js';
import { Renders } from '../renders/renders.js';
import { ACTIVE } from '../renders/render-rows.js';
import { FootageRow, ProjectRow, RenderRow, WatchedRow } from '../storage/rows.js';

/** How long a project stays in the bin. */
const BIN_MS = 24 * 3600_000;

/** How often it is looked what has been there for so long. */
const LOOK_MS = 10 * 60_000;

const isOver = (binnedAt: Date | null): boolean => binnedAt!.getTime() + BIN_MS <= Date.now();

/** Projects that are duplicated, or put into the bin: they come back within a day, and go for good after it, as footage does. */
@Injectable()
export class Bin implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly logger = new Logger('bin');
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly projects: Projects,
    private readonly paths: FootagePaths,
    private readonly rows: FootageRows,
    private readonly analysis: FootageAnalysis,
    private readonly footage: FootageBin,
    private readonly renders: Renders,
    private readonly queue: RenderQueue,
  ) {}

  /** Deleting may take long, and nobody waits for it. */
  onApplicationBootstrap(): void {
    this.timer = setInterval(() => void this.sweep(), LOOK_MS).unref();
    void this.sweep();
  }

  onApplicationShutdown(): void {
    clearInterval(this.timer);
  }

  async list(): Promise<Binned[]> {
    const goesAt = (binnedAt: Date | null) => new Date(binnedAt!.getTime() + BIN_MS).toISOString();
    const projects = (await this.projects.binned()).map(async ({ id, name, binnedAt }) => ({
      ...{ id, kind: 'project' as const, name, of: null, goesAt: goesAt(binnedAt), bytes: await this.bytes(id) },
    }));
    const footage = (await this.footage.list()).map(async ({ id, name, projectId, binnedAt }) => ({
      ...{ id, kind: 'footage' as const, name, of: (await this.projects.row(projectId)).name },
      ...{ goesAt: goesAt(binnedAt), bytes: await bytesIn(this.paths.folder(id)) },
    }));
    return Promise.all([...projects, ...footage]);
  }

  /** What every project of the list takes on disk, by its id. */
  async sizes(): Promise<ProjectSizes> {
    const rows = await ProjectRow.findAll({ where: { binnedAt: null }, attributes: ['id'] });
    return Object.fromEntries(await Promise.all(rows.map(async ({ id }) => [id, await this.bytes(id)] as const)));
  }

  /** Takes a project off the list. What is under way for it ends, and what can be made again goes at once. */
  async put(id: string): Promise<void> {
    const row = await this.projects.row(id);
    await row.update({ binnedAt: new Date() });
    for (const render of await RenderRow.findAll({ where: { projectId: id, status: [...ACTIVE] } }))
      await this.renders.cancel(render.id);
    for (const footage of await this.rows.of(id)) await this.footage.freeInTurn(footage.id);
  }

  /** Puts a project back on the list; its proxies are made again. */
  async restore(id: string): Promise<void> {
    await (await this.binnedRow(id)).update({ binnedAt: null });
    for (const footage of await this.rows.of(id)) await this.footage.goOn(footage);
  }

  /** Deletes a project of the bin with all that is its own. */
  async remove(id: string): Promise<void> {
    await this.binnedRow(id);
    for (const render of await RenderRow.findAll({ where: { projectId: id } })) await this.renders.remove(render.id);
    for (const { id: footageId } of await this.rows.allOf(id)) await this.footage.delete(footageId);
    await WatchedRow.destroy({ where: { projectId: id } });
    // Last: where this is cut short the project is still in the bin, and is deleted when its day is over.
    await this.projects.forget(id);
  }

  /** Deletes what has been here for a day. */
  private async sweep(): Promise<void> {
    try {
      for (const { id, binnedAt } of await this.projects.binned()) if (isOver(binnedAt)) await this.remove(id);
      for (const { id, binnedAt } of await this.footage.list()) if (isOver(binnedAt)) await this.footage.remove(id);
    } catch (error) {
      this.logger.warn(`The bin could not be emptied: ${(error as Error).message}`);
    }
  }

  /**
   * Makes another project of one, with copies of its footage (which share their blocks where the disk can do that) and of what is known of it.
   * Renders and earlier states stay with the first. Leaves nothing behind where there is no room.
   */
  async duplicate(id: string, name: string): Promise<OpenedProject> {
    const project = await this.projects.row(id);
    const footage = await this.rows.of(id);
    const idOf = new Map(footage.map((row) => [row.id, randomUUID() as string]));
    const document = withFootageIds(parseProject(JSON.parse(project.document)), idOf);
    const copy = await this.projects.create(name, document.reel.rate, document);
    await ProjectRow.update({ proxyLines: project.proxyLines }, { where: { id: copy.id } });
    try {
      for (const row of footage) {
        const own = idOf.get(row.id)!;
        await this.rows.inItsTurn(row.id, () =>
          cp(this.paths.folder(row.id), this.paths.folder(own), {
            recursive: true,
            mode: constants.COPYFILE_FICLONE,
          }),
        );
        const now = await this.rows.row(row.id);
        const made = await FootageRow.create({
          ...{ id: own, projectId: copy.id, name: now.name, fileName: now.fileName, facts: now.facts },
          ...{ status: now.status, problem: now.problem, health: now.health, fingerprint: now.fingerprint },
          ...{ motion: now.motion, sound: now.sound, reference: now.reference },
        });
        await this.rows.describe(made);
        this.analysis.begin(made);
      }
      return copy;
    } catch (error) {
      for (const own of idOf.values()) {
        await FootageRow.destroy({ where: { id: own } });
        await rm(this.paths.folder(own), { recursive: true, force: true });
      }
      await this.projects.forget(copy.id);
      throw error;
    }
  }

  private async binnedRow(id: string): Promise<ProjectRow> {
    const row = await ProjectRow.findByPk(id);
    if (!row?.binnedAt) throw new NotFoundException('There is no such project in the bin.');
    return row;
  }

  /** What a project takes on disk: footage and renders. */
  private async bytes(id: string): Promise<number> {
    const renders = await RenderRow.findAll({ where: { projectId: id } });
    const folders = [
      ...(await this.rows.allOf(id)).map((row) => this.paths.folder(row.id)),
      ...renders.map((row) => this.queue.folder(row.id)),
    ];
    const sums = await Promise.all(folders.map(bytesIn));
    return sums.reduce((sum, bytes) => sum + bytes, 0);
  }
}
