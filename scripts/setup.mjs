// Installs what is missing: npm packages, ffmpeg, Chromium. Uses only what Node brings.
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');
process.chdir(root);

/** Milliseconds after which something is long enough to be spoken of, and between two lines that say how long it has taken. */
const SPOKEN_OF_MS = 1000;
const BEAT_MS = 5000;

/** Does what may take long, and says so, and every few seconds for how long it has, of about so many seconds. */
export async function saying(what, about, work) {
  // A process of its own, for what is waited for here may keep this one from saying anything. It ends with this one, whatever happens.
  const beat = `
    process.stdin.resume().on('end', () => process.exit());
    setTimeout(() => console.log('· ${what}'), ${SPOKEN_OF_MS});
    let beats = 0;
    setInterval(() => console.log('  ' + (++beats * ${BEAT_MS / 1000}) + ' s of about ${about}'), ${BEAT_MS});`;
  const beating = spawn(process.execPath, ['-e', beat], { stdio: ['pipe', 'inherit', 'ignore'] });
  try {
    return await work();
  } finally {
    beating.kill();
  }
}

export function run(command, args, options = {}) {
  const { status, error } = spawnSync(command, args, { stdio: 'inherit', ...options });
  if (error) throw error;
  if (status !== 0) {
    console.error(`\n${command} ${args.join(' ')} failed (exit code ${status}).`);
    process.exit(1);
  }
}

/** Runs commands two at a time; what each printed is shown when it ends. The first that fails ends everything. */
export async function runTogether(commands) {
  const waiting = [...commands];
  const next = async () => {
    for (let command = waiting.shift(); command; command = waiting.shift()) {
      const [program, ...args] = command;
      const child = spawn(program, args, { stdio: ['ignore', 'pipe', 'pipe'] });
      let said = '';
      for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => (said += text));
      const status = await new Promise((resolve, reject) => child.once('error', reject).once('close', resolve));
      process.stdout.write(said);
      if (status === 0) continue;
      console.error(`\n${command.join(' ')} failed (exit code ${status}).`);
      process.exit(1);
    }
  };
  await Promise.all([next(), next()]);
}

/** npm ci, once for each state of the lock file. */
export async function installPackages() {
  const stamp = join(root, 'node_modules/.idle-bend-installed');
  const state = createHash('sha256').update(readFileSync('package-lock.json')).update(process.version).digest('hex');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === state) return;
  // Against the system's SQLite, where its headers are there, sqlite3 compiles in half a minute.
  const system = existsSync('/usr/include/sqlite3.h');
  const sqlite = system ? { npm_config_build_from_source: 'true', npm_config_sqlite: '/usr' } : {};
  await saying('installing packages; the database driver is compiled once', system ? 70 : 180, () =>
    run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], {
      env: { ...process.env, ...sqlite, NODE_OPTIONS: '' },
    }),
  );
  writeFileSync(stamp, state);
}

const has = (program) => spawnSync('sh', ['-c', `command -v ${program}`]).status === 0;

/** Programs from Debian's packages: [program, package, environment variable that may name it instead]. */
export async function installPrograms(wanted) {
  const missing = wanted.filter(([program, , variable]) => !(variable && process.env[variable]) && !has(program));
  if (missing.length === 0) return;
  const packages = [...new Set(missing.map(([, name]) => name))];
  const command = `apt-get update && apt-get install -y --no-install-recommends ${packages.join(' ')}`;
  if (!has('apt-get') || process.getuid?.() !== 0) {
    console.error(
      `Missing: ${missing.map(([program]) => program).join(', ')}. Install them first, for example as root:\n  ${command}`,
    );
    process.exit(1);
  }
  const quiet = { stdio: ['ignore', 'ignore', 'inherit'], env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } };
  await saying(`installing ${packages.join(', ')}`, 60, () => {
    execFileSync('apt-get', ['update', '-qq'], quiet);
    execFileSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...packages], quiet);
  });
}

export const MEDIA_PROGRAMS = [
  ['ffmpeg', 'ffmpeg', 'IDLE_BEND_FFMPEG'],
  ['ffprobe', 'ffmpeg', 'IDLE_BEND_FFPROBE'],
];
export const BROWSER = [['chromium', 'chromium', 'IDLE_BEND_CHROMIUM']];

/** For tests of renders on more than one machine. */
export const QUEUE = [['redis-server', 'redis-server', undefined]];
