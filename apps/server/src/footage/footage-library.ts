import { randomUUID } from 'node:crypto';
import { constants } from 'node:fs';
import { copyFile, mkdir, rename, rm } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { ConflictException, Injectable } from '@nestjs/common';
import { type Footage, type FootageFacts, readHealth } from '@idle-bend/core/api';
import { replaceSource } from '@idle-bend/core/edit';
import type { BundledFootage } from '@idle-bend/core/exchange';
import { InvalidInput } from '@idle-bend/core/foundation';
import { rate, speakRate } from '@idle-bend/core/time';
import { cacheBeside } from '@idle-bend/media';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { runJob } from '../jobs/job.js';
import { Projects } from '../projects/projects.js';
import { FootageRow } from '../storage/rows.js';
import { inspectFile, originalName, shownName, type InspectedFile } from './inspect.js';
import { factsOf, FootagePaths, PIECES, PROXY, STRIP } from './footage-paths.js';
import { FootageAnalysis } from './footage-analysis.js';
import { FootageRows } from './footage-rows.js';

/** What of a piece of footage a bundle brought. */
interface Brought {
  readonly hasFile: boolean;
  readonly hasProxy: boolean;
  readonly hasSound: boolean;
  readonly hasMotion: boolean;
}

/** What is said of footage that came without its file. */
const NOT_HERE = 'Its file is missing. Locate the file to restore it.';

/** The footage of projects: files are taken in, put behind footage that is there, and renamed. */
@Injectable()
export class FootageLibrary {
  constructor(
    private readonly config: Config,
    private readonly events: Events,
    private readonly projects: Projects,
    private readonly paths: FootagePaths,
    private readonly rows: FootageRows,
    private readonly analysis: FootageAnalysis,
  ) {}

  async list(projectId: string): Promise<Footage[]> {
    const rows = await this.rows.of(projectId);
    this.analysis.wake(rows);
    return rows.map((row) => this.paths.shown(row));
  }

  /**
   * Takes a file in. `how` says whether it becomes ours (an upload) or is copied (someone else's file). Footage whose file is missing gets
   * it back when this is the one. Throws `MediaError` with one sentence, and leaves nothing behind, when it is not footage.
   */
  async take(
    projectId: string,
    file: string,
    name: string,
    how: 'move' | 'copy',
    id: string = randomUUID(),
  ): Promise<Footage> {
    await this.projects.row(projectId);
    const inspected = await inspectFile(file, name);
    const lost = await this.findMissingMatch(projectId, inspected);
    if (lost)
      return this.rows.inItsTurn(lost.id, async () =>
        this.replaceFile(await this.rows.row(lost.id), file, inspected, how),
      );
    const folder = this.paths.folder(id);
    await mkdir(folder, { recursive: true });
    try {
      const fileName = originalName(inspected.name);
      await bring(file, join(folder, fileName), how);
      const row = await FootageRow.create({
        id,
        projectId,
        name: inspected.name,
        fileName,
        ...(await this.rows.unprepared(projectId, inspected)),
      });
      await this.rows.describe(row);
      this.events.tell(projectId, { kind: 'footage' });
      this.analysis.begin(row);
      return this.paths.shown(row);
    } catch (error) {
      await rm(folder, { recursive: true, force: true });
      throw error;
    }
  }

  /** Footage of a project whose file is missing and was this one: the same content or, where that is not known, the same name and length. */
  async findMissingMatch(projectId: string, inspected: InspectedFile): Promise<FootageRow | undefined> {
    return this.matchAmong(await this.missing(projectId), inspected);
  }

  /** Footage of a project whose file is missing. */
  async missing(projectId: string): Promise<FootageRow[]> {
    return (await this.rows.of(projectId)).filter((row) => this.paths.stateOf(row) === 'missing');
  }

  /** That of some footage whose file this was. */
  matchAmong(rows: readonly FootageRow[], { name, facts, fingerprint }: InspectedFile): FootageRow | undefined {
    const sameLength = (row: FootageRow) => {
      const [a, b] = [factsOf(row), facts];
      return a.picture?.frames === b.picture?.frames && a.durationSeconds === b.durationSeconds;
    };
    return (
      rows.find((row) => fingerprint !== null && row.fingerprint === fingerprint) ??
      rows.find((row) => row.fingerprint === null && row.name === name && sameLength(row))
    );
  }

  /** Footage that came in a bundle, its files already in their place; one without its file waits for it, and is shown by its proxy where that came. */
  async adopt(
    projectId: string,
    bundled: BundledFootage,
    { hasFile, hasProxy, hasSound, hasMotion }: Brought,
  ): Promise<void> {
    const { id, name, fileName, facts, fingerprint } = bundled;
    const health = bundled.health === null ? null : JSON.stringify(readHealth(bundled.health, `health of "${name}"`));
    const own = { id, projectId, name: shownName(name), fileName };
    const inspected = hasFile ? await inspectFile(this.paths.at(id, fileName), name) : undefined;
    const isShown = hasProxy && health !== null && (await this.isProxyOf(id, facts));
    const isThere = facts.picture ? isShown : hasSound;
    const absent = {
      ...(isThere ? { status: 'ready', problem: null, health } : { status: 'failed', problem: NOT_HERE, health: null }),
      motion: isShown && hasMotion ? 'ready' : 'waiting',
      sound: !facts.sound ? 'none' : hasSound ? 'ready' : isThere ? 'failed' : 'waiting',
      facts: JSON.stringify(facts),
      fingerprint,
    };
    const analysed = hasMotion && health !== null ? { health, motion: 'ready' } : {};
    const row = await FootageRow.create({
      ...own,
      ...(inspected ? { ...(await this.rows.unprepared(projectId, inspected)), ...analysed } : absent),
    });
    await this.rows.describe(row);
    this.events.tell(projectId, { kind: 'footage' });
    if (hasFile || isThere) this.analysis.begin(row);
  }

  /** Whether the proxy in a footage's folder has its frames, and their size. One that has not goes, and is made when the file comes. */
  private async isProxyOf(id: string, { picture }: FootageFacts): Promise<boolean> {
    const file = this.paths.at(id, PROXY);
    const [found] = await runJob('facts', { files: [{ file, name: PROXY }] }).result.catch(() => []);
    const shown = found && 'picture' in found && found.codec === 'h264' ? found.picture : null;
    const { width, height } = picture?.proxy ?? {};
    const isSame = shown?.frames === picture?.frames && shown?.width === width && shown?.height === height;
    if (!isSame) for (const name of [PROXY, STRIP]) await rm(this.paths.at(id, name), { force: true });
    return isSame && picture !== null;
  }

  rename(id: string, name: string): Promise<Footage> {
    return this.rows.inItsTurn(id, () => this.renameNow(id, name));
  }

  private async renameNow(id: string, name: string): Promise<Footage> {
    const row = await this.rows.row(id);
    await row.update({ name: shownName(name) });
    await this.rows.describe(row);
    this.events.tell(row.projectId, { kind: 'footage' });
    return this.paths.shown(row);
  }

  /**
   * Puts another file behind a piece of footage: clips and moments stay. Throws `MediaError` or `InvalidInput`, and leaves all as it
   * was, when it is not footage or lacks what the project needs of it.
   */
  async replace(id: string, file: string, name: string): Promise<Footage> {
    await this.rows.row(id);
    const inspected = await inspectFile(file, name);
    return this.rows.inItsTurn(id, async () => this.replaceFile(await this.rows.row(id), file, inspected, 'move'));
  }

  private replaceFile(row: FootageRow, file: string, inspected: InspectedFile, how: 'move' | 'copy'): Promise<Footage> {
    return this.putBehind(row, inspected, async (own) => {
      await bring(file, own, how);
      return null;
    });
  }

  /**
   * Puts a file behind footage, whose name stays: `put` puts it in its place and answers where it lies, if that is elsewhere. Throws as
   * `replace` does. In the footage's turn only.
   */
  async putBehind(
    row: FootageRow,
    inspected: InspectedFile,
    put: (own: string) => Promise<string | null>,
  ): Promise<Footage> {
    const { id } = row;
    const { name, facts, fingerprint } = inspected;
    const old = factsOf(row).picture;
    if (Boolean(old) !== Boolean(facts.picture))
      throw new InvalidInput(
        'file',
        `${name} has ${old ? 'no picture' : 'a picture'}, unlike ${row.name}, so it cannot stand in for it`,
      );
    const project = await this.projects.open(row.projectId);
    // The very file that was here before changes nothing.
    const other = facts.picture && fingerprint !== row.fingerprint ? facts.picture : undefined;
    const document = other ? replaceSource(project.document, id, other.frames, other.rate) : project.document;
    // First, because another window's change refuses it; nothing of the footage is touched then.
    if (document !== project.document) await this.projects.keep(row.projectId, project.version, document, 'server');
    await this.analysis.stop(id);
    const fileName = originalName(name, `-${randomUUID().slice(0, 8)}`);
    const before = this.paths.own(row);
    let reference: string | null;
    try {
      await mkdir(this.paths.folder(id), { recursive: true });
      reference = await put(this.paths.at(id, fileName));
    } catch (error) {
      this.analysis.begin(await row.reload());
      throw error;
    }
    await row.update({ fileName, reference, ...(await this.rows.unprepared(row.projectId, inspected)) });
    await this.rows.describe(row);
    await rm(before, { force: true });
    await rm(cacheBeside(before), { force: true });
    for (const made of [PROXY, PIECES]) await rm(this.paths.at(id, made), { recursive: true, force: true });
    this.events.tell(row.projectId, { kind: 'footage' });
    this.analysis.begin(row);
    return this.paths.shown(row);
  }

  /** Makes new footage of an interlaced one's fields, at twice its rate, in the background; a failure is told as a failed import. */
  async takeFields(id: string): Promise<void> {
    const row = await this.rows.row(id);
    const picture = factsOf(row).picture;
    if (!picture?.interlaced)
      throw new ConflictException(`"${row.name}" is not interlaced, so it has no fields to make frames of.`);
    const stem = basename(row.name, extname(row.name));
    const name = `${stem} ${speakRate(rate(picture.rate.num * 2, picture.rate.den))}p.mkv`;
    this.analysis.inTurn(row.projectId, async () => {
      const file = join(this.config.uploadFolder, `fields-${randomUUID()}.mkv`);
      try {
        await runJob('fields', { original: this.paths.original(row), name: row.name, file }).result;
        await this.take(row.projectId, file, name, 'move');
      } catch (error) {
        this.events.tell(row.projectId, { kind: 'import-failed', name, message: (error as Error).message });
      }
      await rm(file, { force: true });
    });
  }
}

/** Puts a file where it belongs: its own, or a copy. */
async function bring(file: string, target: string, how: 'move' | 'copy'): Promise<void> {
  if (how === 'move') await rename(file, target);
  else await copyFile(file, target, constants.COPYFILE_FICLONE);
}
