import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { mkdir, rm, stat } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { Injectable } from '@nestjs/common';
import {
  BUNDLE_FORMAT,
  BUNDLE_VERSION,
  BUNDLED_PROXY,
  BUNDLED_SOUND,
  withFootageIds,
  type BundledFootage,
  type BundledMedia,
} from '@idle-bend/core/exchange';
import { parseProject } from '@idle-bend/core/model';
import { readShape } from '@idle-bend/core/shape';
import { openBundle, writeBundle, type OpenedBundle } from '@idle-bend/media';
import { Config } from '../config.js';
import { FootageLibrary } from '../footage/footage-library.js';
import { FootagePaths, factsOf, healthOf, MOTION, SOUND_FILES } from '../footage/footage-paths.js';
import { FootageRows } from '../footage/footage-rows.js';
import { Projects } from '../projects/projects.js';
import { FootageRow, ShapeRow } from '../storage/rows.js';

/** Analysis that goes with a bundle, so that it is not made again. */
const ANALYSIS = [MOTION, SOUND_FILES.heard, SOUND_FILES.peaks];

/** Whole projects as files: out, and in as a new project. */
@Injectable()
export class Bundles {
  constructor(
    private readonly config: Config,
    private readonly projects: Projects,
    private readonly footage: FootageLibrary,
    private readonly paths: FootagePaths,
    private readonly rows: FootageRows,
  ) {}

  /** A project with its shapes and analysis; with its media, with proxies, or by what its files are known again alone. */
  async write(projectId: string, media: BundledMedia): Promise<{ name: string; stream: Readable }> {
    const project = await this.projects.row(projectId);
    const document = await this.rows.counted(projectId, parseProject(JSON.parse(project.document)));
    const rows = await this.rows.of(projectId);
    const footage = await Promise.all(rows.map((row) => this.describe(row)));
    const shapes = (await ShapeRow.findAll({ order: [['createdAt', 'ASC']] })).map(({ shape }) =>
      readShape(JSON.parse(shape), 'shape'),
    );
    const files = rows.map((row) => [
      ...ANALYSIS.flatMap((name) => this.there(row.id, name)),
      ...(media === 'yes' ? this.original(row) : []),
      ...(media === 'proxies' ? this.standIns(row) : []),
    ]);
    const manifest = { format: BUNDLE_FORMAT, version: BUNDLE_VERSION, name: project.name, footage } as const;
    return {
      name: project.name,
      stream: await writeBundle({ manifest, document, shapes, files }),
    };
  }

  private there(id: string, name: string): { name: string; path: string }[] {
    const path = this.paths.at(id, name);
    return existsSync(path) ? [{ name, path }] : [];
  }

  /** What is looked at and heard without the original. */
  private standIns(row: FootageRow): { name: string; path: string }[] {
    const isShown = row.status === 'ready' && factsOf(row).picture;
    const names = [...(isShown ? BUNDLED_PROXY : []), ...(row.sound === 'ready' ? [BUNDLED_SOUND] : [])];
    return names.flatMap((name) => this.there(row.id, name));
  }

  private original(row: FootageRow): { name: string; path: string }[] {
    return this.paths.stateOf(row) === 'here' ? [{ name: row.fileName, path: this.paths.original(row) }] : [];
  }

  private async describe(row: FootageRow): Promise<BundledFootage> {
    const facts = factsOf(row);
    const bytes = await stat(this.paths.mediaIfThere(row).file).then(
      ({ size }) => size,
      () => facts.bytes,
    );
    return {
      id: row.id,
      name: row.name,
      fileName: row.fileName,
      bytes,
      fingerprint: row.fingerprint,
      facts,
      health: healthOf(row),
    };
  }

  private last: Promise<unknown> = Promise.resolve();

  /**
   * Makes a project of a bundle, and tells whether it was taken in before. Throws `InvalidInput` or `MediaError`, and leaves nothing, for a
   * file that is damaged or not a bundle. Imports take turns, since two imports of one bundle would claim the same footage.
   */
  take(file: string): Promise<{ id: string; again: boolean }> {
    const turn = this.last.then(() => this.takeNow(file));
    this.last = turn.catch(() => undefined);
    return turn;
  }

  private async takeNow(file: string): Promise<{ id: string; again: boolean }> {
    const bundle = await openBundle(file, this.config.data);
    const taken: string[] = [];
    const id = randomUUID();
    try {
      const known = await FootageRow.unscoped().findAll({
        attributes: ['id'],
        where: { id: bundle.manifest.footage.map((f) => f.id) },
      });
      const idOf = new Map(known.map((row) => [row.id, randomUUID() as string]));
      const document = withFootageIds(bundle.document, idOf);
      await this.projects.create(bundle.manifest.name, document.reel.rate, document, id);
      for (const [i, footage] of bundle.manifest.footage.entries()) {
        const own = { ...footage, id: idOf.get(footage.id) ?? footage.id };
        // Only what is made here is undone: the folder of that name may be another's.
        await mkdir(this.paths.folder(own.id));
        taken.push(own.id);
        await this.takeFootage(id, bundle, i, own);
      }
      for (const shape of bundle.shapes)
        await ShapeRow.findOrCreate({
          where: { id: shape.id },
          defaults: { id: shape.id, shape: JSON.stringify(shape) },
        });
      return { id, again: known.length > 0 };
    } catch (error) {
      await FootageRow.destroy({ where: { id: taken, projectId: id } });
      for (const one of taken) await rm(this.paths.folder(one), { recursive: true, force: true });
      await this.projects.forget(id);
      throw error;
    } finally {
      bundle.close();
    }
  }

  private async takeFootage(
    projectId: string,
    bundle: OpenedBundle,
    number: number,
    footage: BundledFootage,
  ): Promise<void> {
    const files = bundle.files[number]!;
    for (const name of ANALYSIS)
      if (files.has(name)) await bundle.extract(number, name, this.paths.at(footage.id, name));
    const hasFile = files.has(footage.fileName);
    if (hasFile) await bundle.extract(number, footage.fileName, this.paths.at(footage.id, footage.fileName));
    const has = (names: readonly string[]) => !hasFile && names.every((name) => files.has(name));
    const [hasProxy, hasSound] = [has(BUNDLED_PROXY), has(Object.values(SOUND_FILES))];
    for (const name of [...(hasProxy ? BUNDLED_PROXY : []), ...(hasSound ? [BUNDLED_SOUND] : [])])
      await bundle.extract(number, name, this.paths.at(footage.id, name));
    await this.footage.adopt(projectId, footage, { hasFile, hasProxy, hasSound, hasMotion: files.has(MOTION) });
  }
}
