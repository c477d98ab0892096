import type { FootageStatus, MotionStatus, RenderStatus, SoundStatus } from '@idle-bend/core/api';
import type { ProxyLines } from '@idle-bend/core/proxy';
import { Column, DataType, DefaultScope, Model, PrimaryKey, Table } from 'sequelize-typescript';

@Table({ tableName: 'projects' })
export class ProjectRow extends Model {
  @PrimaryKey @Column(DataType.STRING) declare id: string;
  @Column(DataType.STRING) declare name: string;
  /** The project document as JSON text. */
  @Column(DataType.TEXT) declare document: string;
  /** Grows by one with every kept change. */
  @Column(DataType.INTEGER) declare version: number;
  /** When it was put into the bin; null: it is not there. */
  @Column(DataType.DATE) declare binnedAt: Date | null;
  /** How many lines its proxies have at most. */
  @Column(DataType.INTEGER) declare proxyLines: ProxyLines;
}

/** What is in the bin is found by `unscoped` only. */
@DefaultScope(() => ({ where: { binnedAt: null } }))
@Table({ tableName: 'footage' })
export class FootageRow extends Model {
  @PrimaryKey @Column(DataType.STRING) declare id: string;
  @Column(DataType.STRING) declare projectId: string;
  @Column(DataType.STRING) declare name: string;
  /** Name of the original inside the footage's own folder. */
  @Column(DataType.STRING) declare fileName: string;
  @Column(DataType.STRING) declare status: FootageStatus;
  @Column(DataType.TEXT) declare problem: string | null;
  /** Facts for the interface, as JSON text (see `FootageFacts`). */
  @Column(DataType.TEXT) declare facts: string;
  /** What looking at the pictures found, as JSON text (see `Health`); none before the proxy is made. */
  @Column(DataType.TEXT) declare health: string | null;
  /** Where its original lies, when that is no copy of ours, as JSON text (see `FileReference`). */
  @Column(DataType.TEXT) declare reference: string | null;
  /** Tells its original from others (see `fingerprintOf`); none of footage from before that was kept. */
  @Column(DataType.STRING) declare fingerprint: string | null;
  /** Whether the motion of its pictures was looked at; what was found is a file beside the proxy. */
  @Column(DataType.STRING) declare motion: MotionStatus;
  /** Whether its sound was listened to; what was heard is files beside the original. */
  @Column(DataType.STRING) declare sound: SoundStatus;
  /** When it was put into the bin by itself; null: it is not there. */
  @Column(DataType.DATE) declare binnedAt: Date | null;
}

@Table({ tableName: 'renders' })
export class RenderRow extends Model {
  @PrimaryKey @Column(DataType.STRING) declare id: string;
  @Column(DataType.STRING) declare projectId: string;
  @Column(DataType.STRING) declare fileName: string;
  /** `RenderSettings` as JSON text. */
  @Column(DataType.TEXT) declare settings: string;
  @Column(DataType.STRING) declare status: RenderStatus;
  @Column(DataType.TEXT) declare problem: string | null;
  /** The document as it was when the render was asked for; its range is what is rendered. */
  @Column(DataType.TEXT) declare document: string;
  /** Where it stands in the queue: the least comes first. */
  @Column(DataType.DOUBLE) declare position: number;
  /** The first frame of the reel it is of, and how many. */
  @Column(DataType.INTEGER) declare first: number;
  @Column(DataType.INTEGER) declare frames: number;
  @Column(DataType.INTEGER) declare bytes: number | null;
  /** How loud it is, as JSON text (see `Loudness`). */
  @Column(DataType.TEXT) declare loudness: string | null;
  /** What its editor should know of how it was made. */
  @Column(DataType.TEXT) declare note: string | null;
}

/** A part of a render that is made by itself; it stays known after the render is done, for how long it took. */
@Table({ tableName: 'chunks' })
export class ChunkRow extends Model {
  @PrimaryKey @Column(DataType.STRING) declare id: string;
  @Column(DataType.STRING) declare renderId: string;
  @Column(DataType.INTEGER) declare number: number;
  /** Frames of the reel: the first, and the one past the last. */
  @Column(DataType.INTEGER) declare first: number;
  @Column(DataType.INTEGER) declare end: number;
  @Column(DataType.STRING) declare status: 'waiting' | 'done';
  /** What it asked for, as JSON text (see `RenderCost`), of what kind it is, and how long it took. */
  @Column(DataType.TEXT) declare cost: string;
  @Column(DataType.STRING) declare kind: string;
  @Column(DataType.DOUBLE) declare seconds: number | null;
  /** What its pictures depended on when it was made (see `chunkIdentities`). */
  @Column(DataType.STRING) declare identity: string | null;
}

/** A file of a watched folder that was taken in: it is not taken again when it, or its footage, gets another name. */
@Table({ tableName: 'watched' })
export class WatchedRow extends Model {
  @PrimaryKey @Column(DataType.STRING) declare id: string;
  @Column(DataType.STRING) declare projectId: string;
  @Column(DataType.STRING) declare name: string;
  @Column(DataType.BIGINT) declare bytes: number;
  @Column(DataType.DOUBLE) declare modifiedMs: number;
  @Column(DataType.STRING) declare fingerprint: string;
}

@Table({ tableName: 'shapes' })
export class ShapeRow extends Model {
  @PrimaryKey @Column(DataType.STRING) declare id: string;
  /** The shape as JSON text (see `SavedShape`). */
  @Column(DataType.TEXT) declare shape: string;
}
