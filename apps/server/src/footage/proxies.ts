import type { Health } from '@idle-bend/core/health';
import { piecesOf, type PieceLayout } from '@idle-bend/core/proxy';
import { Injectable } from '@nestjs/common';
import { madePieces, pieceFile } from '@idle-bend/media';
import { existsSync } from 'node:fs';
import { Events } from '../events/events.js';
import { runJob, type RunningJob } from '../jobs/job.js';
import type { FootageRow } from '../storage/rows.js';
import { Foreground } from './foreground.js';
import { factsOf, FootagePaths, PIECES, PROXY, STRIP } from './footage-paths.js';

/** A place is made first when it was looked at for so long, milliseconds: whoever drags across a film is not stopping anywhere. */
const SETTLED_MS = 350;

/** Proxies stand still for so long at most, and then go on for as long. */
const HELD_MS = 10_000;

/** So many pieces after the one that is being made are waited for; while a reel plays it comes to more of them by itself. */
const SOON = 1;
const SOON_PLAYING = 3;

/** Footage of which a picture was asked for so lately is in front of somebody, milliseconds. */
const IN_VIEW_MS = 15_000;

interface Making {
  job: RunningJob<Health>;
  isHeld: boolean;
  /** The piece it began with, and how many it has made since. */
  from: number;
  done: number;
  /** Where it is to go on instead. */
  next: number | undefined;
  /** The piece somebody waits for. */
  awaited: number | undefined;
  isStopped: boolean;
}

/**
 * Proxies that are being made piece by piece. For a piece that somebody waits for all others stand still; while a reel plays or renders, all
 * but those in front of somebody.
 */
@Injectable()
export class Proxies {
  private readonly making = new Map<string, Making>();
  /** The piece to begin with, of footage whose turn has not come. */
  private readonly wanted = new Map<string, number>();
  private readonly looks = new Map<string, NodeJS.Timeout>();
  private readonly inView = new Map<string, NodeJS.Timeout>();
  private isHeld = false;
  private longest: NodeJS.Timeout | undefined;
  private sharedUntil = 0;

  constructor(
    private readonly events: Events,
    private readonly paths: FootagePaths,
    private readonly foreground: Foreground,
  ) {
    foreground.onChange(() => this.holdAll());
  }

  /** Makes what is missing of a proxy, wherever it is wanted first. Rejects as its job does. */
  async make(row: FootageRow): Promise<Health> {
    let awaited = this.wanted.get(row.id);
    this.wanted.delete(row.id);
    let from = awaited ?? 0;
    for (;;) {
      const making = this.begin(row, from, awaited);
      try {
        return await making.job.result;
      } catch (error) {
        if (making.next === undefined || making.isStopped) throw error;
        from = making.next;
        awaited = making.awaited;
      } finally {
        this.making.delete(row.id);
        this.holdAll();
      }
    }
  }

  private begin(row: FootageRow, from: number, awaited: number | undefined): Making {
    let last = -1;
    const making: Making = {
      ...{ from, done: 0, awaited, next: undefined, isStopped: false, isHeld: false },
      job: runJob(
        'proxy',
        {
          original: this.paths.original(row),
          beside: this.paths.own(row),
          name: row.name,
          pieces: this.paths.at(row.id, PIECES),
          from,
          proxy: this.paths.at(row.id, PROXY),
          size: factsOf(row).picture!.proxy,
          strip: this.paths.at(row.id, STRIP),
        },
        (done, total) => {
          if (last >= 0) making.done += done - last;
          last = done;
          if (making.awaited !== undefined && existsSync(this.pieceFile(row, making.awaited))) this.awaitNoMore(making);
          this.events.tell(row.projectId, { kind: 'footage-progress', footageId: row.id, done, total });
        },
      ),
    };
    this.making.set(row.id, making);
    this.holdAll();
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
    this.holdAll();
  }

  /** Has every one stand still, or go on, as it now should. */
  private holdAll(): void {
    const isAwaited = [...this.making.values()].some(({ awaited }) => awaited !== undefined);
    for (const [id, making] of this.making) {
      const waits = (this.foreground.isBusy && !this.inView.has(id)) || (isAwaited && making.awaited === undefined);
      const hold = this.isHeld || waits;
      if (hold === making.isHeld) continue;
      making.isHeld = hold;
      making.job.hold(hold);
    }
  }

  stop(id: string): void {
    for (const times of [this.looks, this.inView]) {
      clearTimeout(times.get(id));
      times.delete(id);
    }
    if (this.looks.size === 0) this.hold(false);
    const making = this.making.get(id);
    if (!making) return;
    making.isStopped = true;
    making.job.cancel();
  }

  /** Somebody looks at a frame: its piece comes first, once they stay, or at once where it plays. */
  lookAt(row: FootageRow, frame: number): void {
    this.keepInView(row.id);
    clearTimeout(this.looks.get(row.id));
    const layout = layoutOf(row);
    const piece = layout.of(frame);
    const settle = () => {
      this.looks.delete(row.id);
      if (this.looks.size === 0) this.hold(false);
      // Once it is whole, its pieces go before all is done.
      const there = [pieceFile(this.paths.at(row.id, PIECES), piece), this.paths.at(row.id, PROXY)];
      if (there.some((file) => existsSync(file))) return;
      const making = this.making.get(row.id);
      if (making) {
        this.goTo(making, layout, piece);
        making.awaited = piece;
        this.holdAll();
      } else this.wanted.set(row.id, piece);
    };
    if (this.foreground.isPlaying) return settle();
    this.hold(true);
    this.looks.set(row.id, setTimeout(settle, SETTLED_MS).unref());
  }

  /** What stood still for a piece goes on. */
  private awaitNoMore(making: Making): void {
    making.awaited = undefined;
    this.holdAll();
  }

  private keepInView(id: string): void {
    const known = this.inView.get(id);
    clearTimeout(known);
    const end = () => {
      this.inView.delete(id);
      const making = this.making.get(id);
      if (making) this.awaitNoMore(making);
    };
    this.inView.set(id, setTimeout(end, IN_VIEW_MS).unref());
    if (!known) this.holdAll();
  }

  /** What is being made goes on at a piece, unless it comes to it soon by itself. */
  private goTo(making: Making, layout: PieceLayout, piece: number): void {
    if (making.isStopped) return;
    if (making.next !== undefined) {
      making.next = piece;
      return;
    }
    const { isPlaying } = this.foreground;
    // A playhead that moves is not followed piece by piece, or none would ever be whole.
    if (isPlaying && making.done < layout.frames) return;
    const now = (making.from + Math.floor(making.done / layout.frames)) % layout.count;
    if (piece >= now && piece <= now + (isPlaying ? SOON_PLAYING : SOON)) return;
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
