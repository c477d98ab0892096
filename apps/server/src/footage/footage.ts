import { randomUUID } from 'node:crypto';
import { constants } from 'node:fs';
import { copyFile, mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { ConflictException, Injectable, Logger, NotFoundException, UnprocessableEntityException, type OnApplicationBootstrap } from '@nestjs/common';
import {
  allClips,
  footageOnReel,
  InvalidInput,
  madeOf,
  parseProject,
  partsOf,
  rate,
  replaceSource,
  speakRate,
  type Footage,
  type FootageFacts,
  type Health,
  type MotionCache,
  type MotionStatus,
  type Patch,
  type Project,
  type Sample,
  type SoundStatus,
} from '@idle-bend/core';
import { checkDecodes, FlowStore, indexFrames, openSource, probe, writeStill, type MediaFiles, type OpenedSource } from '@idle-bend/media';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { JobQueue, runJob, type Job, type JobFindings, type RunningJob } from '../jobs/job.js';
import { Projects } from '../projects/projects.js';
import { FootageRow } from '../storage/rows.js';
import { readFacts } from './facts.js';

const PROXY = 'proxy.mp4';
const STRIP = 'strip.jpg';
/** A patch is followed through so many frames at once. */
const MOST_FOLLOWED = 3000;
const MOTION = 'motion.json';
/** What the footage is, in its own folder, should the database be lost. */
const ABOUT = 'about.json';
/** The sound as browsers play it, its peaks, and what was heard in it. */
const SOUND_FILES = { sound: 'sound.flac', peaks: 'peaks.bin', heard: 'heard.json' } as const;

/** Footage: taking files in, preparing proxies, answering for frames of the originals. */
@Injectable()
export class FootageStore implements OnApplicationBootstrap {
  private readonly logger = new Logger('footage');
  private readonly queue = new JobQueue();
  private readonly motionQueue = new JobQueue();
  private readonly soundQueue = new JobQueue();
  private readonly jobs = new Map<string, RunningJob>();
  private readonly listening = new Map<string, RunningJob>();
  private readonly opened = new Map<string, Promise<OpenedSource>>();
  private readonly motionStore: FlowStore;

  constructor(
    private readonly config: Config,
    private readonly events: Events,
    private readonly projects: Projects,
  ) {
    this.motionStore = new FlowStore(config.motionFolder, config.motionBytes);
  }

  /** After a restart: folders nobody owns go, and what was being prepared is prepared again. */
  async onApplicationBootstrap(): Promise<void> {
    await this.projects.recovered();
    const owned = new Set((await FootageRow.findAll({ attributes: ['id'] })).map(({ id }) => id));
    for (const folder of await readdir(this.config.mediaFolder)) if (!owned.has(folder)) await this.takeBack(folder);
    for (const row of await FootageRow.findAll()) {
      if (row.sound === 'waiting') this.listen(row);
      if (row.status === 'preparing') this.prepare(row);
      else if (row.status === 'ready' && row.motion === 'waiting' && toFootage(row).facts.picture) this.lookAtMotion(row);
    }
  }

  /** A folder the database does not know: footage of a project whose database was lost is taken in again, anything else goes. */
  private async takeBack(id: string): Promise<void> {
    const folder = join(this.config.mediaFolder, id);
    const text = await readFile(join(folder, ABOUT), 'utf8').catch(() => undefined);
    const about = text === undefined ? undefined : (JSON.parse(text) as About);
    if (!about || !(await this.projects.has(about.projectId))) return rm(folder, { recursive: true, force: true });
    try {
      const file = join(folder, basename(about.fileName));
      const facts = await probe(file, about.name);
      const index = facts.video && (await indexFrames(file, facts));
      const prepared = { status: facts.video ? 'preparing' : 'ready', problem: null, health: null, motion: 'waiting', sound: facts.sound ? 'waiting' : 'none' };
      await FootageRow.create({ id, ...about, ...prepared, facts: JSON.stringify(readFacts(facts, index)) });
    } catch (error) {
      // Its file stays where it is: what is missing may be ffmpeg.
      this.logger.warn(`${about.name} could not be taken back in: ${(error as Error).message}`);
    }
  }

  /** Says in the footage's own folder what it is. */
  private async describe({ id, projectId, name, fileName }: FootageRow): Promise<void> {
    const about: About = { projectId, name, fileName };
    await writeFile(join(this.config.mediaFolder, id, ABOUT), JSON.stringify(about));
  }

  async list(projectId: string): Promise<Footage[]> {
    return (await FootageRow.findAll({ where: { projectId }, order: [['createdAt', 'ASC']] })).map(toFootage);
  }

  /**
   * Takes a file in. `how` says whether it becomes ours (an upload) or is copied (someone else's file). Throws
   * `MediaError` with one sentence, and leaves nothing behind, when it is not footage.
   */
  async take(projectId: string, file: string, name: string, how: 'move' | 'copy', id: string = randomUUID()): Promise<Footage> {
    await this.projects.row(projectId);
    const shown = shownName(name);
    const facts = await probe(file, shown);
    const index = facts.video && (await indexFrames(file, facts));
    await checkDecodes(file, facts, index);
    const folder = join(this.config.mediaFolder, id);
    await mkdir(folder, { recursive: true });
    try {
      const fileName = originalName(shown);
      const target = join(folder, fileName);
      if (how === 'move') await rename(file, target);
      else await copyFile(file, target, constants.COPYFILE_FICLONE);
      const row = await FootageRow.create({
        id,
        projectId,
        name: shown,
        fileName,
        // A recording of sound alone has no proxy to wait for.
        status: facts.video ? 'preparing' : 'ready',
        problem: null,
        health: null,
        motion: 'waiting',
        sound: facts.sound ? 'waiting' : 'none',
        facts: JSON.stringify(readFacts(facts, index)),
      });
      await this.describe(row);
      this.events.tell(projectId, { kind: 'footage' });
      if (facts.sound) this.listen(row);
      if (facts.video) this.prepare(row);
      return toFootage(row);
    } catch (error) {
      await rm(folder, { recursive: true, force: true });
      throw error;
    }
  }

  async rename(id: string, name: string): Promise<Footage> {
    const row = await this.row(id);
    await row.update({ name: shownName(name) });
    await this.describe(row);
    this.events.tell(row.projectId, { kind: 'footage' });
    return toFootage(row);
  }

  /**
   * Puts another file behind a piece of footage: clips and moments stay. Throws `MediaError` or `InvalidInput`, and leaves all as it
   * was, when it is not footage or lacks what the project needs of it.
   */
  async replace(id: string, file: string, name: string): Promise<Footage> {
    const row = await this.row(id);
    const old = toFootage(row).facts.picture;
    const shown = shownName(name);
    const facts = await probe(file, shown);
    const index = facts.video && (await indexFrames(file, facts));
    await checkDecodes(file, facts, index);
    const read = readFacts(facts, index);
    if (Boolean(old) !== Boolean(read.picture))
      throw new InvalidInput('file', `${shown} has ${old ? 'no picture' : 'a picture'}, unlike ${row.name}, so it cannot stand in for it`);
    const project = await this.projects.open(row.projectId);
    const document = read.picture ? replaceSource(project.document, id, read.picture.frames, read.picture.rate) : project.document;
    // First, because another window's change refuses it; nothing of the footage is touched then.
    if (document !== project.document) await this.projects.keep(row.projectId, project.version, document, 'server');
    this.jobs.get(id)?.cancel();
    this.listening.get(id)?.cancel();
    this.opened.delete(id);
    const fileName = originalName(shown, `-${randomUUID().slice(0, 8)}`);
    const folder = join(this.config.mediaFolder, id);
    await rename(file, join(folder, fileName));
    const before = this.original(row);
    const fresh = { problem: null, health: null, motion: 'waiting', sound: facts.sound ? 'waiting' : 'none', facts: JSON.stringify(read) };
    await row.update({ fileName, name: shown, status: facts.video ? 'preparing' : 'ready', ...fresh });
    await this.describe(row);
    await rm(before, { force: true });
    this.events.tell(row.projectId, { kind: 'footage' });
    if (facts.video) this.prepare(row);
    if (facts.sound) this.listen(row);
    return toFootage(row);
  }

  /** Makes new footage of an interlaced one's fields, at twice its rate, in the background; a failure is told as a failed import. */
  async takeFields(id: string): Promise<void> {
    const row = await this.row(id);
    const picture = toFootage(row).facts.picture;
    if (!picture?.interlaced) throw new ConflictException(`"${row.name}" is not interlaced, so it has no fields to make frames of.`);
    const stem = basename(row.name, extname(row.name));
    const name = `${stem} ${speakRate(rate(picture.rate.num * 2, picture.rate.den))}p.mkv`;
    this.queue.add(async () => {
      const file = join(this.config.uploadFolder, `fields-${randomUUID()}.mkv`);
      try {
        await runJob({ kind: 'fields', original: this.original(row), name: row.name, file }, () => undefined).result;
        await this.take(row.projectId, file, name, 'move');
      } catch (error) {
        this.events.tell(row.projectId, { kind: 'import-failed', name, message: (error as Error).message });
      }
      await rm(file, { force: true });
    });
  }

  async remove(id: string): Promise<void> {
    const row = await this.row(id);
    const { document } = await this.projects.row(row.projectId);
    const project = parseProject(JSON.parse(document));
    const sound = project.reel.sounds.find(({ footageId }) => footageId === id);
    if (sound) throw new ConflictException({ message: `"${row.name}" is heard on the reel as "${sound.name}"; take that off the reel first.` });
    const user = allClips(project).find((clip) => clip.sourceId === id);
    if (user) throw new ConflictException({ message: `"${row.name}" is used by the clip "${user.name}"; take that off the reel first.` });
    this.jobs.get(id)?.cancel();
    this.listening.get(id)?.cancel();
    this.opened.delete(id);
    // First what would bring it back.
    await rm(join(this.config.mediaFolder, id, ABOUT), { force: true });
    await row.destroy();
    await rm(join(this.config.mediaFolder, id), { recursive: true, force: true });
    this.events.tell(row.projectId, { kind: 'footage' });
  }

  async file(id: string, kind: 'proxy' | 'strip'): Promise<string> {
    const row = await this.row(id);
    if (row.status !== 'ready') throw new NotFoundException(`"${row.name}" is not prepared yet.`);
    if (!toFootage(row).facts.picture) throw new NotFoundException(`"${row.name}" has no picture.`);
    return join(this.config.mediaFolder, id, kind === 'proxy' ? PROXY : STRIP);
  }

  /** What is kept on disk of the motion between frames, of all projects. */
  async motionCache(): Promise<MotionCache> {
    return { ...(await this.motionStore.content()), mostBytes: this.config.motionBytes };
  }

  /** Drops it. Renders under way find anew what they need. */
  async dropMotionCache(): Promise<void> {
    await this.motionStore.clear();
  }

  /** What looking at its motion found (see `MotionFile`). */
  async motionFile(id: string): Promise<string> {
    const row = await this.row(id);
    if (row.motion !== 'ready') throw new NotFoundException(`The motion of "${row.name}" has not been looked at yet.`);
    return join(this.config.mediaFolder, id, MOTION);
  }

  /** Where a patch of the picture is in every frame from one to another. */
  async followPatch(id: string, from: number, to: number, patch: Patch): Promise<JobFindings['places']> {
    const row = await this.row(id);
    if (row.status !== 'ready') throw new NotFoundException(`"${row.name}" is not prepared yet.`);
    const frames = toFootage(row).facts.picture?.frames ?? 0;
    if (Math.max(from, to) >= frames) throw new NotFoundException(`"${row.name}" has frames 0 to ${frames - 1}.`);
    if (Math.abs(to - from) > MOST_FOLLOWED)
      throw new UnprocessableEntityException(`${Math.abs(to - from)} frames are more than the ${MOST_FOLLOWED} a patch is followed through.`);
    const proxy = await this.file(id, 'proxy');
    const { places } = await runJob({ kind: 'track', proxy, name: row.name, from, to, patch }, () => undefined).result.catch((error: Error) => {
      throw new UnprocessableEntityException(error.message);
    });
    return places;
  }

  /** A file made of its sound: the sound itself (FLAC), its peaks (see `peaksOf`), or what was heard (`HeardSound`). */
  async soundFile(id: string, kind: keyof typeof SOUND_FILES): Promise<string> {
    const row = await this.row(id);
    if (row.sound === 'none') throw new NotFoundException(`"${row.name}" has no sound.`);
    if (row.sound !== 'ready') throw new NotFoundException(`"${row.name}" has not been listened to yet.`);
    return join(this.config.mediaFolder, id, SOUND_FILES[kind]);
  }

  /** Stops listening, or (again) listens to a sound that could not be. */
  async stopListening(id: string): Promise<void> {
    await this.row(id);
    this.listening.get(id)?.cancel();
  }

  async listenAgain(id: string): Promise<void> {
    const row = await this.row(id);
    if (row.sound === 'none') throw new ConflictException(`"${row.name}" has no sound.`);
    if (this.listening.has(id)) return;
    await row.update({ sound: 'waiting' });
    this.events.tell(row.projectId, { kind: 'footage' });
    this.listen(row);
  }

  /** One frame made from the original at full size, as PNG. */
  async still(id: string, sample: Sample): Promise<Buffer> {
    const row = await this.row(id);
    if (!this.opened.has(id)) {
      const opening = openSource(this.original(row), row.name);
      opening.catch(() => this.opened.delete(id));
      this.opened.set(id, opening);
      if (this.opened.size > 20) this.opened.delete(this.opened.keys().next().value!);
    }
    const source = await this.opened.get(id)!;
    const { frames } = source.index.grid;
    const needed = partsOf(sample).flatMap((part) => {
      if (part.kind === 'source') return [part.frame];
      const made = madeOf(part);
      return made ? [made.a, made.b, ...(made.kind === 'flow' ? [made.before, made.after] : [])] : [];
    });
    const missing = needed.find((n) => n !== undefined && n >= frames);
    if (missing !== undefined) throw new NotFoundException(`"${row.name}" has frames 0 to ${frames - 1}, so not frame ${missing}.`);
    return writeStill(source, sample, this.motionStore);
  }

  async originals(projectId: string): Promise<Record<string, { file: string; name: string }>> {
    const rows = await FootageRow.findAll({ where: { projectId } });
    return Object.fromEntries(rows.map((row) => [row.id, { file: this.original(row), name: row.name }]));
  }

  /** The media a project's frames are rendered from: originals or, for a draft, proxies; how deep they are, and whether any has transparency. */
  async renderMedia(projectId: string, project: Project, draft: boolean): Promise<RenderMedia> {
    const used = footageOnReel(project);
    const rows = (await FootageRow.findAll({ where: { projectId } })).filter(({ id }) => used.has(id));
    const pictures = rows.flatMap((row) => toFootage(row).facts.picture ?? []);
    const file = (row: FootageRow) => (draft && row.status === 'ready' ? join(this.config.mediaFolder, row.id, PROXY) : this.original(row));
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
    return join(this.config.mediaFolder, row.id, name);
  }

  /** The start timecodes a project's files have. */
  async startTimecodes(projectId: string): Promise<Map<string, string>> {
    const all = await this.list(projectId);
    return new Map(all.flatMap(({ id, facts }) => (facts.startTimecode === null ? [] : [[id, facts.startTimecode] as const])));
  }

  private original(row: FootageRow): string {
    return join(this.config.mediaFolder, row.id, row.fileName);
  }

  private async row(id: string): Promise<FootageRow> {
    const row = await FootageRow.findByPk(id);
    if (!row) throw new NotFoundException('There is no such footage.');
    return row;
  }

  private prepare(row: FootageRow): void {
    // A file that was replaced meanwhile is no longer spoken for.
    const where = { id: row.id, fileName: row.fileName };
    this.queue.add(async () => {
      if (!(await FootageRow.findOne({ where }))) return;
      const folder = join(this.config.mediaFolder, row.id);
      const job = runJob(
        { kind: 'proxy', original: this.original(row), name: row.name, proxy: join(folder, PROXY), strip: join(folder, STRIP) },
        (done, total) => this.events.tell(row.projectId, { kind: 'footage-progress', footageId: row.id, done, total }),
      );
      this.jobs.set(row.id, job);
      try {
        const { health } = await job.result;
        await FootageRow.update({ status: 'ready', problem: null, health: health ? JSON.stringify(health) : null }, { where });
        const ready = await FootageRow.findOne({ where });
        if (ready) this.lookAtMotion(ready);
      } catch (error) {
        this.logger.warn(`${row.name}: ${(error as Error).message}`);
        await FootageRow.update({ status: 'failed', problem: (error as Error).message }, { where });
      }
      this.jobs.delete(row.id);
      this.events.tell(row.projectId, { kind: 'footage' });
    });
  }

  /** Waveform, beats and a sound that browsers play, in the background. */
  private listen(row: FootageRow): void {
    const at = (name: string) => join(this.config.mediaFolder, row.id, name);
    const { sound, peaks, heard } = SOUND_FILES;
    const job: Job = { kind: 'listen', original: this.original(row), name: row.name, sound: at(sound), peaks: at(peaks), heard: at(heard) };
    this.inBackground(row, job, { queue: this.soundQueue, running: this.listening, field: 'sound', event: 'sound-progress' });
  }

  /** In the background, after what waits for its proxy: the footage can be used meanwhile. */
  private lookAtMotion(row: FootageRow): void {
    const at = (name: string) => join(this.config.mediaFolder, row.id, name);
    const job: Job = { kind: 'motion', proxy: at(PROXY), name: row.name, repeats: toFootage(row).health?.repeats ?? [], file: at(MOTION) };
    this.inBackground(row, job, { queue: this.motionQueue, running: this.jobs, field: 'motion', event: 'motion-progress' });
  }

  /** Runs a job when its turn comes; the row's field then says `ready` or `failed`. A file that was replaced meanwhile is not spoken for. */
  private inBackground(row: FootageRow, wanted: Job, { queue, running, field, event }: Background): void {
    const where = { id: row.id, fileName: row.fileName };
    queue.add(async () => {
      if (!(await FootageRow.findOne({ where }))) return;
      const job = runJob(wanted, (done, total) => this.events.tell(row.projectId, { kind: event, footageId: row.id, done, total }));
      running.set(row.id, job);
      let status: MotionStatus & SoundStatus = 'ready';
      try {
        await job.result;
      } catch (error) {
        this.logger.warn(`${row.name}: ${(error as Error).message}`);
        status = 'failed';
      }
      await FootageRow.update({ [field]: status }, { where });
      running.delete(row.id);
      this.events.tell(row.projectId, { kind: 'footage' });
    });
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

/** Where a background job waits and runs, and how its progress and end are told. */
interface Background {
  readonly queue: JobQueue;
  readonly running: Map<string, RunningJob>;
  readonly field: 'motion' | 'sound';
  readonly event: 'motion-progress' | 'sound-progress';
}

const shownName = (name: string) => basename(name).replace(/\p{Cc}/gu, '').slice(0, 200) || 'unnamed'; // prettier-ignore
const originalName = (name: string, mark = '') => `original${mark}${extname(name).replace(/[^.\w]/g, '').slice(0, 10)}`; // prettier-ignore

function toFootage(row: FootageRow): Footage {
  return {
    id: row.id,
    name: row.name,
    status: row.status,
    problem: row.problem,
    revision: row.fileName.replace(/\W/g, ''),
    facts: JSON.parse(row.facts) as FootageFacts,
    health: row.health ? (JSON.parse(row.health) as Health) : null,
    motion: row.motion,
    sound: row.sound,
  };
}
