import { Logger } from '@nestjs/common';

interface Waiting {
  readonly task: () => Promise<void>;
  readonly owner: string;
  readonly key: string | undefined;
  /** Somebody waits for it. */
  isUrgent: boolean;
}

/**
 * Jobs one after another, in so many lanes: more at once would only share the same cores, but one that stalls leaves the other lane
 * free. What is hurried comes first, then what is preferred. Owners (projects) take turns, so that a whole card of one does not hold up a
 * single clip of another. While it is paused only what is hurried is begun, each at once, since what fills the lanes may stand still.
 */
export class JobQueue {
  private readonly logger = new Logger('jobs');
  private readonly waiting: Waiting[] = [];
  /** When each owner last had a turn; those that never had one come first. */
  private readonly turns = new Map<string, number>();
  private turn = 0;
  private busy = 0;
  private isPaused = false;
  /** What runs under a name, and its end. */
  private readonly running = new Map<string, Promise<void>>();

  private readonly preferred = new Map<string, ReadonlySet<string>>();

  /** `spare`: so many more at once where what is hurried would have to wait. */
  constructor(
    private readonly lanes = 1,
    private readonly spare = 0,
  ) {}

  /** `key` is a name it can be hurried by. */
  add(owner: string, task: () => Promise<void>, key?: string): void {
    this.waiting.push({ task, owner, key, isUrgent: false });
    if (this.busy < this.lanes) void this.work();
  }

  /** What waits under this name comes before all that nobody hurried. */
  hurry(key: string): void {
    for (const each of this.waiting.filter((each) => each.key === key)) {
      each.isUrgent = true;
      if (this.isPaused || this.busy < this.lanes + this.spare) void this.work();
    }
  }

  /** Of an owner, what waits under these names comes before the rest; in place of what was preferred before. */
  prefer(owner: string, keys: ReadonlySet<string>): void {
    this.preferred.set(owner, keys);
  }

  /** Begins nothing more but what is hurried, or goes on. What runs is left to whoever gave it. */
  pause(isPaused: boolean): void {
    if (this.isPaused === isPaused) return;
    this.isPaused = isPaused;
    if (!isPaused) for (let free = this.lanes - this.busy; free > 0; free--) void this.work();
  }

  /** What waits under this name is not done at all; resolves once what runs under it has ended. */
  async drop(key: string): Promise<void> {
    for (let i = this.waiting.length - 1; i >= 0; i--) if (this.waiting[i]!.key === key) this.waiting.splice(i, 1);
    await this.running.get(key);
  }

  private async work(): Promise<void> {
    this.busy++;
    for (let next = this.next(); next; next = this.busy > this.lanes ? undefined : this.next()) await this.run(next);
    this.busy--;
  }

  private async run({ task, key }: Waiting): Promise<void> {
    // What a task cannot write down (the disk is full) is made up for after the next start.
    const ended = task().catch((error: Error) => this.logger.warn(error.message));
    if (key !== undefined) this.running.set(key, ended);
    await ended;
    if (key !== undefined && this.running.get(key) === ended) this.running.delete(key);
  }

  /** The first task of the owner whose last turn is longest ago, among those that are urgent or else preferred where there are any. */
  private next(): Waiting | undefined {
    const last = ({ owner }: Waiting) => this.turns.get(owner) ?? -1;
    const urgent = this.waiting.filter(({ isUrgent }) => isUrgent);
    const preferred = this.waiting.filter(({ owner, key }) => key !== undefined && this.preferred.get(owner)?.has(key));
    const all = this.isPaused ? urgent : ([urgent, preferred].find(({ length }) => length > 0) ?? this.waiting);
    const chosen = all.reduce<Waiting | undefined>(
      (best, each) => (best === undefined || last(each) < last(best) ? each : best),
      undefined,
    );
    if (!chosen) {
      if (this.waiting.length === 0) this.turns.clear();
      return undefined;
    }
    this.waiting.splice(this.waiting.indexOf(chosen), 1);
    this.turns.set(chosen.owner, this.turn++);
    return chosen;
  }
}
