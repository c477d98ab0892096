import { LOOKS, type AccentKind } from '@idle-bend/core/look';
import { join } from 'node:path';
import { updateClip, withMap } from '@idle-bend/core/edit';
import { groupItems } from '@idle-bend/core/group';
import { putJoin } from '@idle-bend/core/join';
import { DEFAULT_JOIN, DEFAULT_SMEAR, type Project, type Similarity } from '@idle-bend/core/model';
import { placeItems } from '@idle-bend/core/reel';
import type { Rate } from '@idle-bend/core/time';
import { setClipSpeed, type TimeMap } from '@idle-bend/core/time-map';
import type { Page } from '@playwright/test';
import {
  draftChecksums,
  expect,
  kept,
  numberedClip,
  openBench,
  picture,
  projectOfClip,
  shownAt,
  test,
  type Clip,
} from './fixtures.js';

const HARD = { widthFrames: 0, ease: 'soft' as const };
const straight = (frames: number, from: number, to: number): TimeMap => ({
  vertices: [
    { t: 0, s: from },
    { t: frames, s: to },
  ],
  bends: [HARD, HARD],
});

/** A hand that shakes, held steady: closer, turned and moved a little in every frame. */
const path: Similarity[] = Array.from({ length: 61 }, (_, n) => ({
  scale: 1.08,
  angle: 0.02 * Math.sin(n),
  x: 0.01 * Math.cos(1.7 * n),
  y: 0.01 * Math.sin(2.3 * n),
}));

/** A reel with everything on it that is done to pictures. */
function everything(document: Project, whip: { id: string; frames: number; rate: Rate }, rail: string): Project {
  const clip = (id: string, source: string, map: TimeMap, more: Partial<Clip> = {}): Clip => ({
    ...numberedClip(source, id),
    map,
    ...more,
  });
  const items = [
    clip('flow', whip.id, straight(12, 10, 14), {
      method: 'flow',
      framing: { fit: 'fill', scale: 1.1, x: 0.04, y: 0 },
      steady: { from: 0, to: 60, keeps: 'still', patch: null, scale: 1.08, path },
    }),
    clip('shutter', whip.id, straight(8, 0, 60), { blur: { kind: 'shutter', angle: 180, always: false } }),
    clip('smear', whip.id, straight(8, 60, 20), {
      blur: DEFAULT_SMEAR,
      framing: { fit: 'fit', scale: 0.7, x: 0.1, y: -0.1 },
    }),
    clip('hold', rail, straight(6, 50, 50)),
    clip('mix', whip.id, straight(6, 30, 33), { method: 'mix' }),
    clip('inside', rail, straight(6, 100, 130)),
    clip('first', rail, straight(24, 0, 120)),
    clip('second', rail, straight(24, 60, 180)),
  ];
  const cues = (
    [
      ['flash', 3],
      ['punch', 14],
      ['knock', 22],
      ['stutter', 29],
    ] as const
  ).map(([kind, frame]) => ({ id: kind, frame, name: kind, beat: null }));
  const onCue = (kind: AccentKind) => ({
    id: kind,
    name: kind,
    look: LOOKS[kind].initial,
    strength: 1,
    on: { kind: 'cues' as const, cueIds: [kind] },
  });
  const into = (kind: AccentKind, clipId: string) => ({
    id: kind,
    name: kind,
    look: LOOKS[kind].initial,
    strength: 1,
    on: { kind: 'cuts' as const, clipIds: [clipId] },
  });
  const transitions = [
    into('dissolve', 'shutter'),
    into('zoom', 'smear'),
    into('push', 'hold'),
    into('turn', 'group'),
    into('whip', 'first'),
    into('slide', 'second'),
  ];
  const sustained = (['shake', 'sway', 'approach', 'flicker'] as const).map((kind, i) => ({
    ...{ id: kind, name: kind, look: LOOKS[kind].initial, strength: 1 },
    on: { kind: 'range' as const, from: 20 + 10 * i, to: 50 + 10 * i },
  }));
  const rate = { num: 120, den: 1 };
  const source = (id: string, name: string, frames: number, native: Rate) => ({
    id,
    name,
    frames,
    nativeRate: native,
    readAs: native,
    moments: [],
    droppedRepeats: null,
  });
  const plain: Project = {
    ...document,
    sources: [source(whip.id, 'whip', whip.frames, whip.rate), source(rail, 'rail', 240, rate)],
    reel: {
      ...document.reel,
      width: 640,
      height: 480,
      items,
      cues,
      accents: [...(['flash', 'punch', 'knock', 'stutter'] as const).map(onCue), ...transitions, ...sustained],
    },
  };
  const joined = putJoin(plain, 'first', { ...DEFAULT_JOIN, into: 6, outOf: 6, hold: 2, peak: 2 }, 'join');
  return groupItems(joined, ['mix', 'inside'], { clipId: 'group', sourceId: 'bound', name: 'group' });
}

test('a reel with everything on it: each frame stepped to has the checksum of a draft', async ({
  page,
  server,
  folder,
  clip,
}) => {
  // Well over a hundred frames are made twice.
  test.setTimeout(900_000);
  const { id, version, document } = await server.newProject();
  const { id: whip } = await server.upload(id, join(process.cwd(), 'demo/footage/whip-out.mp4'));
  const { id: rail } = await server.upload(id, clip);
  const { picture: facts } = (await server.prepared(id, whip)).facts;
  await server.prepared(id, rail);
  const changed = everything(document, { id: whip, frames: facts.frames, rate: facts.rate }, rail);
  const { status, body } = await server.send('PUT', `/api/projects/${id}/document`, {
    version,
    document: changed,
    by: 'setup',
  });
  expect([status, body.message]).toEqual([200, undefined]);
  const wanted = await draftChecksums(server, id, folder);
  const places = placeItems(await kept(server, id));
  expect(wanted).toHaveLength(places.reduce((sum, { frames }) => sum + frames, 0));
  // It is not all one picture.
  expect(new Set(wanted).size).toBeGreaterThan(60);
  await openBench(page, server, id);
  for (const [i, { start, frames }] of places.entries()) {
    if (i > 0) await page.keyboard.press('PageDown');
    for (let k = 0; k < frames; k++) {
      if (k > 0) await page.keyboard.press('ArrowRight');
      const what = `frame ${start + k}, ${k} of clip ${i}`;
      await expect
        .poll(async () => (await shownAt(page, k)).fingerprint, { message: what, timeout: 20_000 })
        .toBe(wanted[start + k]);
    }
  }
});

/** What the picture showed, one entry for each time it changed. */
interface Played {
  readonly frame: number;
  readonly level: string | undefined;
  readonly checksum: string | undefined;
  readonly dropped: number;
}

/** Writes down everything the picture shows from now on, as the page says it. */
const watchPicture = (page: Page) =>
  page.evaluate(() => {
    const played: object[] = [];
    Object.assign(globalThis, { played });
    const picture = document.querySelector<HTMLElement>('[data-testid=picture]')!;
    new MutationObserver(() => {
      const { frame, level, fingerprint, dropped } = picture.dataset;
      played.push({ frame: Number(frame), level, checksum: fingerprint, dropped: Number(dropped) });
    }).observe(picture, { attributes: true, attributeFilter: ['data-frame'] });
  });

test('played, each frame that is shown is the compositor’s at the level it says; what is left out is counted', async ({
  page,
  server,
  folder,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  const { version, document } = (await server.get(`/api/projects/${id}`)).body;
  // 30 %: two frames of three are made, real ones between them.
  const slow = updateClip(document, 'c', (c) => withMap({ ...c, method: 'flow' }, setClipSpeed(c.map, 0.3, 5)));
  await server.send('PUT', `/api/projects/${id}/document`, { version, document: slow, by: 'setup' });
  const drafts: Record<string, string[]> = {
    none: await draftChecksums(server, id, folder),
    quick: await draftChecksums(server, id, folder, 'quick'),
  };
  drafts['default'] = drafts['none']!;
  await page.goto(`${server.url}/projects/${id}/bench?checksums`);
  await expect(picture(page)).toHaveAttribute('data-fingerprint', /./);
  await watchPicture(page);
  await page.keyboard.press(' ');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible({ timeout: 60_000 });
  const played = (await page.evaluate(() => (globalThis as unknown as { played: Played[] }).played)).filter(
    // The last is settled once playing has ended.
    ({ frame }, i, all) => i < all.length - 1 && frame < drafts['none']!.length - 1,
  );
  expect(played.length).toBeGreaterThan(10);
  let compared = 0;
  for (const { frame, level, checksum } of played) {
    const draft = drafts[level ?? 'none'];
    expect(checksum).toMatch(/^[\da-f]{8}$/);
    // Where the machine is late, a level below those of renders is played.
    if (!draft) expect(level).toBe('moving');
    else expect(checksum, `frame ${frame}, ${level}`).toBe(draft[frame]);
    compared += draft ? 1 : 0;
  }
  expect(compared).toBeGreaterThan(5);
  const gaps = played.slice(1).map(({ frame }, i) => Math.max(0, frame - played[i]!.frame - 1));
  const counted = played.at(-1)!.dropped - played[0]!.dropped;
  expect(counted).toBe(gaps.reduce((sum, gap) => sum + gap, 0));
});
