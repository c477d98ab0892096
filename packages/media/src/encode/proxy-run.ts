import type { HealthRecords } from '@idle-bend/core/health';
import type { PieceLayout } from '@idle-bend/core/proxy';
import type { OpenedSource } from '../probe/source.js';
import type { ProxySize } from './proxy.js';

/** Pieces of a proxy one after another, up to but not with the last. */
export interface Run {
  readonly first: number;
  readonly after: number;
}

interface RunChoice {
  /** Of the proxy's pictures. */
  readonly size: ProxySize;
  readonly onFrame: () => void;
  /** A piece is whole: where it lies, and what was seen in its pictures. */
  readonly onPiece: (piece: number, file: string, records: HealthRecords) => Promise<void>;
  readonly signal?: AbortSignal | undefined;
}

/** Makes pieces in a folder, as files that begin with a dot; returns the first it could not make, `after` when all are made. */
export type RunMaker = (
  source: OpenedSource,
  layout: PieceLayout,
  run: Run,
  folder: string,
  choice: RunChoice,
) => Promise<number>;
