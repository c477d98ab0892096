import { createReadStream, existsSync } from 'node:fs';
import { readFile, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { Readable } from 'node:stream';
import { readFacts } from '@idle-bend/core/api';
import { renumberSource } from '@idle-bend/core/edit';
import type { OfferedFootage } from '@idle-bend/core/exchange';
import { array, InvalidInput, object, string, whole } from '@idle-bend/core/foundation';
import { footageOnReel } from '@idle-bend/core/group';
import { parseProject, type Project } from '@idle-bend/core/model';
import { rate } from '@idle-bend/core/time';
import { MediaError } from '@idle-bend/media';
import type { ProjectFile } from './project-file.js';

type Row = Readonly<Record<string, string | number | null>>;

/** Runs one query on a database that a server may be using, without ever writing to it. */
async function query(file: string, sql: string, values: readonly string[] = []): Promise<Row[]> {
  const { default: sqlite3 } = await import('sqlite3');
  return new Promise((resolve, reject) => {
    const database = new sqlite3.Database(file, sqlite3.OPEN_READONLY, (unreadable) => {
      if (unreadable) return reject(unreadable);
      database.all<Row>(sql, values, (error, rows) => {
        database.close();
        if (error) reject(error);
        else resolve(rows);
      });
    });
  });
}

/** The id of the project that `wanted` names in a data folder, by its id or its name. Throws `InvalidInput` naming what is there. */
function idOf(wanted: string, projects: readonly { readonly id: string; readonly name: string }[]): string {
  const byId = projects.find(({ id }) => id === wanted);
  if (byId) return byId.id;
  const named = projects.filter(({ name }) => name === wanted);
  if (named.length === 1) return named[0]!.id;
  if (named.length > 1) {
    const ids = named.map(({ id }) => id).join(', ');
    throw new InvalidInput(
      'PROJECT',
      `"${wanted}" is the name of ${named.length} projects; say which by its id: ${ids}`,
    );
  }
  const names = projects.map(({ name }) => `"${name}"`).join(', ');
  throw new InvalidInput(
    'PROJECT',
    `"${wanted}" is not in the data folder${names ? `, which has ${names}` : ', which has no projects'}`,
  );
}

/**
 * A project of a data folder with its media, read beside a server that may be running. Throws `InvalidInput`; without `needsFrames`
 * not for footage whose frames are still being counted.
 */
export async function openProjectIn(data: string, wanted: string, needsFrames: boolean): Promise<ProjectFile> {
  const database = join(data, 'idle-bend.sqlite');
  if (!existsSync(database))
    throw new InvalidInput('--data', `${data} is not a data folder: it has no idle-bend.sqlite`);
  try {
    // A folder that only an older server has had knows no bin.
    const [bin] = await query(
      database,
      "SELECT count(*) AS known FROM pragma_table_info('projects') WHERE name = 'binnedAt'",
    );
    const there = Number(bin!['known']) > 0 ? 'WHERE binnedAt IS NULL' : '';
    const projects = (await query(database, `SELECT id, name FROM projects ${there}`)).map(({ id, name }) => ({
      id: String(id),
      name: String(name),
    }));
    const id = idOf(wanted, projects);
    const [row] = await query(database, 'SELECT name, document FROM projects WHERE id = ?', [id]);
    const footage = await query(database, 'SELECT id, name, fileName, facts FROM footage WHERE projectId = ?', [id]);
    const place = (footageId: string, fileName: string) => join(data, 'media', footageId, fileName);
    const media = footage.map((one) => {
      const footageId = String(one['id']);
      return [footageId, { file: place(footageId, String(one['fileName'])), name: String(one['name']) }] as const;
    });
    const kept = parseProject(JSON.parse(String(row!['document'])));
    return {
      name: String(row!['name']),
      project: needsFrames ? footage.reduce(counted, kept) : kept,
      media: Object.fromEntries(media.filter(([, { file }]) => existsSync(file))),
      close: () => Promise.resolve(),
    };
  } catch (error) {
    if (error instanceof InvalidInput) throw error;
    throw new InvalidInput('--data', `${database} cannot be read: ${(error as Error).message}`);
  }
}

/** A project with the frames of some footage as they were counted, where no window has renumbered them since. Throws `InvalidInput`. */
function counted(project: Project, footage: Row): Project {
  const id = String(footage['id']);
  const { picture } = readFacts(JSON.parse(String(footage['facts'])), 'facts');
  if (!picture?.estimate) return project;
  if (picture.estimate.isCounted) return renumberSource(project, id, picture.estimate, picture);
  if (!footageOnReel(project).has(id)) return project;
  const problem = `the frames of "${String(footage['name'])}" are still being counted, which a running server does; try again when they are`;
  throw new InvalidInput('PROJECT', problem);
}

/** Whether a server holds the folder, by the lock it keeps in it for as long as it lives. */
async function isServed(data: string): Promise<boolean> {
  const file = join(data, 'server.lock');
  if (!existsSync(file)) return false;
  return query(file, 'SELECT count(*) FROM sqlite_master').then(
    () => false,
    (error: { code?: string }) => error.code === 'SQLITE_BUSY',
  );
}

/** How often a change is made again where others change the same project, and how long it waits, each time longer. */
const MAX_TRIES = 20;
const WAIT_MS = 10;

/** A running server, found by its data folder. Everything that is written into the folder goes through it. */
export class DataServer {
  private constructor(readonly url: string) {}

  /** Throws `MediaError` where no server runs on the folder. */
  static async of(data: string): Promise<DataServer> {
    const address = await readFile(join(data, 'server.json'), 'utf8').catch(() => undefined);
    if (address === undefined || !(await isServed(data)))
      throw new MediaError(
        `No server is running on ${data}, and only a server writes there: start one with --data ${data}.`,
      );
    return new DataServer(string(object(JSON.parse(address), 'server.json')['url'], 'server.json: url', 200));
  }

  async call(path: string, options: RequestInit = {}): Promise<Response> {
    const token = process.env['IDLE_BEND_TOKEN'];
    const headers = {
      ...(options.headers as Record<string, string>),
      ...(token ? { Authorization: `Bearer ${token}` } : {}),
    };
    return fetch(new URL(path, this.url), { ...options, headers }).catch((error: Error) => {
      throw new MediaError(
        `${this.url} does not answer: ${(error.cause as Error | undefined)?.message ?? error.message}.`,
      );
    });
  }

  /** What a request is answered with, as JSON. Throws `MediaError` with the server's sentence. */
  async json(path: string, options: RequestInit = {}): Promise<unknown> {
    const response = await this.call(path, options);
    if (!response.ok) throw new MediaError(`${this.url}: ${await sentenceOf(response)}`);
    return response.json();
  }

  async idOf(wanted: string): Promise<string> {
    const projects = array(await this.json('/api/projects'), 'projects', 1_000_000).map((one) => {
      const { id, name } = object(one, 'projects');
      return { id: string(id, 'projects: id', 200), name: string(name, 'projects: name', 200) };
    });
    return idOf(wanted, projects);
  }

  /** A project's footage, as a timeline that is imported may ask for it. */
  async footage(projectId: string): Promise<OfferedFootage[]> {
    return array(await this.json(`/api/projects/${projectId}/footage`), 'footage').flatMap((one) => {
      const { id, name, facts: all } = object(one, 'footage');
      const { picture, startTimecode } = object(all, 'footage: facts');
      if (picture === null) return [];
      const { frames, rate: native } = object(picture, 'footage: picture');
      const { num, den } = object(native, 'footage: rate');
      return {
        ...{
          id: string(id, 'footage: id'),
          name: string(name, 'footage: name'),
          frames: whole(frames, 'footage: frames'),
        },
        nativeRate: rate(whole(num, 'footage: rate'), whole(den, 'footage: rate')),
        startTimecode: startTimecode === null ? null : string(startTimecode, 'footage: start timecode'),
      };
    });
  }

  /** Changes a project's document; where others change it meanwhile, what they made of it is changed. */
  async edit(projectId: string, change: (project: Project) => Promise<Project>): Promise<void> {
    for (let tries = 1; ; tries++) {
      const { version, document } = object(await this.json(`/api/projects/${projectId}`), 'project');
      const changed = await change(parseProject(document));
      const body = JSON.stringify({ version, document: changed, by: 'idle-bend' });
      const response = await this.call(`/api/projects/${projectId}/document`, {
        method: 'PUT',
        headers: { 'Content-Type': 'application/json' },
        body,
      });
      if (response.ok) return;
      if (response.status !== 409 || tries === MAX_TRIES)
        throw new MediaError(`${this.url}: ${await sentenceOf(response)}`);
      await new Promise((resolve) => setTimeout(resolve, WAIT_MS * tries * Math.random()));
    }
  }

  /** Sends a bundle (tus 1.0), which becomes a project: its id, and whether that bundle had been imported before. */
  async sendBundle(file: string): Promise<{ readonly id: string; readonly again: boolean }> {
    const { size } = await stat(file).catch((error: Error) => {
      throw new InvalidInput(file, `cannot be read: ${error.message}`);
    });
    const tus = { 'Tus-Resumable': '1.0.0' };
    const named = Buffer.from(basename(file)).toString('base64');
    const metadata = `bundle ${Buffer.from('yes').toString('base64')},filename ${named}`;
    const created = await this.call('/api/uploads', {
      method: 'POST',
      headers: { ...tus, 'Upload-Length': String(size), 'Upload-Metadata': metadata },
    });
    if (!created.ok) throw new InvalidInput(file, await sentenceOf(created));
    const place = new URL(created.headers.get('location') ?? '', new URL('/api/uploads', this.url));
    const body = Readable.toWeb(createReadStream(file)) as never;
    const headers = {
      ...tus,
      'Upload-Offset': '0',
      'Content-Type': 'application/offset+octet-stream',
      'Content-Length': String(size),
    };
    const sent = await this.call(place.pathname, { method: 'PATCH', headers, body, duplex: 'half' } as RequestInit);
    if (!sent.ok) throw new InvalidInput(file, await sentenceOf(sent));
    return { id: sent.headers.get('x-project-id') ?? '', again: sent.headers.has('x-taken-again') };
  }
}

/** The sentence of an answer that refuses. */
async function sentenceOf(response: Response): Promise<string> {
  const text = await response.text();
  try {
    return string(object(JSON.parse(text), 'answer')['message'], 'message', 2000);
  } catch {
    return text || String(response.status);
  }
}
