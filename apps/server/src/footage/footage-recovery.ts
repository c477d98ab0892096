import { readdir, readFile, rm } from 'node:fs/promises';
import { basename } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import { readFileReference } from '@idle-bend/core/api';
import { object, string } from '@idle-bend/core/foundation';
import { Config } from '../config.js';
import { MediaRoots } from '../media-roots/media-roots.js';
import { Projects } from '../projects/projects.js';
import { FootageRow } from '../storage/rows.js';
import { inspectFile } from './inspect.js';
import { ABOUT, FootagePaths } from './footage-paths.js';
import { FootageAnalysis, isResting } from './footage-analysis.js';
import { type About, FootageRows } from './footage-rows.js';

/** After a restart: footage of projects whose database was lost comes back from its folder, and what was being prepared goes on. */
@Injectable()
export class FootageRecovery implements OnApplicationBootstrap {
  private readonly logger = new Logger('footage');

  constructor(
    private readonly config: Config,
    private readonly projects: Projects,
    private readonly paths: FootagePaths,
    private readonly roots: MediaRoots,
    private readonly analysis: FootageAnalysis,
    private readonly rows: FootageRows,
  ) {}

  /** After a restart: folders nobody owns go, and what was being prepared is prepared again. */
  async onApplicationBootstrap(): Promise<void> {
    await this.projects.recovered();
    const owned = new Set((await FootageRow.unscoped().findAll({ attributes: ['id'] })).map(({ id }) => id));
    for (const folder of await readdir(this.config.mediaFolder)) {
      if (!owned.has(folder)) await this.recover(folder);
      // What was half made when the server ended.
      else
        for (const name of await readdir(this.paths.folder(folder)))
          if (/^\.|\.part$/.test(name)) await rm(this.paths.at(folder, name), { recursive: true, force: true });
    }
    const binned = new Set((await this.projects.binned()).map(({ id }) => id));
    const rows = (await FootageRow.findAll()).filter((row) => !binned.has(row.projectId) && !isResting(row));
    const unfinished = rows.filter(
      ({ status, motion, sound }) => status === 'preparing' || [motion, sound].includes('waiting'),
    );
    for (const projectId of new Set(unfinished.map((row) => row.projectId))) await this.analysis.preferUsed(projectId);
    for (const row of rows) this.analysis.begin(row);
  }

  private fileOf(id: string, { fileName, reference }: About): string {
    return reference ? this.roots.open(reference.root, reference.path).file : this.paths.at(id, basename(fileName));
  }

  /** A folder the database does not know: footage of a project whose database was lost is taken in again, anything else goes. */
  private async recover(id: string): Promise<void> {
    const text = await readFile(this.paths.at(id, ABOUT), 'utf8').catch(() => undefined);
    const about = text === undefined ? undefined : aboutIn(text);
    // It was somebody's, and whose cannot be read any more: what to do with it is for a person to say.
    if (text !== undefined && !about)
      return this.logger.warn(`${this.paths.at(id, ABOUT)} is damaged; its footage was left where it is.`);
    if (!about || !(await this.projects.has(about.projectId)))
      return rm(this.paths.folder(id), { recursive: true, force: true });
    try {
      const { reference, ...own } = about;
      const inspected = await inspectFile(this.fileOf(id, about), about.name);
      await FootageRow.create({
        ...{ id, ...own, reference: reference ? JSON.stringify(reference) : null },
        ...(await this.rows.unprepared(own.projectId, inspected)),
      });
    } catch (error) {
      // Its file stays where it is: what is missing may be ffmpeg.
      this.logger.warn(`${about.name} could not be taken back in: ${(error as Error).message}`);
    }
  }
}

/** What a folder says it is; one that is damaged says nothing. */
function aboutIn(text: string): About | undefined {
  try {
    const about = object(JSON.parse(text), 'about');
    const field = (name: 'projectId' | 'name' | 'fileName') => string(about[name], `about.${name}`);
    const reference = about['reference'] === undefined ? undefined : readFileReference(about['reference'], 'reference');
    return {
      ...{ projectId: field('projectId'), name: field('name'), fileName: field('fileName') },
      ...(reference && { reference }),
    };
  } catch {
    return undefined;
  }
}
