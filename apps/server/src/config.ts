import { existsSync, mkdirSync, statSync } from 'node:fs';
import { delimiter, dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

/** Short ones can be guessed. */
const MIN_TOKEN_LENGTH = 16;

/** A disk may be away, so that the folder need not be there now. Throws for what is a file, and for no name at all. */
function checkedFolder(folder: string): string {
  if (folder === '' || folder.startsWith('--')) throw new Error('--media: needs a folder behind it');
  const place = resolve(folder);
  if (existsSync(place) && !statSync(place).isDirectory()) throw new Error(`--media: ${place} is not a folder`);
  return place;
}

/** Where things are and how the server was started. */
export class Config {
  readonly port: number;
  /** The address it listens on. */
  readonly host: string;
  readonly beyondLoopback: boolean;
  /** What whoever asks must know; always there beyond loopback. */
  readonly token: string | undefined;
  /** Names it goes by in a network. */
  readonly names: readonly string[];
  readonly data: string;
  /** The most the motion between frames may take on disk, bytes. */
  readonly motionBytes: number;
  /** Where the queue for other machines is, redis://…; none: this server makes its renders itself. */
  readonly redis: string | undefined;
  /** Folders that footage may be taken from where it lies. */
  readonly media: readonly string[];
  /** Whether the page shows what is in them: on this machine; beyond it only where that was said. */
  readonly showsMedia: boolean;
  readonly demo: boolean;
  readonly dev: boolean;
  readonly root = join(dirname(fileURLToPath(import.meta.url)), '../../..');

  constructor(args: readonly string[], env: NodeJS.ProcessEnv) {
    const option = (name: string) => {
      const at = args.indexOf(`--${name}`);
      return at >= 0 ? args[at + 1] : undefined;
    };
    const port = option('port') ?? env['IDLE_BEND_PORT'] ?? '4717';
    if (!/^\d{1,5}$/.test(port) || Number(port) > 65535) throw new Error(`--port: "${port}" is not a port number`);
    this.port = Number(port);
    this.host = option('host') ?? env['IDLE_BEND_HOST'] ?? '127.0.0.1';
    this.beyondLoopback = !['127.0.0.1', '::1', 'localhost'].includes(this.host);
    this.token = env['IDLE_BEND_TOKEN'] || undefined;
    if (this.beyondLoopback && this.token === undefined)
      throw new Error('--host: beyond this machine a token is needed; set IDLE_BEND_TOKEN');
    if (this.token !== undefined && this.token.length < MIN_TOKEN_LENGTH)
      throw new Error(`IDLE_BEND_TOKEN: needs at least ${MIN_TOKEN_LENGTH} characters`);
    this.names = (env['IDLE_BEND_NAMES'] ?? '')
      .split(/[\s,]+/)
      .filter((name) => name !== '')
      .map((name) => name.toLowerCase());
    this.data = resolve(option('data') ?? env['IDLE_BEND_DATA'] ?? join(this.root, '.data'));
    const most = option('motion-cache') ?? env['IDLE_BEND_MOTION_CACHE'] ?? '4096';
    if (!/^\d{1,7}$/.test(most)) throw new Error(`--motion-cache: "${most}" is not a size in MiB`);
    this.motionBytes = Number(most) * 2 ** 20;
    this.redis = env['IDLE_BEND_REDIS'] || undefined;
    if (this.redis !== undefined && !/^rediss?:\/\//.test(this.redis))
      throw new Error('IDLE_BEND_REDIS: is not a redis:// address');
    const told = args.flatMap((arg, i) => (arg === '--media' ? [args[i + 1] ?? ''] : []));
    const folders = told.length > 0 ? told : (env['IDLE_BEND_MEDIA'] ?? '').split(delimiter).filter((f) => f !== '');
    this.media = [...new Set(folders.map((folder) => checkedFolder(folder)))];
    this.showsMedia = !this.beyondLoopback || args.includes('--share-media');
    this.demo = args.includes('--demo');
    this.dev = args.includes('--dev');
    for (const folder of [
      this.mediaFolder,
      this.uploadFolder,
      this.renderFolder,
      this.watchedFolder,
      this.backupFolder,
    ])
      mkdirSync(folder, { recursive: true });
  }

  get mediaFolder(): string {
    return join(this.data, 'media');
  }
  get uploadFolder(): string {
    return join(this.data, 'uploads');
  }
  get renderFolder(): string {
    return join(this.data, 'renders');
  }
  /** Files put into a folder named after a project's id here are imported into it. */
  get watchedFolder(): string {
    return join(this.data, 'watched');
  }
  /** Earlier states of projects. */
  get backupFolder(): string {
    return join(this.data, 'backups');
  }
  /** Motion between frames, kept so that it is found once; everything in it may be deleted at any time. */
  get motionFolder(): string {
    return join(this.data, 'motion');
  }
  get database(): string {
    return join(this.data, 'idle-bend.sqlite');
  }
}
