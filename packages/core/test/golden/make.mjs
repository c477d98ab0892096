// node packages/core/test/golden/make.mjs VERSION COMMIT
// Writes the golden document of a version with the code of a commit that wrote that version, and what that code says every frame shows.
// Run once for each version of the document, at the last commit that writes it; what it wrote is never made again.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('../../../..', import.meta.url));
const [version, commit] = process.argv.slice(2);
const v = Number(version);
if (!Number.isInteger(v) || !commit) throw new Error('usage: make.mjs VERSION COMMIT');
const folder = mkdtempSync(join(tmpdir(), 'golden-'));
execFileSync('sh', [
  '-c',
  `git -C "${root}" archive ${commit} packages/core tsconfig.base.json | tar x -C "${folder}"`,
]);
symlinkSync(join(root, 'node_modules'), join(folder, 'node_modules'));
execFileSync(join(root, 'node_modules/.bin/tsc'), ['-p', join(folder, 'packages/core')], { stdio: 'inherit' });
const dist = join(folder, 'packages/core/dist');
// Since version 9 the core has a door for each folder instead of one for all.
const doors = existsSync(join(dist, 'index.js'))
  ? [join(dist, 'index.js')]
  : readdirSync(dist)
      .map((name) => join(dist, name, 'index.js'))
      .filter(existsSync);
const c = Object.assign({}, ...(await Promise.all(doors.map((door) => import(door)))));
/** The name a field or function has in this version; before version 9 the first. */
const named = (before, since) => (v >= 9 ? since : before);
const call = (before, since, ...rest) => c[named(before, since)](...rest);
const has = (name) => typeof c[name] === 'function';
const r = c.rate;

let p = c.emptyProject(r(24000, 1001), 1920, 1080);
const skips = v >= 3 ? { [named('skips', 'droppedRepeats')]: null } : {};
const src = (id, name, frames, rate, readAs = rate) => ({
  id,
  name,
  frames,
  nativeRate: rate,
  readAs,
  moments: [],
  ...skips,
});
p = c.addSource(p, src('bell', 'marble-bell', 360, r(120)));
p = c.addSource(p, src('dominoes', 'dominoes', 480, r(60000, 1001), r(24000, 1001)));
p = c.addSource(p, src('whirligig', 'whirligig', 120, r(25)));
p = c.appendClip(p, 'c1', 'bell');
p = c.appendClip(p, 'c2', 'dominoes');
p = c.appendClip(p, 'c3', 'whirligig');
p = c.appendClip(p, 'c4', 'bell');
const bends = (n, list) => Array.from({ length: n }, (_, i) => list[i] ?? { widthFrames: 0, ease: 'soft' });
const map = (pts, list = {}) => ({ vertices: pts.map(([t, s]) => ({ t, s })), bends: bends(pts.length, list) });
const bent = map(
  [
    [0, 10],
    [20, 110],
    [44, 134],
    [50, 134],
    [62, 84],
    [72, 134],
  ],
  {
    1: { widthFrames: 10, ease: 'silk' },
    2: { widthFrames: 4, ease: [0.3, 0, 0.7, 1] },
    4: { widthFrames: 6, ease: 'late' },
  },
);
const withMap = (clip, m) => (has('withMap') ? c.withMap(clip, m) : { ...clip, map: m });
p = c.updateClip(p, 'c1', (clip) => ({ ...withMap(clip, bent), method: v >= 3 ? 'flow' : 'mix', end: 'black' }));
p = c.updateClip(p, 'c2', (clip) => ({ ...clip, method: 'mix', end: 'loop' }));
p = c.updateClip(p, 'c3', (clip) => ({
  ...withMap(
    clip,
    map([
      [0, 119],
      [60.5, 0],
    ]),
  ),
  end: 'hold',
  name: 'whirligig backwards',
}));
p = c.addMoment(p, 'bell', { id: 'm1', frame: 121, name: 'marble meets bell' });
p = c.addMoment(p, 'dominoes', { id: 'm2', frame: 200, name: 'last domino' });
p = c.addCue(p, { id: 'q1', frame: 32, name: 'bell', ...(v >= 5 && { beat: null }) });
p = c.addCue(p, { id: 'q2', frame: 100.25, name: '', ...(v >= 5 && { beat: null }) });
if (has('tie')) p = c.tie(p, 'c1', 'm1', 'q1');
if (v >= 3) {
  p = c.keepVersion(p, 'c1', 'ver1', 'as it was shot');
  p = c.lockReach(p, 'c1', 2, true);
  p = c.updateClip(p, 'c1', (clip) => ({ ...clip, limits: { slowest: 0.1, fastest: 8 } }));
  p = call('setSkips', 'setDroppedRepeats', p, 'dominoes', { mode: 'keep', repeats: [3, 7, 8, 200] });
  p = call('setSkips', 'setDroppedRepeats', p, 'whirligig', { mode: 'close', repeats: [2, 4, 6] });
}
if (v >= 4) {
  p = { ...p, reel: { ...p.reel, method: 'mix', [named('temper', 'tuning')]: { trust: 0.25, keenness: -0.5 } } };
  p = c.setReachMethod(p, 'c1', 1, 'step');
  p = c.setReachMethod(p, 'c1', 4, 'mix');
  p = c.updateClip(p, 'c1', (clip) => ({
    ...clip,
    [named('temper', 'tuning')]: { trust: 0.5, keenness: 0.5 },
    mends: [{ id: 'd1', from: 112, to: 118, way: 'mix', soft: 2 }],
  }));
  p = c.updateClip(p, 'c4', (clip) => ({ ...clip, method: null }));
}
if (v >= 5) {
  p = c.addSound(p, {
    id: 's1',
    footageId: 'march',
    name: 'parade-march',
    [named('start', 'startSeconds')]: 0.5,
    [named('from', 'fromSeconds')]: 1,
    [named('to', 'toSeconds')]: 20,
    [named('gain', 'gainDb')]: -3,
    [named('fadeIn', 'fadeInSeconds')]: 0.25,
    [named('fadeOut', 'fadeOutSeconds')]: 1,
    beats: null,
  });
  p = c.setBeats(p, 's1', { times: [1.5, 2, 2.5, 3, 3.5], bar: { beats: 4, first: 1 } });
  p = c.addCue(p, {
    id: 'q3',
    frame: c.frameOfSecond(p, p.reel.sounds[0], 3),
    name: 'beat',
    beat: { soundId: 's1', second: 3 },
  });
  p = c.insertGap(p, 2, 'g1', 7);
  const cut = c.placeOf(p, 'c3').start;
  p = c.addCue(p, { id: 'q4', frame: cut + 3, name: 'cut', beat: null });
  p = c.pinClip(p, 'c3', 'q4');
  p = c.setFills(p, 'c2', true);
  p = call('settleReel', 'reconcileReel', p);
}
if (v >= 6) {
  p = c.setFraming(p, 'c2', { fit: 'fill', scale: 1.25, x: 0.1, y: -0.05 });
  p = c.appendClip(p, 'c5', 'dominoes');
  p = c.appendClip(p, 'c6', 'whirligig');
  p = call('bindItems', 'groupItems', p, ['c4', 'c5'], { clipId: 'grp', sourceId: 'grp-s', name: 'inner' });
  p = c.updateClip(p, 'grp', (clip) =>
    c.withMap(clip, {
      vertices: [
        { t: 0, s: 0 },
        { t: 30, s: 60 },
        { t: 50, s: 70 },
      ],
      bends: bends(3, { 1: { widthFrames: 8, ease: 'soft' } }),
    }),
  );
  p = call('bindItems', 'groupItems', p, ['grp', 'c6'], { clipId: 'outer', sourceId: 'outer-s', name: 'outer' });
  p = c.updateClip(p, 'outer', (clip) =>
    c.withMap(clip, {
      vertices: [
        { t: 0, s: 100 },
        { t: 80, s: 10 },
      ],
      bends: bends(2, {}),
    }),
  );
  p = c.setReelRange(p, { from: 12, to: 90 });
}
if (v >= 7) {
  p = c.setReelBlur(p, { kind: 'shutter', angle: 180, always: false });
  p = c.setClipBlur(p, 'c2', { kind: 'smear', strength: 1, fade: 2, always: true });
  p = c.setCeiling(p, -1);
  p = c.setClipSound(p, 'c1', {
    mode: 'keep',
    freeze: 'grain',
    [named('gain', 'gainDb')]: -6,
    [named('fadeIn', 'fadeInSeconds')]: 0.1,
    [named('fadeOut', 'fadeOutSeconds')]: 0.2,
    reaches: [],
  });
  p = c.setReachSound(p, 'c1', 1, 'mute');
  const still = { scale: 1, angle: 0, x: 0, y: 0 };
  p = c.setSteady(p, 'c1', {
    from: 20,
    to: 22,
    keeps: 'still',
    patch: { x: 0, y: 0, size: 0.2 },
    scale: 1.05,
    path: [{ ...still }, { ...still, x: 0.01 }, { ...still, x: 0.02, y: 0.005 }],
  });
  p = c.putAccents(p, {
    id: 'a1',
    name: 'flashes',
    look: { kind: 'flash', frames: 3, colour: '#ffaa00', falls: true },
    strength: 0.8,
    on: {
      kind: 'music',
      soundId: 's1',
      of: 'high',
      every: 2,
      first: 1,
      least: 0.3,
      from: 1,
      to: 10,
      hits: [1.5, 2.25, 3],
      without: [2.25],
    },
  });
  p = c.putAccents(p, {
    id: 'a2',
    name: 'punch',
    look: { kind: 'punch', frames: 8, scale: 1.12 },
    strength: 1,
    on: { kind: 'cues', cueIds: ['q1'] },
  });
  p = c.putAccents(p, {
    id: 'a3',
    name: 'push',
    look: { kind: 'push', frames: 10, way: 'left' },
    strength: 1,
    on: { kind: 'cuts', clipIds: ['c2'] },
  });
  p = c.putAccents(p, {
    id: 'a4',
    name: 'stutter',
    look: { kind: 'stutter', frames: 3 },
    strength: 1,
    on: { kind: 'cues', cueIds: ['q2'] },
  });
  p = c.putAccents(p, {
    id: 'a5',
    name: 'knock',
    look: { kind: 'knock', frames: 8, size: 0.02 },
    strength: 0.5,
    on: {
      kind: 'music',
      soundId: 's1',
      of: 'bars',
      every: 1,
      first: 0,
      least: 0,
      from: null,
      to: null,
      hits: [],
      without: [],
    },
  });
  p = c.appendClip(p, 'c7', 'bell');
  p = c.appendClip(p, 'c8', 'whirligig');
  p = c.putJoin(p, 'c7', { ...c.DEFAULT_JOIN, ...(v >= 9 && { whoosh: c.DEFAULT_WHOOSH }) }, 'j1');
}
if (v >= 8)
  p = { ...p, reel: { ...p.reel, colour: { matrix: 'bt709', primaries: 'bt709', transfer: 'bt709', range: 'full' } } };
const text = JSON.parse(JSON.stringify(p));
const read = c.parseProject(text);
if (read.version !== v) throw new Error(`${commit} writes version ${read.version}`);
const at = (name) => fileURLToPath(new URL(name, import.meta.url));
writeFileSync(at(`v${v}.json`), `${JSON.stringify(text)}\n`);
writeFileSync(at(`v${v}.frames.txt`), `${framesOf(read).join('\n')}\n`);
rmSync(folder, { recursive: true });

/** What every frame of the reel shows: clip in sight, its source, the position there. Before groups a clip's own position said all. */
function framesOf(project) {
  return c.placeItems(project).flatMap(({ item, frames }) => {
    if (item.kind === 'gap') return Array.from({ length: frames }, () => 'gap');
    const resolve = c[named('showing', 'resolveClip')];
    const show = resolve
      ? resolve(project, item)
      : (k) => ({ clip: item, source: { id: item.sourceId }, position: c.positionAt(item.map, k) });
    return Array.from({ length: frames }, (_, k) => {
      const shown = show(k);
      return shown ? `${shown.clip.id} ${shown.source.id} ${Number(shown.position.toFixed(9))}` : 'nothing';
    });
  });
}
