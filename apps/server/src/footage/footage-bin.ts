import { rm } from 'node:fs/promises';
import { parseProject } from '@idle-bend/core/model';
import { allClips } from '@idle-bend/core/reel';
import { ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import { Op } from 'sequelize';
import { Events } from '../events/events.js';
import { Projects } from '../projects/projects.js';
import { FootageRow } from '../storage/rows.js';
import { FootageAnalysis } from './footage-analysis.js';
import { FootagePaths, PIECES, PROXY } from './footage-paths.js';
import { FootageRows } from './footage-rows.js';

/** Footage that is put into the bin, by itself or with its project, taken back, and deleted. */
@Injectable()
export class FootageBin {
  constructor(
    private readonly events: Events,
    private readonly projects: Projects,
    private readonly paths: FootagePaths,
    private readonly rows: FootageRows,
    private readonly analysis: FootageAnalysis,
  ) {}

  /** Takes footage out of its project; what can be made again goes at once. Refused while the reel uses it, saying where. */
  put(id: string): Promise<void> {
    return this.rows.inItsTurn(id, async () => {
      const row = await this.rows.row(id);
      await this.checkUnused(row);
      await row.update({ binnedAt: new Date() });
      await this.free(row);
      this.events.tell(row.projectId, { kind: 'footage' });
    });
  }

  private async checkUnused({ id, name, projectId }: FootageRow): Promise<void> {
    const project = parseProject(JSON.parse((await this.projects.row(projectId)).document));
    const sound = project.reel.sounds.find(({ footageId }) => footageId === id);
    if (sound)
      throw new ConflictException(`"${name}" is heard on the reel as "${sound.name}"; take that off the reel first.`);
    const user = allClips(project).find((clip) => clip.sourceId === id);
    if (user)
      throw new ConflictException(`"${name}" is used by the clip "${user.name}"; take that off the reel first.`);
  }

  /** Puts footage back into its project; its proxy is made again. */
  restore(id: string): Promise<void> {
    return this.rows.inItsTurn(id, async () => {
      const row = await this.binned(id);
      await row.update({ binnedAt: null });
      await this.goOn(row);
      this.events.tell(row.projectId, { kind: 'footage' });
    });
  }

  /** Footage that was put here by itself; not that of projects which are here. */
  async list(): Promise<FootageRow[]> {
    const rows = await FootageRow.unscoped().findAll({
      where: { binnedAt: { [Op.ne]: null } },
      order: [['binnedAt', 'DESC']],
    });
    const gone = new Set((await this.projects.binned()).map(({ id }) => id));
    return rows.filter(({ projectId }) => !gone.has(projectId));
  }

  /** Deletes footage of the bin with all that was made of it. A file that lies elsewhere stays. */
  async remove(id: string): Promise<void> {
    await this.binned(id);
    await this.delete(id);
  }

  /** Deletes footage, wherever it is. */
  delete(id: string): Promise<void> {
    return this.rows.inItsTurn(id, async () => {
      await this.analysis.stop(id);
      await rm(this.paths.folder(id), { recursive: true, force: true });
      await FootageRow.unscoped().destroy({ where: { id } });
    });
  }

  /** Ends what is done with footage, and deletes what of it can be made again; in the bin or not. */
  freeInTurn(id: string): Promise<void> {
    return this.rows.inItsTurn(id, async () => {
      const row = await FootageRow.unscoped().findByPk(id);
      if (row) await this.free(row);
    });
  }

  private async free(row: FootageRow): Promise<void> {
    await this.analysis.stop(row.id);
    const now = await FootageRow.unscoped().findByPk(row.id);
    if (now?.status !== 'ready' || now.health === null) return;
    // Of a file that is not there it could not be made again.
    if (this.paths.stateOf(now) !== 'here') return;
    await now.update({ status: 'preparing' });
    await rm(this.paths.at(row.id, PROXY), { force: true });
    await rm(this.paths.at(row.id, PIECES), { recursive: true, force: true });
  }

  /** Goes on with what was stopped when footage, or its project, went. */
  async goOn(row: FootageRow): Promise<void> {
    const isStopped = row.status === 'failed' && this.paths.stateOf(row) === 'here';
    await row.update({
      ...(isStopped && { status: 'preparing', problem: null }),
      ...(row.motion === 'failed' && { motion: 'waiting' }),
      ...(row.sound === 'failed' && { sound: 'waiting' }),
    });
    this.analysis.begin(row);
  }

  private async binned(id: string): Promise<FootageRow> {
    const row = await FootageRow.unscoped().findByPk(id);
    if (!row?.binnedAt) throw new NotFoundException('There is no such footage in the bin.');
    return row;
  }
}
