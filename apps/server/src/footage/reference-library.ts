import { randomUUID } from 'node:crypto';
import { mkdir, rm, symlink } from 'node:fs/promises';
import { basename } from 'node:path';
import type { FileReference, Footage } from '@idle-bend/core/api';
import { fingerprintOf } from '@idle-bend/media';
import { ConflictException, Injectable } from '@nestjs/common';
import { Events } from '../events/events.js';
import { MediaRoots } from '../media-roots/media-roots.js';
import { Projects } from '../projects/projects.js';
import { FootageRow } from '../storage/rows.js';
import { FootageAnalysis } from './footage-analysis.js';
import { FootageLibrary } from './footage-library.js';
import { factsOf, FootagePaths, referenceOf } from './footage-paths.js';
import { FootageRows } from './footage-rows.js';
import { inspectFile, inspectFiles, originalName, type InspectedFile, type RefusedFile } from './inspect.js';

/** A file as a browser knows it. */
export interface ChosenFile {
  readonly name: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  /** As `fingerprintOf` would have it. */
  readonly fingerprint: string;
}

/** What was taken of what was asked for, and why the rest was not. */
export interface Taken {
  readonly taken: readonly Footage[];
  readonly problems: readonly string[];
}

/** A file that was looked into and is to become footage of that id. */
interface LookedAt<T = InspectedFile> {
  readonly id: string;
  readonly reference: FileReference;
  readonly inspected: T;
}

/** Files that were looked into, and why others could not be. */
export interface LookedInto {
  readonly files: readonly LookedAt<InspectedFile | RefusedFile>[];
  readonly problems: readonly string[];
}

/** Footage whose files stay where they lie: taken in, found again, and taken as they are now. */
@Injectable()
export class ReferenceLibrary {
  constructor(
    private readonly events: Events,
    private readonly projects: Projects,
    private readonly roots: MediaRoots,
    private readonly paths: FootagePaths,
    private readonly rows: FootageRows,
    private readonly library: FootageLibrary,
    private readonly analysis: FootageAnalysis,
  ) {}

  /**
   * Makes footage of a file where it lies: nothing of it is copied. Footage whose file is missing gets it back when this is the one. Throws
   * `MediaError` with one sentence, and leaves nothing behind, when it is not footage.
   */
  async take(projectId: string, root: string, path: string): Promise<Footage> {
    await this.projects.row(projectId);
    const id = await this.newFolder();
    return this.orNothing(id, async () => {
      const beside = this.paths.at(id, originalName(path));
      const { inspected, reference } = await this.inspect(root, path, beside);
      return this.keep(projectId, id, inspected, reference, await this.library.missing(projectId));
    });
  }

  /** Footage of a project whose file is missing. */
  missing(projectId: string): Promise<FootageRow[]> {
    return this.library.missing(projectId);
  }

  /**
   * Looks into many files in one process: whether their pictures decode shows with their proxies. Rejects, and leaves nothing behind, where one
   * of them ends that process.
   *
   * @param fingerprint whether their fingerprints are to be known; else `tellApart` finds them out later
   */
  async lookInto(root: string, paths: readonly string[], fingerprint: boolean): Promise<LookedInto> {
    const files: { id: string; file: string; name: string; beside: string; reference: FileReference }[] = [];
    const problems: string[] = [];
    for (const path of paths) {
      try {
        const { file, stats } = this.roots.open(root, path);
        const id = await this.newFolder();
        const reference = { root, path, bytes: stats.size, modifiedMs: stats.mtimeMs };
        files.push({ id, file, name: basename(path), beside: this.paths.at(id, originalName(path)), reference });
      } catch (error) {
        problems.push((error as Error).message);
      }
    }
    const wanted = files.map(({ file, name, beside }) => ({ file, name, beside }));
    const found = await inspectFiles(wanted, fingerprint).catch(async (error: Error) => {
      for (const { id } of files) await rm(this.paths.folder(id), { recursive: true, force: true });
      throw error;
    });
    return { files: files.map(({ id, reference }, i) => ({ id, reference, inspected: found[i]! })), problems };
  }

  /** Makes footage of files that were looked into, in their order. Footage of `missing` whose file is one of them gets it back. */
  async takeMany(projectId: string, { files, problems }: LookedInto, missing: FootageRow[]): Promise<Taken> {
    const refused = [...problems];
    const good: LookedAt[] = [];
    for (const { id, reference, inspected } of files) {
      const state = this.roots.stateOf(reference);
      if ('problem' in inspected) refused.push(inspected.problem);
      else if (state !== 'here') refused.push(this.roots.refusalOf(inspected.name, state).message);
      else good.push({ id, reference, inspected });
      if (good.at(-1)?.id !== id) await rm(this.paths.folder(id), { recursive: true, force: true });
    }
    if (missing.length === 0) return { taken: await this.keepAll(projectId, good), problems: refused };
    const taken: Footage[] = [];
    for (const { id, reference, inspected } of good) {
      try {
        taken.push(await this.orNothing(id, () => this.keep(projectId, id, inspected, reference, missing)));
      } catch (error) {
        refused.push((error as Error).message);
      }
    }
    return { taken, problems: refused };
  }

  /** Makes footage of files with one change to the database: each by itself waits for the disk. */
  private async keepAll(projectId: string, files: readonly LookedAt[]): Promise<Footage[]> {
    const columns = await this.rows.allUnprepared(
      projectId,
      files.map(({ inspected }) => inspected),
    );
    const all = files.map(({ id, reference, inspected: { name } }, i) => ({
      ...{ id, projectId, name, fileName: originalName(name), reference: JSON.stringify(reference) },
      ...columns[i]!,
      createdAt: this.nextTime(),
    }));
    try {
      for (const [i, values] of all.entries()) {
        const row = FootageRow.build(values);
        await symlink(this.roots.placeOfFile(files[i]!.reference), this.paths.own(row));
        await this.rows.describe(row);
      }
      const rows = await FootageRow.bulkCreate(all);
      this.events.tell(projectId, { kind: 'footage' });
      for (const row of rows) if (row.fingerprint !== null) this.analysis.begin(row);
      return rows.map((row) => this.paths.shown(row));
    } catch (error) {
      for (const { id } of files) await rm(this.paths.folder(id), { recursive: true, force: true });
      throw error;
    }
  }

  private lastTime = 0;

  /** When something was made, if later than all before: footage is listed in the order it came. */
  private nextTime(): Date {
    this.lastTime = Math.max(this.lastTime + 1, Date.now());
    return new Date(this.lastTime);
  }

  /** Finds out the fingerprint of footage that was taken in without one. What is made of a file begins then, where that waits for it. */
  async tellApart(id: string, isWaiting: boolean): Promise<void> {
    await this.rows.inItsTurn(id, async () => {
      const row = await FootageRow.findByPk(id);
      if (!row || row.fingerprint !== null) return;
      try {
        const fingerprint = await fingerprintOf(this.paths.original(row));
        // Of a file that was changed meanwhile it says nothing of what was taken in. A copy of the project lacks it, too.
        if (this.paths.stateOf(row) === 'here')
          await FootageRow.update({ fingerprint }, { where: { reference: row.reference, fingerprint: null } });
      } catch {
        // A file that is not there is told of by those who look after it.
      }
      if (isWaiting) this.analysis.begin(await row.reload());
    });
  }

  private async newFolder(): Promise<string> {
    const id = randomUUID();
    await mkdir(this.paths.folder(id), { recursive: true });
    return id;
  }

  /** What goes wrong leaves nothing behind. */
  private async orNothing(id: string, take: () => Promise<Footage>): Promise<Footage> {
    try {
      return await take();
    } catch (error) {
      await FootageRow.destroy({ where: { id } });
      await rm(this.paths.folder(id), { recursive: true, force: true });
      throw error;
    }
  }

  /** Makes footage of what was looked into, or gives it back to that of `missing` whose file it was, which then is no longer among them. */
  private async keep(
    projectId: string,
    id: string,
    inspected: InspectedFile,
    reference: FileReference,
    missing: FootageRow[],
  ): Promise<Footage> {
    const lost = this.library.matchAmong(missing, inspected);
    if (lost) {
      missing.splice(missing.indexOf(lost), 1);
      await rm(this.paths.folder(id), { recursive: true });
      return this.rows.inItsTurn(lost.id, () => this.giveBack(lost.id, inspected, reference));
    }
    const { name } = inspected;
    const row = await FootageRow.create({
      ...{ id, projectId, name, fileName: originalName(name), reference: JSON.stringify(reference) },
      ...(await this.rows.unprepared(projectId, inspected)),
    });
    await symlink(this.roots.placeOfFile(reference), this.paths.own(row));
    await this.rows.describe(row);
    this.events.tell(projectId, { kind: 'footage' });
    if (row.fingerprint !== null) this.analysis.begin(row);
    return this.paths.shown(row);
  }

  /**
   * Makes footage of a file that a browser of this machine has chosen, where it lies in a media root: known by its name, length and time, and
   * by its content. `undefined` if no file there matches.
   */
  async takeSame(
    projectId: string,
    { name, bytes, modifiedMs, fingerprint }: ChosenFile,
  ): Promise<Footage | undefined> {
    for (const found of await this.roots.filesOfSize(new Set([bytes]))) {
      // Browsers know whole milliseconds.
      if (found.name !== name || Math.abs(found.modifiedMs - modifiedMs) > 1) continue;
      const { root, path } = found;
      const own = await this.roots.once(root, path, ({ file }) => fingerprintOf(file)).catch(() => undefined);
      if (own === fingerprint) return this.take(projectId, root, path);
    }
    return undefined;
  }

  /** Looks for the missing files of a project in the media roots, by their size and then by their content. Answers what was found. */
  async lookForMissing(projectId: string): Promise<Footage[]> {
    const missing = (await this.rows.of(projectId)).filter((row) => this.paths.stateOf(row) === 'missing');
    if (missing.length === 0) return [];
    const sizes = new Set(missing.map((row) => factsOf(row).bytes));
    const found: Footage[] = [];
    for (const { root, path } of await this.roots.filesOfSize(sizes)) {
      const fingerprint = await this.roots.once(root, path, ({ file }) => fingerprintOf(file));
      const lost = missing.find((row) => row.fingerprint === fingerprint);
      if (!lost) continue;
      missing.splice(missing.indexOf(lost), 1);
      const { inspected, reference } = await this.inspect(root, path);
      found.push(await this.rows.inItsTurn(lost.id, () => this.giveBack(lost.id, inspected, reference)));
    }
    return found;
  }

  /**
   * Takes a file that was changed where it lies as it is now. What was made of it is made again, unless the editor says that it is the same
   * (`isSame`), which its first, middle and last mebibyte have to bear out.
   */
  takeChanged(id: string, isSame: boolean): Promise<Footage> {
    return this.rows.inItsTurn(id, async () => {
      const row = await this.rows.row(id);
      const before = referenceOf(row);
      if (!before || this.paths.stateOf(row) !== 'changed')
        throw new ConflictException(`The file of "${row.name}" is as it was taken in.`);
      const { inspected, reference } = await this.inspect(before.root, before.path);
      if (!isSame) return this.pointTo(row, inspected, reference);
      if (inspected.fingerprint !== row.fingerprint)
        throw new ConflictException(`The file of "${row.name}" has other content than it had.`);
      return this.moveTo(row, reference);
    });
  }

  /** A file of a media root, looked into, and what it was then. */
  private async inspect(
    root: string,
    path: string,
    beside?: string,
  ): Promise<{ inspected: InspectedFile; reference: FileReference }> {
    const { file, stats } = this.roots.open(root, path);
    const inspected = await inspectFile(file, basename(path), beside);
    const reference = { root, path, bytes: stats.size, modifiedMs: stats.mtimeMs };
    const state = this.roots.stateOf(reference);
    if (state !== 'here') throw this.roots.refusalOf(inspected.name, state);
    return { inspected, reference };
  }

  /** Footage whose file was missing has it again: what was made of the same file stays. In its turn only. */
  private async giveBack(id: string, inspected: InspectedFile, reference: FileReference): Promise<Footage> {
    const row = await this.rows.row(id);
    const isSame = row.reference !== null && row.fingerprint === inspected.fingerprint && row.status === 'ready';
    return isSame ? this.moveTo(row, reference) : this.pointTo(row, inspected, reference);
  }

  /** The same file in another place, or with another time. */
  private async moveTo(row: FootageRow, reference: FileReference): Promise<Footage> {
    const own = this.paths.own(row);
    await rm(own, { force: true });
    await symlink(this.roots.placeOfFile(reference), own);
    await row.update({ reference: JSON.stringify(reference) });
    await this.rows.describe(row);
    this.events.tell(row.projectId, { kind: 'footage' });
    this.analysis.begin(row);
    return this.paths.shown(row);
  }

  /** A file where it lies behind footage that was another's, or this one's as it was before. Throws as `FootageLibrary.replace` does. */
  private pointTo(row: FootageRow, inspected: InspectedFile, reference: FileReference): Promise<Footage> {
    return this.library.putBehind(row, inspected, async (own) => {
      await symlink(this.roots.placeOfFile(reference), own);
      return JSON.stringify(reference);
    });
  }
}
