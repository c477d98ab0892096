import { randomUUID } from 'node:crypto';
import { constants, existsSync } from 'node:fs';
import { copyFile, mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import {
  ConflictException,
  Injectable,
  Logger,
  NotFoundException,
  UnprocessableEntityException,
  type OnApplicationBootstrap,
  type OnApplicationShutdown,
} from '@nestjs/common';
import type { Footage, MotionCache } from '@idle-bend/core/api';
import { replaceSource } from '@idle-bend/core/edit';
import type { BundledFootage } from '@idle-bend/core/exchange';
import { InvalidInput } from '@idle-bend/core/foundation';
import { footageOnReel } from '@idle-bend/core/group';
import { parseProject, type Patch, type Project } from '@idle-bend/core/model';
import { allClips } from '@idle-bend/core/reel';
import type { Sample } from '@idle-bend/core/sampling';
import { rate, speakRate } from '@idle-bend/core/time';
import { FlowStore, cacheBeside, type MediaFiles } from '@idle-bend/media';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { runJob } from '../jobs/job.js';
import { Stills } from '../jobs/stills.js';
import { Projects } from '../projects/projects.js';
import { FootageRow } from '../storage/rows.js';
import { inspectFile, originalName, shownName, unprepared, type InspectedFile } from './inspect.js';
import { ABOUT, factsOf, FootagePaths, MOTION, PROXY, SOUND_FILES, STRIP } from './footage-paths.js';
import { FootageAnalysis } from './footage-analysis.js';

/** What is said of footage that came without its file. */
const NOT_HERE = 'Its file is missing. Locate the file to restore it.';

/** A patch is followed through so many frames at once. */
const MAX_FOLLOWED = 3000;

/** Footage: taking files in, preparing proxies, answering for frames of the originals. */
@Injectable()
export class FootageStore implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly logger = new Logger('footage');
  private readonly stills = new Stills();
  private readonly motionStore: FlowStore;

  constructor(
    private readonly config: Config,
    private readonly events: Events,
    private readonly projects: Projects,
    private readonly places: FootagePaths,
    private readonly preparing: FootageAnalysis,
  ) {
    this.motionStore = new FlowStore(config.motionFolder, config.motionBytes);
  }

  /** After a restart: folders nobody owns go, and what was being prepared is prepared again. */
  async onApplicationBootstrap(): Promise<void> {
    await this.projects.recovered();
    const owned = new Set((await FootageRow.findAll({ attributes: ['id'] })).map(({ id }) => id));
    for (const folder of await readdir(this.config.mediaFolder)) {
      if (!owned.has(folder)) await this.recover(folder);
      // What was half made when the server ended.
      else
        for (const name of await readdir(this.places.folder(folder)))
          if (/^\.|\.part$/.test(name)) await rm(this.places.at(folder, name), { recursive: true, force: true });
    }
    for (const row of await FootageRow.findAll()) this.preparing.begin(row);
  }

  onApplicationShutdown(): void {
    this.stills.close();
  }

  private readonly turns = new Map<string, Promise<unknown>>();

  /** What changes a piece of footage takes turns: each sees what the one before left. */
  private inItsTurn<T>(id: string, act: () => Promise<T>): Promise<T> {
    const turn = (this.turns.get(id) ?? Promise.resolve()).then(act);
    const over = turn.then(
      () => undefined,
      () => undefined,
    );
    this.turns.set(id, over);
    void over.then(() => this.turns.get(id) === over && this.turns.delete(id));
    return turn;
  }

  /** A folder the database does not know: footage of a project whose database was lost is taken in again, anything else goes. */
  private async recover(id: string): Promise<void> {
    const text = await readFile(this.places.at(id, ABOUT), 'utf8').catch(() => undefined);
    const about = text === undefined ? undefined : aboutIn(text);
    // It was somebody's, and whose cannot be read any more: what to do with it is for a person to say.
    if (text !== undefined && !about)
      return this.logger.warn(`${this.places.at(id, ABOUT)} is damaged; its footage was left where it is.`);
    if (!about || !(await this.projects.has(about.projectId)))
      return rm(this.places.folder(id), { recursive: true, force: true });
    try {
      const inspected = await inspectFile(this.places.at(id, basename(about.fileName)), about.name);
      await FootageRow.create({ id, ...about, ...unprepared(inspected) });
    } catch (error) {
      // Its file stays where it is: what is missing may be ffmpeg.
      this.logger.warn(`${about.name} could not be taken back in: ${(error as Error).message}`);
    }
  }

  /** Says in the footage's own folder what it is. */
  private async describe({ id, projectId, name, fileName }: FootageRow): Promise<void> {
    const about: About = { projectId, name, fileName };
    await writeFile(this.places.at(id, ABOUT), JSON.stringify(about));
  }

  async list(projectId: string): Promise<Footage[]> {
    return (await FootageRow.findAll({ where: { projectId }, order: [['createdAt', 'ASC']] })).map((row) =>
      this.places.shown(row),
    );
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
      return this.inItsTurn(lost.id, async () => this.replaceFile(await this.row(lost.id), file, inspected, how));
    const folder = this.places.folder(id);
    await mkdir(folder, { recursive: true });
    try {
      const fileName = originalName(inspected.name);
      await bring(file, join(folder, fileName), how);
      const row = await FootageRow.create({ id, projectId, name: inspected.name, fileName, ...unprepared(inspected) });
      await this.describe(row);
      this.events.tell(projectId, { kind: 'footage' });
      this.preparing.begin(row);
      return this.places.shown(row);
    } catch (error) {
      await rm(folder, { recursive: true, force: true });
      throw error;
    }
  }

  /** Footage of a project whose file is missing and was this one: the same content or, where that is not known, the same name and length. */
  private async findMissingMatch(
    projectId: string,
    { name, facts, fingerprint }: InspectedFile,
  ): Promise<FootageRow | undefined> {
    const rows = (await FootageRow.findAll({ where: { projectId } })).filter(
      (row) => !existsSync(this.places.original(row)),
    );
    const sameLength = (row: FootageRow) => {
      const [a, b] = [factsOf(row), facts];
      return a.picture?.frames === b.picture?.frames && a.durationSeconds === b.durationSeconds;
    };
    return (
      rows.find((row) => row.fingerprint === fingerprint) ??
      rows.find((row) => row.fingerprint === null && row.name === name && sameLength(row))
    );
  }

  /** Footage that came in a bundle, its files already in their place; one without its file waits for it. */
  async adopt(projectId: string, bundled: BundledFootage, hasFile: boolean, motionKnown: boolean): Promise<void> {
    const { id, name, fileName, health, facts, fingerprint } = bundled;
    const own = { id, projectId, name: shownName(name), fileName };
    const inspected = hasFile ? await inspectFile(this.places.at(id, fileName), name) : undefined;
    const absent = {
      status: 'failed',
      problem: NOT_HERE,
      health: null,
      motion: 'waiting',
      sound: facts.sound ? 'waiting' : 'none',
      facts: JSON.stringify(facts),
      fingerprint,
    };
    const analysed = motionKnown && health !== null ? { health: JSON.stringify(health), motion: 'ready' } : {};
    const row = await FootageRow.create({
      ...own,
      ...(inspected ? { ...unprepared(inspected), ...analysed } : absent),
    });
    await this.describe(row);
    this.events.tell(projectId, { kind: 'footage' });
    if (hasFile) this.preparing.begin(row);
  }

  rename(id: string, name: string): Promise<Footage> {
    return this.inItsTurn(id, () => this.renameNow(id, name));
  }

  private async renameNow(id: string, name: string): Promise<Footage> {
    const row = await this.row(id);
    await row.update({ name: shownName(name) });
    await this.describe(row);
    this.events.tell(row.projectId, { kind: 'footage' });
    return this.places.shown(row);
  }

  /**
   * Puts another file behind a piece of footage: clips and moments stay. Throws `MediaError` or `InvalidInput`, and leaves all as it
   * was, when it is not footage or lacks what the project needs of it.
   */
  async replace(id: string, file: string, name: string): Promise<Footage> {
    await this.row(id);
    const inspected = await inspectFile(file, name);
    return this.inItsTurn(id, async () => this.replaceFile(await this.row(id), file, inspected, 'move'));
  }

  private async replaceFile(
    row: FootageRow,
    file: string,
    inspected: InspectedFile,
    how: 'move' | 'copy',
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
    this.preparing.stop(id);
    const fileName = originalName(name, `-${randomUUID().slice(0, 8)}`);
    await mkdir(this.places.folder(id), { recursive: true });
    await bring(file, this.places.at(id, fileName), how);
    const before = this.places.original(row);
    await row.update({ fileName, name, ...unprepared(inspected) });
    await this.describe(row);
    await rm(before, { force: true });
    await rm(cacheBeside(before), { force: true });
    this.events.tell(row.projectId, { kind: 'footage' });
    this.preparing.begin(row);
    return this.places.shown(row);
  }

  /** Makes new footage of an interlaced one's fields, at twice its rate, in the background; a failure is told as a failed import. */
  async takeFields(id: string): Promise<void> {
    const row = await this.row(id);
    const picture = factsOf(row).picture;
    if (!picture?.interlaced)
      throw new ConflictException(`"${row.name}" is not interlaced, so it has no fields to make frames of.`);
    const stem = basename(row.name, extname(row.name));
    const name = `${stem} ${speakRate(rate(picture.rate.num * 2, picture.rate.den))}p.mkv`;
    this.preparing.inTurn(async () => {
      const file = join(this.config.uploadFolder, `fields-${randomUUID()}.mkv`);
      try {
        await runJob('fields', { original: this.places.original(row), name: row.name, file }).result;
        await this.take(row.projectId, file, name, 'move');
      } catch (error) {
        this.events.tell(row.projectId, { kind: 'import-failed', name, message: (error as Error).message });
      }
      await rm(file, { force: true });
    });
  }

  remove(id: string): Promise<void> {
    return this.inItsTurn(id, () => this.removeNow(id));
  }

  private async removeNow(id: string): Promise<void> {
    const row = await this.row(id);
    const { document } = await this.projects.row(row.projectId);
    const project = parseProject(JSON.parse(document));
    const sound = project.reel.sounds.find(({ footageId }) => footageId === id);
    if (sound)
      throw new ConflictException({
        message: `"${row.name}" is heard on the reel as "${sound.name}"; take that off the reel first.`,
      });
    const user = allClips(project).find((clip) => clip.sourceId === id);
    if (user)
      throw new ConflictException({
        message: `"${row.name}" is used by the clip "${user.name}"; take that off the reel first.`,
      });
    this.preparing.stop(id);
    // First what would bring it back.
    await rm(this.places.at(id, ABOUT), { force: true });
    await row.destroy();
    await rm(this.places.folder(id), { recursive: true, force: true });
    this.events.tell(row.projectId, { kind: 'footage' });
  }

  async file(id: string, kind: 'proxy' | 'strip'): Promise<string> {
    const row = await this.row(id);
    if (row.status !== 'ready') throw new NotFoundException(`"${row.name}" is not prepared yet.`);
    if (!factsOf(row).picture) throw new NotFoundException(`"${row.name}" has no picture.`);
    return this.places.at(id, kind === 'proxy' ? PROXY : STRIP);
  }

  /** What is kept on disk of the motion between frames, of all projects. */
  async motionCache(): Promise<MotionCache> {
    return { ...(await this.motionStore.content()), maxBytes: this.config.motionBytes };
  }

  /** Drops it. Renders under way find again what they need. */
  async dropMotionCache(): Promise<void> {
    await this.motionStore.clear();
  }

  /** What looking at its motion found (see `MotionFile`). */
  async motionFile(id: string): Promise<string> {
    const row = await this.row(id);
    if (row.motion !== 'ready') throw new NotFoundException(`The motion of "${row.name}" has not been looked at yet.`);
    return this.places.at(id, MOTION);
  }

  /** Where a patch of the picture is in every frame from one to another. */
  async followPatch(
    id: string,
    from: number,
    to: number,
    patch: Patch,
  ): Promise<readonly (readonly [number, number])[]> {
    const row = await this.row(id);
    if (row.status !== 'ready') throw new NotFoundException(`"${row.name}" is not prepared yet.`);
    const frames = factsOf(row).picture?.frames ?? 0;
    if (Math.max(from, to) >= frames) throw new NotFoundException(`"${row.name}" has frames 0 to ${frames - 1}.`);
    if (Math.abs(to - from) > MAX_FOLLOWED)
      throw new UnprocessableEntityException(
        `${Math.abs(to - from)} frames are more than the ${MAX_FOLLOWED} a patch is followed through.`,
      );
    const proxy = await this.file(id, 'proxy');
    return runJob('track', { proxy, name: row.name, from, to, patch }).result.catch((error: Error) => {
      throw new UnprocessableEntityException(error.message);
    });
  }

  /** A file made of its sound: the sound itself (FLAC), its peaks (see `peaksOf`), or what was heard (`HeardSound`). */
  async soundFile(id: string, kind: keyof typeof SOUND_FILES): Promise<string> {
    const row = await this.row(id);
    if (row.sound === 'none') throw new NotFoundException(`"${row.name}" has no sound.`);
    if (row.sound !== 'ready') throw new NotFoundException(`"${row.name}" has not been listened to yet.`);
    return this.places.at(id, SOUND_FILES[kind]);
  }

  /** Stops listening, or (again) listens to a sound that could not be. */
  async stopListening(id: string): Promise<void> {
    await this.row(id);
    this.preparing.stopListening(id);
  }

  async listenAgain(id: string): Promise<void> {
    const row = await this.row(id);
    if (row.sound === 'none') throw new ConflictException(`"${row.name}" has no sound.`);
    if (this.preparing.isListening(id)) return;
    await row.update({ sound: 'waiting' });
    this.events.tell(row.projectId, { kind: 'footage' });
    this.preparing.listen(row);
  }

  /** One frame made from the original at full size, as PNG. */
  async still(id: string, sample: Sample): Promise<Buffer> {
    const row = await this.row(id);
    const motion = { folder: this.config.motionFolder, maxBytes: this.config.motionBytes };
    return this.stills.make({ file: this.places.original(row), name: row.name, sample, motion });
  }

  async originals(projectId: string): Promise<Record<string, { file: string; name: string }>> {
    const rows = await FootageRow.findAll({ where: { projectId } });
    return Object.fromEntries(rows.map((row) => [row.id, { file: this.places.original(row), name: row.name }]));
  }

  /** The media a project's frames are rendered from: originals or, for a draft, proxies; how deep they are, and whether any has transparency. */
  async renderMedia(projectId: string, project: Project, draft: boolean): Promise<RenderMedia> {
    const used = footageOnReel(project);
    const rows = (await FootageRow.findAll({ where: { projectId } })).filter(({ id }) => used.has(id));
    const pictures = rows.flatMap((row) => factsOf(row).picture ?? []);
    const file = (row: FootageRow) =>
      draft && row.status === 'ready' ? this.places.at(row.id, PROXY) : this.places.original(row);
    return {
      files: Object.fromEntries(rows.map((row) => [row.id, { file: file(row), name: row.name }])),
      depths: pictures.map(({ bitDepth }) => bitDepth),
      alpha: pictures.some(({ alpha }) => alpha),
    };
  }

  /** A file a worker may have: the original of a piece of footage, or its proxy. */
  async mediaFile(id: string, name: string): Promise<string> {
    const row = await this.row(id);
    if (name !== row.fileName && name !== PROXY) throw new NotFoundException(`"${row.name}" has no such file.`);
    return this.places.at(row.id, name);
  }

  /** The start timecodes a project's files have. */
  async startTimecodes(projectId: string): Promise<Map<string, string>> {
    const all = await this.list(projectId);
    return new Map(
      all.flatMap(({ id, facts }) => (facts.startTimecode === null ? [] : [[id, facts.startTimecode] as const])),
    );
  }

  private async row(id: string): Promise<FootageRow> {
    const row = await FootageRow.findByPk(id);
    if (!row) throw new NotFoundException('There is no such footage.');
    return row;
  }
}

interface About {
  readonly projectId: string;
  readonly name: string;
  readonly fileName: string;
}

export interface RenderMedia {
  readonly files: MediaFiles;
  /** Bits a sample. */
  readonly depths: readonly number[];
  readonly alpha: boolean;
}

/** Puts a file where it belongs: its own, or a copy. */
async function bring(file: string, target: string, how: 'move' | 'copy'): Promise<void> {
  if (how === 'move') await rename(file, target);
  else await copyFile(file, target, constants.COPYFILE_FICLONE);
}

/** What a folder says it is; one that is damaged says nothing. */
function aboutIn(text: string): About | undefined {
  try {
    return JSON.parse(text) as About;
  } catch {
    return undefined;
  }
}
