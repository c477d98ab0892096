import { execFileSync, spawn } from 'node:child_process';
import { linkSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { joinPieces, openSource, writePieces } from '@idle-bend/media';
import { median, times } from './measure.mjs';

export const about =
  'Arriving: ten minutes of 4K at 60 fps taken in where they lie, a folder of 1,000 clips, proxies against plain ffmpeg';

/** A few seconds are coded, and lengthened by copying. */
const SECONDS = 4;
const COPIES = 150;
const CLIPS = 1000;
const LOOKS = 20;
/** Scaled as proxies are, and coded as they are. */
const SCALE = 'scale=960:540:flags=bicubic+accurate_rnd+full_chroma_int';
const CODING =
  '-c:v libx264 -preset veryfast -tune fastdecode -crf 20 -g 12 -keyint_min 12 -sc_threshold 0 -bf 0'.split(' ');

const ffmpeg = (...args) => execFileSync('ffmpeg', ['-v', 'error', '-nostdin', '-y', ...args]);
const timed = async (work) => {
  const start = performance.now();
  const result = await work();
  return { seconds: (performance.now() - start) / 1000, result };
};

/** H.264 of 45 Mb/s with a key frame every half a second; HEVC of 10 bit. */
const H264 = '-c:v libx264 -preset ultrafast -g 30 -bf 2 -b:v 45M -pix_fmt yuv420p'.split(' ');
const HEVC =
  '-c:v libx265 -preset ultrafast -pix_fmt yuv420p10le -b:v 45M -tag:v hvc1 -x265-params log-level=none:keyint=30'.split(
    ' ',
  );
/** What they are in; those whose containers keep no list of their frames are estimated first. */
const KINDS = [
  { kind: 'H.264', coding: H264, ending: 'mp4' },
  { kind: 'HEVC 10 bit', coding: HEVC, ending: 'mp4' },
  { kind: 'H.264, MPEG-TS', coding: H264, ending: 'ts' },
  { kind: 'H.264, AVI', coding: [...H264, '-bf', '0'], ending: 'avi' },
  { kind: 'H.264, MXF', coding: H264, ending: 'mxf' },
];

/** Ten minutes, coded once and copied on, each copy where the one before ends. */
function longFilm(folder, name, coding, ending) {
  const piece = join(folder, `piece.${ending}`);
  ffmpeg('-f', 'lavfi', '-i', `testsrc2=size=3840x2160:rate=60`, '-t', String(SECONDS), ...coding, piece);
  writeFileSync(join(folder, 'list.txt'), `file '${piece}'\nduration ${SECONDS}\n`.repeat(COPIES));
  const file = join(folder, 'card', name);
  ffmpeg('-f', 'concat', '-safe', '0', '-i', join(folder, 'list.txt'), '-c', 'copy', file);
  rmSync(piece);
  return file;
}

const bytesIn = (place) =>
  readdirSync(place, { recursive: true, withFileTypes: true }).reduce(
    (sum, entry) => sum + (entry.isFile() ? statSync(join(entry.parentPath, entry.name)).size : 0),
    0,
  );

export async function run() {
  const folder = mkdtempSync(join(tmpdir(), 'idle-bend-arrive-'));
  mkdirSync(join(folder, 'card', 'many'), { recursive: true });
  const films = readdirSync('demo/footage').filter((name) => name.endsWith('.mp4'));
  for (const name of films) writeFileSync(join(folder, 'card', name), readFileSync(join('demo/footage', name)));
  for (let i = 0; i < CLIPS; i++)
    linkSync(join(folder, 'card', films[i % films.length]), join(folder, 'card', 'many', `take ${i}.mp4`));
  const args = [
    'apps/server/dist/main.js',
    '--port',
    '0',
    '--data',
    join(folder, 'data'),
    '--media',
    join(folder, 'card'),
  ];
  const server = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'inherit'] });
  try {
    const url = await new Promise((resolve) =>
      server.stdout.on('data', (d) => /http:\S+:\d+/.test(d) && resolve(/http:\S+:\d+/.exec(d)[0])),
    );
    const rows = await folderOf(url);
    for (const each of KINDS) rows.push(...(await arriving(url, folder, each)));
    return [...rows, ...(await proxies())];
  } finally {
    server.kill();
    rmSync(folder, { recursive: true, force: true });
  }
}

/** What is coded here meanwhile would outlast a connection that is kept. */
const ONCE = { Connection: 'close' };

async function send(url, method, path, body) {
  const response = await fetch(`${url}/api/${path}`, {
    method,
    headers: { 'Content-Type': 'application/json', ...ONCE },
    body: body && JSON.stringify(body),
  });
  const answer = await response.json().catch(() => ({}));
  if (!response.ok) throw new Error(`${response.status} ${answer.message}`);
  return answer;
}

/** A folder of many clips: its list, with facts, as the page asks for them. */
async function folderOf(url) {
  const [{ id: root }] = await send(url, 'GET', 'media');
  const { seconds, result } = await timed(async () => {
    const { files } = await send(url, 'GET', `media/${root}/folder?path=many`);
    const paths = files.map(({ name }) => `many/${name}`);
    const parts = Array.from({ length: Math.ceil(paths.length / 200) }, (_, i) => paths.slice(i * 200, (i + 1) * 200));
    const facts = await Promise.all(parts.map((some) => send(url, 'POST', `media/${root}/facts`, { paths: some })));
    return Object.values(Object.assign({}, ...facts)).filter(({ picture }) => picture).length;
  });
  const { id } = await send(url, 'POST', 'projects', { name: 'Marble Parade', rate: '24' });
  const all = await timed(() => send(url, 'POST', `projects/${id}/references`, { root, paths: ['many'] }));
  const { taken } = all.result;
  await send(url, 'DELETE', `projects/${id}`);
  await send(url, 'DELETE', `bin/${id}`);
  return [
    {
      what: `all ${taken.length} taken in, each with its frames`,
      value: `${all.seconds.toFixed(1)} s`,
      limit: '≤ 5 s',
      holds: taken.length === CLIPS && all.seconds <= 5,
    },
    {
      what: `list with facts of ${result} clips`,
      value: `${seconds.toFixed(1)} s`,
      limit: '≤ 5 s',
      holds: result === CLIPS && seconds <= 5,
    },
  ];
}

/** Counting that takes longer, because every frame has to be decoded, is not waited for. */
const COUNTED_MS = 60_000;

/** How many frames a project's footage has, once they are counted. */
async function countedOf(url, id) {
  for (const end = Date.now() + COUNTED_MS; Date.now() < end;) {
    const [{ facts }] = await send(url, 'GET', `projects/${id}/footage`);
    if (facts.picture.estimate.isCounted) return facts.picture.frames;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  return 'not yet';
}

async function arriving(url, folder, { kind, coding, ending }) {
  const name = `${kind.replace(/\W/g, '')}.${ending}`;
  const file = longFilm(folder, name, coding, ending);
  const probe = await timed(() => execFileSync('ffprobe', ['-v', 'error', '-show_format', '-show_streams', file]));
  const seek = await timed(() => ffmpeg('-ss', '300', '-i', file, '-frames:v', '1', '-f', 'null', '-'));
  const baseline = 3 * probe.seconds + seek.seconds;
  const { bytesRead, bytes } = JSON.parse(
    execFileSync(process.execPath, ['bin/idle-bend', 'inspect', '--quick', '--json', file], {
      maxBuffer: 2 ** 28,
    }).toString(),
  );
  const project = await send(url, 'POST', 'projects', { name: 'Marble Parade', rate: '24' });
  const [{ id: root }] = await send(url, 'GET', 'media');
  // As somebody sees the folder before taking something of it.
  await send(url, 'GET', `media/${root}/folder?path=`);
  await new Promise((resolve) => setTimeout(resolve, 1000));
  const before = bytesIn(join(folder, 'data'));
  const picture = async (id, n) =>
    (await fetch(`${url}/api/footage/${id}/pictures/${n}`, { headers: ONCE })).arrayBuffer();
  let taken;
  const first = await timed(async () => {
    const answer = await send(url, 'POST', `projects/${project.id}/references`, { root, paths: [name] });
    taken = answer.taken[0];
    await picture(taken.id, 0);
  });
  const disk = bytesIn(join(folder, 'data')) - before;
  const { frames, estimate } = taken.facts.picture;
  const megabytes = (n) => `${(n / 1e6).toFixed(2)} MB`;
  const rows = [
    {
      what: `${kind}: taken in and first frame shown`,
      value: `${first.seconds.toFixed(2)} s, ${times(first.seconds, baseline)} 3 × ffprobe and one seek`,
      limit: '≤ 2 s, ≤ 1 ×',
      holds: first.seconds <= 2 && first.seconds <= baseline,
    },
    {
      what: `${kind}: bytes that facts and frame list take`,
      value: `${megabytes(bytesRead)}, ${((100 * bytesRead) / bytes).toFixed(3)} % of the file`,
      limit: '≤ 2 %',
      holds: bytesRead <= 0.02 * bytes,
    },
    { what: `${kind}: disk used by taking it in`, value: megabytes(disk), limit: '< 1 MB', holds: disk < 1e6 },
  ];
  if (estimate) {
    // What follows is the same decoder's as of the same film in a container with a list.
    const { seconds, result } = await timed(() => countedOf(url, project.id));
    await send(url, 'DELETE', `projects/${project.id}`);
    await send(url, 'DELETE', `bin/${project.id}`);
    rmSync(file);
    const counted = `${estimate.frames}, ${result}; ${seconds.toFixed(1)} s`;
    return [...rows, { what: `${kind}: frames estimated; counted, and how much later`, value: counted }];
  }
  const looks = [];
  for (let i = 0; i < LOOKS; i++)
    looks.push((await timed(() => picture(taken.id, Math.floor((frames * ((i * 7) % LOOKS)) / LOOKS)))).seconds);
  looks.sort((a, b) => a - b);
  // A place nobody has been to: from the last look to its piece of the proxy, against plain ffmpeg making just that.
  const { frames: each } = await send(url, 'GET', `footage/${taken.id}/pieces`);
  const wanted = Math.floor(frames / each / 2) + 3;
  const piece = await timed(async () => {
    await picture(taken.id, wanted * each + 5);
    while (!(await send(url, 'GET', `footage/${taken.id}/pieces`)).made.includes(wanted))
      await new Promise((resolve) => setTimeout(resolve, 50));
  });
  await send(url, 'DELETE', `projects/${project.id}`);
  await send(url, 'DELETE', `bin/${project.id}`);
  const start = String((wanted * each) / 60);
  const plain = await timed(() =>
    ffmpeg(
      '-ss',
      start,
      '-i',
      file,
      '-frames:v',
      String(each),
      '-vf',
      SCALE,
      '-an',
      ...CODING,
      join(folder, 'plain.mp4'),
    ),
  );
  rmSync(file);
  return [
    ...rows,
    {
      what: `${kind}: a look anywhere before there is a proxy, p95`,
      value: `${(1000 * looks[Math.floor(0.95 * LOOKS)]).toFixed(0)} ms (median ${(1000 * median(looks)).toFixed(0)}; ffmpeg’s seek ${(1000 * seek.seconds).toFixed(0)})`,
      limit: '≤ 300 ms',
      holds: looks[Math.floor(0.95 * LOOKS)] <= 0.3,
    },
    {
      what: `${kind}: piece of the proxy at the playhead`,
      value: `${piece.seconds.toFixed(1)} s, ${times(piece.seconds, plain.seconds)} plain ffmpeg`,
      limit: '≤ 3 ×',
      holds: piece.seconds <= 3 * plain.seconds,
    },
  ];
}

/** Proxies of the demo's clips, one after another, against ffmpeg alone with the same settings. */
async function proxies() {
  const folder = mkdtempSync(join(tmpdir(), 'idle-bend-proxies-'));
  const films = readdirSync('demo/footage').flatMap((name) =>
    name.endsWith('.mp4') ? [join('demo/footage', name)] : [],
  );
  let [ours, plain] = [0, 0];
  for (const film of films) {
    // What its frames are was found out when it was taken in.
    const source = await openSource(film);
    const made = await timed(async () => {
      await writePieces(source, join(folder, 'pieces'), { from: 0, onFrame: () => undefined });
      await joinPieces(source, join(folder, 'pieces'), join(folder, 'proxy.mp4'));
    });
    ours += made.seconds;
    plain += (await timed(() => ffmpeg('-i', film, '-vf', SCALE, '-an', ...CODING, join(folder, 'plain.mp4')))).seconds;
  }
  rmSync(folder, { recursive: true, force: true });
  return [
    {
      what: `proxies of ${films.length} clips, looked at on the way`,
      value: `${times(plain, ours)} the throughput of plain ffmpeg`,
      limit: '≥ 0.85 ×',
      holds: plain >= 0.85 * ours,
    },
  ];
}
