import type { FlowLevel, FootageStatus, MotionStatus, RenderRange, RenderStatus, SoundStatus } from '@idle-bend/core';
import { Column, DataType, Model, PrimaryKey, Table } from 'sequelize-typescript';

@Table({ tableName: 'projects' })
export class ProjectRow extends Model {
  @PrimaryKey @Column(DataType.STRING) declare id: string;
  @Column(DataType.STRING) declare name: string;
  /** The project document as JSON text. */
  @Column(DataType.TEXT) declare document: string;
  /** Grows by one with every kept change. */
  @Column(DataType.INTEGER) declare version: number;
}

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
  /** Whether the motion of its pictures was looked at; what was found is a file beside the proxy. */
  @Column(DataType.STRING) declare motion: MotionStatus;
  /** Whether its sound was listened to; what was heard is files beside the original. */
  @Column(DataType.STRING) declare sound: SoundStatus;
}

@Table({ tableName: 'renders' })
export class RenderRow extends Model {
  @PrimaryKey @Column(DataType.STRING) declare id: string;
  @Column(DataType.STRING) declare projectId: string;
  @Column(DataType.STRING) declare fileName: string;
  @Column(DataType.STRING) declare container: string;
  /** What it does with high dynamic range (see `RenderRange`). */
  @Column(DataType.STRING) declare range: RenderRange;
  /** Quality of Flow's in-betweens. */
  @Column(DataType.STRING) declare level: FlowLevel;
  @Column(DataType.STRING) declare status: RenderStatus;
  @Column(DataType.TEXT) declare problem: string | null;
  /** The document as it was when the render was asked for. */
  @Column(DataType.TEXT) declare document: string;
  @Column(DataType.INTEGER) declare frames: number;
  @Column(DataType.INTEGER) declare bytes: number | null;
  /** How loud it is, as JSON text (see `Loudness`). */
  @Column(DataType.TEXT) declare loudness: string | null;
}

@Table({ tableName: 'shapes' })
export class ShapeRow extends Model {
  @PrimaryKey @Column(DataType.STRING) declare id: string;
  /** The shape as JSON text (see `SavedShape`). */
  @Column(DataType.TEXT) declare shape: string;
}
