import { writeFile } from 'node:fs/promises';
import type { FileReference } from '@idle-bend/core/api';
import { renumberSource } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { Injectable, NotFoundException } from '@nestjs/common';
import { USUAL_LINES } from '@idle-bend/core/proxy';
import { FootageRow, ProjectRow } from '../storage/rows.js';
import { type InspectedFile, withProxyOf } from './inspect.js';
import { ABOUT, factsOf, FootagePaths, referenceOf, refuseEstimated } from './footage-paths.js';

/** What the folder of a piece of footage says it is, should the database be lost. */
export interface About {
  readonly projectId: string;
  readonly name: string;
  readonly fileName: string;
  /** Where it lies, when that is not here. */
  readonly reference?: FileReference;
}

/** The rows of footage, and what their folders say of them. What changes one takes turns. */
@Injectable()
export class FootageRows {
  constructor(private readonly paths: FootagePaths) {}

  /** Throws `NotFoundException`. */
  async row(id: string): Promise<FootageRow> {
    const row = await FootageRow.findByPk(id);
    if (!row) throw new NotFoundException('There is no such footage.');
    return row;
  }

  /** Of a project, the oldest first. */
  of(projectId: string): Promise<FootageRow[]> {
    return FootageRow.findAll({ where: { projectId }, order: [['createdAt', 'ASC']] });
  }

  /**
   * A project with frames as they were counted, where no window has renumbered it since. Throws `ConflictException` while those of footage
   * that `isUsed` are not counted.
   */
  async counted(projectId: string, project: Project, isUsed: (id: string) => boolean = () => true): Promise<Project> {
    const rows = (await this.of(projectId)).filter(({ id }) => isUsed(id));
    refuseEstimated(rows);
    return rows.reduce((before, row) => {
      const { picture } = factsOf(row);
      return picture?.estimate ? renumberSource(before, row.id, picture.estimate, picture) : before;
    }, project);
  }

  /** The same with what is in the bin. */
  allOf(projectId: string): Promise<FootageRow[]> {
    return FootageRow.unscoped().findAll({ where: { projectId } });
  }

  /** Columns of footage of a project of which nothing is prepared yet. A recording of sound alone has no proxy to wait for. */
  async unprepared(projectId: string, inspected: InspectedFile) {
    const [columns] = await this.allUnprepared(projectId, [inspected]);
    return columns!;
  }

  /** The same of several files. */
  async allUnprepared(projectId: string, inspected: readonly InspectedFile[]) {
    const project = await ProjectRow.findByPk(projectId, { attributes: ['proxyLines'] });
    return inspected.map(({ facts, fingerprint }) => ({
      status: facts.picture ? ('preparing' as const) : ('ready' as const),
      problem: null,
      health: null,
      motion: 'waiting' as const,
      sound: facts.sound ? ('waiting' as const) : ('none' as const),
      facts: JSON.stringify(withProxyOf(facts, project?.proxyLines ?? USUAL_LINES)),
      fingerprint,
    }));
  }

  /** Says in the footage's own folder what it is. */
  async describe(row: FootageRow): Promise<void> {
    const { id, projectId, name, fileName } = row;
    const reference = referenceOf(row);
    const about: About = { projectId, name, fileName, ...(reference && { reference }) };
    await writeFile(this.paths.at(id, ABOUT), JSON.stringify(about));
  }

  private readonly turns = new Map<string, Promise<unknown>>();

  /** What changes a piece of footage takes turns: each sees what the one before left. */
  inItsTurn<T>(id: string, act: () => Promise<T>): Promise<T> {
    const turn = (this.turns.get(id) ?? Promise.resolve()).then(act);
    const over = turn.then(
      () => undefined,
      () => undefined,
    );
    this.turns.set(id, over);
    void over.then(() => this.turns.get(id) === over && this.turns.delete(id));
    return turn;
  }
}
