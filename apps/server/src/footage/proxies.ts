import type { Health } from '@idle-bend/core/health';
import { piecesOf, type PieceLayout } from '@idle-bend/core/proxy';
import { Injectable } from '@nestjs/common';
import { madePieces, pieceFile } from '@idle-bend/media';
import { existsSync } from 'node:fs';
import { Events } from '../events/events.js';
import { runJob, type RunningJob } from '../jobs/job.js';
import type { FootageRow } from '../storage/rows.js';
import { factsOf, FootagePaths, PIECES, PROXY, STRIP } from './footage-paths.js';

/** A place is made first when it was looked at for so long, milliseconds: whoever drags across a film is not stopping anywhere. */
const SETTLED_MS = 350;

/** Proxies stand still for so long at most, and then go on for as long. */
const HELD_MS = 10_000;

/** So many pieces after the one that is being made are waited for. */
const SOON = 1;

interface Making {
  job: RunningJob<Health>;
  /** The piece it began with, and how many it has made since. */
  from: number;
  done: number;
  /** Where it is to go on instead. */
  next: number | undefined;
  isStopped: boolean;
}

/** Proxies that are being made piece by piece, those that are looked at first. */
@Injectable()
export class Proxies {
  private readonly making = new Map<string, Making>();
  /** The piece to begin with, of footage whose turn has not come. */
  private readonly wanted = new Map<string, number>();
  private readonly looks = new Map<string, NodeJS.Timeout>();
  private isHeld = false;
  private longest: NodeJS.Timeout | undefined;
  private sharedUntil = 0;

  constructor(
    private readonly events: Events,
    private readonly paths: FootagePaths,
  ) {}

  /** Makes what is missing of a proxy, wherever it is wanted first. Rejects as its job does. */
  async make(row: FootageRow): Promise<Health> {
    let from = this.wanted.get(row.id) ?? 0;
    this.wanted.delete(row.id);
    for (;;) {
      const making = this.begin(row, from);
      try {
        return await making.job.result;
      } catch (error) {
        if (making.next === undefined || making.isStopped) throw error;
        from = making.next;
      } finally {
        this.making.delete(row.id);
      }
    }
  }

  private begin(row: FootageRow, from: number): Making {
    let last = -1;
    const making: Making = {
      ...{ from, done: 0, next: undefined, isStopped: false },
      job: runJob(
        'proxy',
        {
          original: this.paths.original(row),
          beside: this.paths.own(row),
          name: row.name,
          pieces: this.paths.at(row.id, PIECES),
          from,
          proxy: this.paths.at(row.id, PROXY),
          strip: this.paths.at(row.id, STRIP),
        },
        (done, total) => {
          if (last >= 0) making.done += done - last;
          last = done;
          this.events.tell(row.projectId, { kind: 'footage-progress', footageId: row.id, done, total });
        },
      ),
    };
    this.making.set(row.id, making);
    if (this.isHeld) making.job.hold(true);
    return making;
  }

  /** While somebody looks through footage, the processor is theirs; whoever looks for long shares it, so that nothing is given up. */
  private hold(hold: boolean): void {
    if (this.isHeld === hold || (hold && Date.now() < this.sharedUntil)) return;
    this.isHeld = hold;
    clearTimeout(this.longest);
    if (hold)
      this.longest = setTimeout(() => {
        this.sharedUntil = Date.now() + HELD_MS;
        this.hold(false);
      }, HELD_MS).unref();
    for (const { job } of this.making.values()) job.hold(hold);
  }

  stop(id: string): void {
    clearTimeout(this.looks.get(id));
    this.looks.delete(id);
    if (this.looks.size === 0) this.hold(false);
    const making = this.making.get(id);
    if (!making) return;
    making.isStopped = true;
    making.job.cancel();
  }

  /** Somebody looks at a frame: its piece comes first, once they stay. */
  lookAt(row: FootageRow, frame: number): void {
    clearTimeout(this.looks.get(row.id));
    const layout = layoutOf(row);
    const piece = layout.of(frame);
    this.hold(true);
    const settle = () => {
      this.looks.delete(row.id);
      if (this.looks.size === 0) this.hold(false);
      // Once it is whole, its pieces go before all is done.
      const there = [pieceFile(this.paths.at(row.id, PIECES), piece), this.paths.at(row.id, PROXY)];
      if (there.some((file) => existsSync(file))) return;
      const making = this.making.get(row.id);
      if (making) this.goTo(making, layout, piece);
      else this.wanted.set(row.id, piece);
    };
    this.looks.set(row.id, setTimeout(settle, SETTLED_MS).unref());
  }

  /** What is being made goes on at a piece, unless it comes to it soon by itself. */
  private goTo(making: Making, layout: PieceLayout, piece: number): void {
    if (making.isStopped) return;
    if (making.next !== undefined) {
      making.next = piece;
      return;
    }
    const now = (making.from + Math.floor(making.done / layout.frames)) % layout.count;
    if (piece >= now && piece <= now + SOON) return;
    making.next = piece;
    making.job.cancel();
  }

  /** The pieces that are there: how many frames each has but the last, and their numbers. */
  async pieces(row: FootageRow): Promise<{ frames: number; made: number[] }> {
    return { frames: layoutOf(row).frames, made: await madePieces(this.paths.at(row.id, PIECES)) };
  }

  pieceFile(row: FootageRow, piece: number): string {
    return pieceFile(this.paths.at(row.id, PIECES), piece);
  }
}

const layoutOf = (row: FootageRow): PieceLayout => piecesOf(factsOf(row).picture!);
