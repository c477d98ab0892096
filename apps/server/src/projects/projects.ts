import { randomUUID } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { ConflictException, Injectable, NotFoundException, type OnApplicationBootstrap } from '@nestjs/common';
import { readFacts, type Backup, type OpenedProject, type ProjectSummary } from '@idle-bend/core/api';
import { emptyProject, parseProject, type Project } from '@idle-bend/core/model';
import type { Rate } from '@idle-bend/core/time';
import { Op } from 'sequelize';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { FootageRow, ProjectRow } from '../storage/rows.js';
import { Backups } from './backups.js';

@Injectable()
export class Projects implements OnApplicationBootstrap {
  private recovering: Promise<void> | undefined;
  private readonly listeners: ((id: string, project: Project) => void)[] = [];

  constructor(
    private readonly config: Config,
    private readonly events: Events,
    private readonly backups: Backups,
  ) {}

  onApplicationBootstrap(): Promise<void> {
    return this.recovered();
  }

  /** Where the database was lost, projects come back from the saved states; once. */
  recovered(): Promise<void> {
    return (this.recovering ??= this.recover());
  }

  private async recover(): Promise<void> {
    const known = new Set((await ProjectRow.findAll({ attributes: ['id'] })).map(({ id }) => id));
    for (const { id, name, version, document } of await this.backups.newest(known))
      await ProjectRow.create({ id, name, document: JSON.stringify(document), version });
  }

  async list(): Promise<ProjectSummary[]> {
    const rows = await ProjectRow.findAll({
      where: { binnedAt: null },
      order: [['updatedAt', 'DESC']],
      attributes: { exclude: ['document'] },
    });
    const ready = await FootageRow.findAll({
      // Its strip is there, though its proxy may have been dropped.
      where: { health: { [Op.ne]: null } },
      order: [['createdAt', 'DESC']],
    });
    const covers = new Map(
      ready.filter((row) => readFacts(JSON.parse(row.facts), 'facts').picture).map((row) => [row.projectId, row.id]),
    );
    return rows.map((row) => summary(row, covers.get(row.id)));
  }

  async create(
    name: string,
    rate: Rate,
    document = emptyProject(rate),
    id: string = randomUUID(),
  ): Promise<OpenedProject> {
    const row = await ProjectRow.create({ id, name, document: JSON.stringify(document), version: 1 });
    await this.backups.keep(id, row);
    return { ...summary(row), watchedFolder: await this.watchedFolder(id), document };
  }

  async open(id: string): Promise<OpenedProject> {
    const row = await this.row(id);
    return {
      ...summary(row),
      watchedFolder: await this.watchedFolder(id),
      document: parseProject(JSON.parse(row.document)),
    };
  }

  /**
   * Keeps a document, provided the version it was edited from is still the newest, or the newest is the same: two windows may find out the
   * same thing at once. Otherwise nothing is written and 409 says which version is. `by` names the editing window, so that it does not
   * answer to its own change.
   */
  async keep(id: string, version: number, document: unknown, by: string): Promise<number> {
    const project = parseProject(document);
    const text = JSON.stringify(project);
    const before = this.backups.isDue(id) ? await this.row(id) : undefined;
    const [changed] = await ProjectRow.update({ document: text, version: version + 1 }, { where: { id, version } });
    if (changed === 0) {
      const row = await this.row(id);
      if (row.document === text) return row.version;
      throw new ConflictException({
        message: 'This project was changed in another window since this one read it.',
        version: row.version,
      });
    }
    if (before?.version === version) await this.backups.keep(id, before);
    this.events.tell(id, { kind: 'document', version: version + 1, by });
    for (const listener of this.listeners) listener(id, project);
    return version + 1;
  }

  /** Calls back whenever a document was kept. */
  onKept(listener: (id: string, project: Project) => void): void {
    this.listeners.push(listener);
  }

  /** Those in the bin, the last one first. */
  binned(): Promise<ProjectRow[]> {
    return ProjectRow.findAll({
      where: { binnedAt: { [Op.ne]: null } },
      order: [['binnedAt', 'DESC']],
      attributes: { exclude: ['document'] },
    });
  }

  /** Deletes a project, its earlier states first: they would bring it back. */
  async forget(id: string): Promise<void> {
    await this.backups.forget(id);
    await rm(join(this.config.watchedFolder, id), { recursive: true, force: true });
    await ProjectRow.destroy({ where: { id } });
  }

  listBackups(id: string): Promise<Backup[]> {
    return this.backups.list(id);
  }

  /** Goes back to an earlier state; what was there is saved first, so that there is a way forward again. */
  async goBack(id: string, version: number): Promise<number> {
    const document = await this.backups.document(id, version);
    const row = await this.row(id);
    await this.backups.keep(id, row);
    return this.keep(id, row.version, document, 'server');
  }

  async rename(id: string, name: string): Promise<void> {
    await (await this.row(id)).update({ name });
  }

  /** The folder whose files are imported into a project; made when it is asked for. */
  async watchedFolder(id: string): Promise<string> {
    const folder = join(this.config.watchedFolder, id);
    await mkdir(folder, { recursive: true });
    return folder;
  }

  /** Whether there is one, in the bin too. */
  async has(id: string): Promise<boolean> {
    return (await ProjectRow.count({ where: { id } })) > 0;
  }

  async row(id: string): Promise<ProjectRow> {
    const row = await ProjectRow.findByPk(id);
    if (!row) throw new NotFoundException('There is no such project.');
    if (row.binnedAt) throw new NotFoundException(`"${row.name}" is in the bin.`);
    return row;
  }
}

function summary(row: ProjectRow, coverId?: string): ProjectSummary {
  return {
    id: row.id,
    name: row.name,
    version: row.version,
    updatedAt: (row.updatedAt as Date).toISOString(),
    coverId: coverId ?? null,
  };
}
