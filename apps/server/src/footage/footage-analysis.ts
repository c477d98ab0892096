import type { MotionStatus, SoundStatus } from '@idle-bend/core/api';
import { footageOnReel } from '@idle-bend/core/group';
import { parseProject, type Project } from '@idle-bend/core/model';
import { ConflictException, Injectable, Logger } from '@nestjs/common';
import { Events } from '../events/events.js';
import { JobQueue } from '../jobs/job-queue.js';
import { runJob, type RunningJob } from '../jobs/job.js';
import { Projects } from '../projects/projects.js';
import { FootageRow, ProjectRow } from '../storage/rows.js';
import { factsOf, FootagePaths, healthOf, isEstimated, MOTION, PROXY, SOUND_FILES, STRIP } from './footage-paths.js';
import { Foreground } from './foreground.js';
import { FrameCounts } from './frame-counts.js';
import { Proxies } from './proxies.js';
import { SameContent } from './same-content.js';

/** Where a background job waits and runs, and how its progress and end are told. */
interface Background {
  readonly queue: JobQueue;
  readonly running: Map<string, RunningJob<unknown>>;
  readonly field: 'motion' | 'sound';
  readonly event: 'motion-progress' | 'sound-progress';
  /** The files it makes. */
  readonly files: readonly string[];
}

/** What is made of footage in the background: proxies, filmstrips, what is known of its motion and its sound. */
@Injectable()
export class FootageAnalysis {
  private readonly logger = new Logger('footage');
  private readonly queue = new JobQueue(2, 2);
  private readonly motionQueue = new JobQueue();
  private readonly soundQueue = new JobQueue();
  private readonly jobs = new Map<string, RunningJob<unknown>>();
  private readonly listening = new Map<string, RunningJob<unknown>>();
  /** What waits for its proxy, or has it made. */
  private readonly preparing = new Set<string>();
  /** Whose motion somebody waits for. */
  private readonly motionWanted = new Set<string>();
  /** What is being stopped: its jobs end without a word. */
  private readonly stopping = new Set<string>();

  constructor(
    private readonly events: Events,
    private readonly paths: FootagePaths,
    private readonly counts: FrameCounts,
    private readonly proxies: Proxies,
    private readonly sameContent: SameContent,
    private readonly foreground: Foreground,
    projects: Projects,
  ) {
    foreground.onChange(() => this.holdMotion());
    projects.onKept((id, project) => this.prefer(id, project));
  }

  /** What a project's reel shows comes before what nobody uses. */
  private prefer(projectId: string, project: Project): void {
    const used = footageOnReel(project);
    for (const queue of [this.counts, this.queue, this.motionQueue, this.soundQueue]) queue.prefer(projectId, used);
  }

  /** The same for a project whose document was kept before this server started. */
  async preferUsed(projectId: string): Promise<void> {
    const row = await ProjectRow.findByPk(projectId);
    if (row) this.prefer(projectId, parseProject(JSON.parse(row.document)));
  }

  /** While a reel plays or renders nothing more is begun but what somebody waits for. Sounds are listened to while one plays: that is soon over. */
  private holdMotion(): void {
    const { isBusy } = this.foreground;
    this.counts.hold(isBusy);
    this.queue.pause(isBusy);
    this.motionQueue.pause(isBusy);
    this.soundQueue.pause(this.foreground.isWorking);
    for (const [id, job] of this.jobs) job.hold(isBusy && !this.motionWanted.has(id));
  }

  /** Begins, or takes up again, what is missing of a piece of footage. */
  begin(row: FootageRow): void {
    if (row.status === 'preparing' && isEstimated(row)) return this.count(row);
    if (row.sound === 'waiting') this.listen(row);
    if (row.status === 'preparing') this.prepare(row);
    else if (row.status === 'ready' && row.motion === 'waiting' && factsOf(row).picture) this.analyseMotion(row);
  }

  /** Makes proxies again that were dropped, of footage somebody has in front of them. */
  wake(rows: readonly FootageRow[]): void {
    for (const row of rows) if (isResting(row) && !this.preparing.has(row.id)) this.prepare(row);
  }

  /** Stops what is under way of it, and resolves once that has ended. What was not made yet stays to be made, by whoever begins it again. */
  async stop(id: string): Promise<void> {
    this.stopping.add(id);
    const ended = [this.queue, this.motionQueue, this.soundQueue].map((queue) => queue.drop(id));
    this.proxies.stop(id);
    this.jobs.get(id)?.cancel();
    this.listening.get(id)?.cancel();
    await Promise.all([...ended, this.counts.stop(id)]);
    this.preparing.delete(id);
    this.stopping.delete(id);
  }

  stopListening(id: string): void {
    this.listening.get(id)?.cancel();
  }

  /** Listens again to a sound that could not be heard. Throws `ConflictException` for footage without sound. */
  async listenAgain(row: FootageRow): Promise<void> {
    if (row.sound === 'none') throw new ConflictException(`"${row.name}" has no sound.`);
    if (this.listening.has(row.id)) return;
    await row.update({ sound: 'waiting' });
    this.events.tell(row.projectId, { kind: 'footage' });
    this.listen(row);
  }

  /** Runs other work of footage in turn with the proxies. */
  inTurn(projectId: string, task: () => Promise<void>): void {
    this.queue.add(projectId, task);
  }

  /** Everything else begins when its frames are counted. */
  private count(row: FootageRow): void {
    this.counts.count(row, (counted) => this.begin(counted));
  }

  /** Its proxy and filmstrip, and then its motion. */
  prepare(row: FootageRow): void {
    this.preparing.add(row.id);
    const task = () => this.makeProxy(row).finally(() => this.preparing.delete(row.id));
    this.queue.add(row.projectId, task, row.id);
  }

  private async makeProxy(row: FootageRow): Promise<void> {
    // A file that was replaced meanwhile is no longer spoken for.
    const where = { id: row.id, fileName: row.fileName };
    if (!(await isWanted(where))) return;
    try {
      const files = [STRIP, PROXY];
      const other = await this.borrow(row, files, ({ status, health }) => status === 'ready' && health !== null);
      if (this.stopping.has(row.id)) return;
      const health = other ? healthOf(other) : await this.proxies.make(row);
      await FootageRow.update({ status: 'ready', problem: null, health: JSON.stringify(health) }, { where });
      const ready = await FootageRow.findOne({ where });
      if (ready?.motion === 'waiting' && !this.stopping.has(row.id)) this.analyseMotion(ready);
    } catch (error) {
      if (this.stopping.has(row.id)) return;
      this.logger.warn(`${row.name}: ${(error as Error).message}`);
      await FootageRow.update({ status: 'failed', problem: (error as Error).message }, { where });
    }
    this.events.tell(row.projectId, { kind: 'footage' });
  }

  private borrow(row: FootageRow, files: readonly string[], hasMade: (other: FootageRow) => boolean) {
    return this.sameContent.borrow(row, files, hasMade, () => !this.stopping.has(row.id));
  }

  /** Somebody looks at a frame of footage whose proxy is not whole yet: its pieces there come first. */
  lookAt(row: FootageRow, frame: number): void {
    if (row.status !== 'preparing') return;
    if (isEstimated(row)) {
      this.count(row);
      return this.counts.hurry(row.id);
    }
    // Of many that were taken in together its turn may not have come.
    if (!this.preparing.has(row.id)) this.prepare(row);
    this.queue.hurry(row.id);
    this.proxies.lookAt(row, frame);
  }

  /** Waveform, beats and a sound that browsers play, in the background. */
  listen(row: FootageRow): void {
    const at = (name: string) => this.paths.at(row.id, name);
    const { sound, peaks, heard } = SOUND_FILES;
    const made = { name: row.name, sound: at(sound), peaks: at(peaks), heard: at(heard) };
    const run = (onProgress: (done: number, total: number) => void) =>
      runJob('listen', { ...made, original: this.paths.original(row) }, onProgress);
    this.inBackground(row, run, {
      queue: this.soundQueue,
      running: this.listening,
      field: 'sound',
      event: 'sound-progress',
      files: Object.values(SOUND_FILES),
    });
  }

  /** Somebody waits for its motion: it comes before all that nobody waits for, and as if a clip used it. */
  motionFirst(row: FootageRow): void {
    if (row.motion !== 'waiting') return;
    this.motionWanted.add(row.id);
    this.motionQueue.hurry(row.id);
    if (this.foreground.isBusy) this.jobs.get(row.id)?.hold(false);
  }

  /** In the background, after what waits for its proxy: the footage can be used meanwhile. What no clip uses comes last of all. */
  analyseMotion(row: FootageRow): void {
    const at = (name: string) => this.paths.at(row.id, name);
    const input = { proxy: at(PROXY), name: row.name, repeats: healthOf(row)?.repeats ?? [], file: at(MOTION) };
    const run = async (onProgress: (done: number, total: number) => void) =>
      runJob('motion', input, onProgress, !(this.motionWanted.has(row.id) || (await isOnReel(row))));
    this.inBackground(row, run, {
      queue: this.motionQueue,
      running: this.jobs,
      field: 'motion',
      event: 'motion-progress',
      files: [MOTION],
    });
    if (this.motionWanted.has(row.id)) this.motionQueue.hurry(row.id);
  }

  /** Runs a job when its turn comes; the row's field then says `ready` or `failed`. A file that was replaced meanwhile is not spoken for. */
  private inBackground(
    row: FootageRow,
    run: (onProgress: (done: number, total: number) => void) => RunningJob<void> | Promise<RunningJob<void>>,
    { queue, running, field, event, files }: Background,
  ): void {
    const where = { id: row.id, fileName: row.fileName };
    const task = async () => {
      if (!(await isWanted(where))) return;
      let status: MotionStatus & SoundStatus = 'ready';
      try {
        if (!(await this.borrow(row, files, (other) => other[field] === 'ready'))) {
          if (this.stopping.has(row.id)) return;
          const job = await run((done, total) =>
            this.events.tell(row.projectId, { kind: event, footageId: row.id, done, total }),
          );
          running.set(row.id, job);
          if (field === 'motion') this.holdMotion();
          if (this.stopping.has(row.id)) job.cancel();
          await job.result;
        }
      } catch (error) {
        if (this.stopping.has(row.id)) return;
        this.logger.warn(`${row.name}: ${(error as Error).message}`);
        status = 'failed';
      } finally {
        running.delete(row.id);
        if (field === 'motion') this.motionWanted.delete(row.id);
      }
      await FootageRow.update({ [field]: status }, { where });
      this.events.tell(row.projectId, { kind: 'footage' });
    };
    queue.add(row.projectId, task, row.id);
  }
}

/** Footage whose proxy was there and has been dropped. */
export const isResting = ({ status, health }: FootageRow): boolean => status === 'preparing' && health !== null;

/** Whether that file is still footage of a project that is not in the bin. */
async function isWanted(where: { readonly id: string; readonly fileName: string }): Promise<boolean> {
  const row = await FootageRow.findOne({ where });
  return row !== null && (await ProjectRow.count({ where: { id: row.projectId, binnedAt: null } })) > 0;
}

/** Whether its project's reel shows it. */
async function isOnReel({ id, projectId }: FootageRow): Promise<boolean> {
  const project = await ProjectRow.findByPk(projectId);
  return project !== null && footageOnReel(parseProject(JSON.parse(project.document))).has(id);
}
