import { existsSync, renameSync } from 'node:fs';
import { Sequelize } from 'sequelize-typescript';
import { DataTypes } from 'sequelize';
import { SequelizeStorage, Umzug, type RunnableMigration } from 'umzug';
import { ChunkRow, FootageRow, ProjectRow, RenderRow, ShapeRow, WatchedRow } from './rows.js';

const text = { type: DataTypes.TEXT, allowNull: false };
const id = { type: DataTypes.STRING, primaryKey: true };
const times = { createdAt: DataTypes.DATE, updatedAt: DataTypes.DATE };

const MIGRATIONS: RunnableMigration<Sequelize>[] = [
  {
    name: '001-projects-footage-renders',
    up: async ({ context }) => {
      const q = context.getQueryInterface();
      await q.createTable('projects', {
        id,
        name: text,
        document: text,
        version: { type: DataTypes.INTEGER, allowNull: false },
        ...times,
      });
      await q.createTable('footage', {
        id,
        projectId: text,
        name: text,
        fileName: text,
        status: text,
        problem: DataTypes.TEXT,
        facts: text,
        ...times,
      });
      await q.createTable('renders', {
        id,
        projectId: text,
        fileName: text,
        container: text,
        status: text,
        problem: DataTypes.TEXT,
        document: text,
        frames: { type: DataTypes.INTEGER, allowNull: false },
        bytes: DataTypes.INTEGER,
        ...times,
      });
      await q.addIndex('footage', ['projectId']);
      await q.addIndex('renders', ['projectId']);
    },
  },
  {
    name: '002-health-shapes-range',
    up: async ({ context }) => {
      const q = context.getQueryInterface();
      await q.addColumn('footage', 'health', DataTypes.TEXT);
      await q.addColumn('renders', 'range', { type: DataTypes.STRING, allowNull: false, defaultValue: 'keep' });
      await q.createTable('shapes', { id, shape: text, ...times });
      // What was prepared before is looked at once more.
      await context.query(
        "UPDATE footage SET status = 'preparing' WHERE status = 'ready' AND facts LIKE '%\"picture\":{%'",
      );
    },
  },
  {
    name: '003-motion-and-levels',
    up: async ({ context }) => {
      const q = context.getQueryInterface();
      await q.addColumn('footage', 'motion', { type: DataTypes.STRING, allowNull: false, defaultValue: 'waiting' });
      await q.addColumn('renders', 'level', { type: DataTypes.STRING, allowNull: false, defaultValue: 'default' });
    },
  },
  {
    name: '004-sound',
    up: async ({ context }) => {
      await context
        .getQueryInterface()
        .addColumn('footage', 'sound', { type: DataTypes.STRING, allowNull: false, defaultValue: 'none' });
      await context.query("UPDATE footage SET sound = 'waiting' WHERE facts LIKE '%\"sound\":{%'");
    },
  },
  {
    name: '005-loudness',
    up: async ({ context }) => {
      await context.getQueryInterface().addColumn('renders', 'loudness', DataTypes.TEXT);
    },
  },
  {
    name: '006-chunks',
    up: async ({ context }) => {
      const q = context.getQueryInterface();
      const number = { type: DataTypes.INTEGER, allowNull: false };
      await q.renameTable('renders', 'renders_before');
      await q.createTable('renders', {
        id,
        projectId: text,
        fileName: text,
        settings: text,
        status: text,
        problem: DataTypes.TEXT,
        document: text,
        position: { type: DataTypes.DOUBLE, allowNull: false },
        first: number,
        frames: number,
        bytes: DataTypes.INTEGER,
        loudness: DataTypes.TEXT,
        ...times,
      });
      await context.query(`INSERT INTO renders (id, projectId, fileName, settings, status, problem, document, position, first, frames, bytes, loudness, createdAt, updatedAt)
        SELECT id, projectId, fileName, json_object('format', CASE container WHEN 'mkv' THEN 'ffv1' ELSE 'h264' END, 'quality', 'full', 'depth', 'source',
          'range', range, 'level', level, 'timecode', 'none', 'chapters', json('false')),
          CASE status WHEN 'queued' THEN 'cancelled' WHEN 'running' THEN 'cancelled' ELSE status END,
          problem, document, rowid, 0, frames, bytes, loudness, createdAt, updatedAt FROM renders_before`);
      await q.dropTable('renders_before');
      await q.addIndex('renders', ['projectId'], { name: 'renders_of_project' });
      await q.createTable('chunks', {
        id,
        renderId: text,
        number,
        first: number,
        end: number,
        status: text,
        cost: text,
        kind: text,
        seconds: DataTypes.DOUBLE,
        ...times,
      });
      await q.addIndex('chunks', ['renderId']);
    },
  },
  {
    name: '007-fingerprint',
    up: async ({ context }) => {
      await context.getQueryInterface().addColumn('footage', 'fingerprint', DataTypes.STRING);
    },
  },
  {
    name: '008-time-zero-and-colour',
    up: async ({ context }) => {
      // Sound counts from the first picture now, and high dynamic range is brought down by another curve: both are made once more.
      await context.query(
        "UPDATE footage SET sound = 'waiting' WHERE sound = 'ready' AND facts LIKE '%\"picture\":{%'",
      );
      await context.query(
        "UPDATE footage SET status = 'preparing' WHERE status = 'ready' AND facts LIKE '%\"highRange\":\"%'",
      );
    },
  },
  {
    name: '009-watched',
    up: async ({ context }) => {
      const q = context.getQueryInterface();
      await q.createTable('watched', {
        id,
        projectId: text,
        name: text,
        bytes: { type: DataTypes.BIGINT, allowNull: false },
        modifiedMs: { type: DataTypes.DOUBLE, allowNull: false },
        fingerprint: text,
        ...times,
      });
      await q.addIndex('watched', ['projectId'], { name: 'watched_of_project' });
    },
  },
  {
    name: '010-chunk-identity',
    up: async ({ context }) => {
      await context.getQueryInterface().addColumn('chunks', 'identity', DataTypes.STRING);
      await context.getQueryInterface().addColumn('renders', 'note', DataTypes.TEXT);
    },
  },
  {
    name: '011-bin',
    up: async ({ context }) => {
      await context.getQueryInterface().addColumn('projects', 'binnedAt', DataTypes.DATE);
    },
  },
  {
    name: '012-references',
    up: async ({ context }) => {
      await context.getQueryInterface().addColumn('footage', 'reference', DataTypes.TEXT);
    },
  },
  {
    name: '013-footage-in-the-bin',
    up: async ({ context }) => {
      await context.getQueryInterface().addColumn('footage', 'binnedAt', DataTypes.DATE);
    },
  },
  {
    name: '014-proxy-lines',
    up: async ({ context }) => {
      const lines = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 540 };
      await context.getQueryInterface().addColumn('projects', 'proxyLines', lines);
    },
  },
];

/**
 * Opens the database and brings its tables up to date. Write-ahead log with full synchronisation: what was
 * acknowledged is on disk, whenever the process ends. One that is damaged is set aside under another name, never deleted, and a new one
 * begun; `onDamage` is told where it is.
 */
export async function openDatabase(
  storage: string,
  onDamage: (setAside: string) => void = () => undefined,
): Promise<Sequelize> {
  try {
    return await opened(storage);
  } catch (error) {
    if (!isDamage(error)) throw error;
    const setAside = `${storage}.damaged-${Date.now()}`;
    for (const end of ['', '-wal', '-shm']) if (existsSync(storage + end)) renameSync(storage + end, setAside + end);
    onDamage(setAside);
    return opened(storage);
  }
}

async function opened(storage: string): Promise<Sequelize> {
  const database = new Sequelize({
    dialect: 'sqlite',
    storage,
    logging: false,
    models: [ProjectRow, FootageRow, RenderRow, ChunkRow, ShapeRow, WatchedRow],
  });
  try {
    await database.query('PRAGMA journal_mode = WAL');
    await database.query('PRAGMA synchronous = FULL');
    const [rows] = (await database.query('PRAGMA quick_check(1)')) as [{ quick_check: string }[], unknown];
    if (rows[0]?.quick_check !== 'ok') throw new Error('SQLITE_CORRUPT: the check of the database found it damaged');
    await new Umzug({
      migrations: MIGRATIONS,
      context: database,
      storage: new SequelizeStorage({ sequelize: database }),
      logger: undefined,
    }).up();
  } catch (error) {
    await database.close();
    throw error;
  }
  return database;
}

const isDamage = (error: unknown) =>
  /SQLITE_CORRUPT|SQLITE_NOTADB|not a database|malformed/.test(String((error as Error).message));
