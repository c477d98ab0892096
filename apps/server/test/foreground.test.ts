/** What is made ahead leaves the processor to reels that play and to renders; what somebody looks at is made all the same. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pass } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { addSource, appendClip } from '@idle-bend/core/edit';
import { rate } from '@idle-bend/core/time';
import { straightMap } from '@idle-bend/core/time-map';
import { H264, makeNumberedClip } from '../../../packages/media/test/numbered-clip.js';
import { numberedClip, Rendering } from './rendering.js';
import { RunningServer } from './running-server.js';

/** Fifteen pieces of 120 frames. */
const FRAMES = 1800;
const PIECE = 120;
/** What stands still does so for this long; what does not has made pieces long before. */
const WATCHED_MS = 2500;

describe('while a reel plays or renders', () => {
  const folder = mkdtempSync(join(tmpdir(), 'idle-bend-foreground-'));
  let server: RunningServer;
  let project: string;

  beforeAll(async () => {
    server = await RunningServer.start();
    project = (await server.newProject()).id;
  });

  afterAll(async () => {
    await server.discard();
    rmSync(folder, { recursive: true, force: true });
  });

  const filmOf = (frames: number) =>
    makeNumberedClip({ file: join(folder, `${frames}.mp4`), frames, rate: '60', options: H264 });

  const pieces = async (id: string) =>
    (await server.get<{ made?: number[] }>(`/api/footage/${id}/pieces`)).body.made ?? [];

  /** A window that plays says so again and again; ends with what is returned. */
  async function playIn(window: string): Promise<() => Promise<void>> {
    const path = `/api/playing/${window}`;
    let said: Promise<unknown> = server.send('PUT', path);
    await said;
    const again = setInterval(() => void (said = server.send('PUT', path)), 1000);
    return async () => {
      clearInterval(again);
      await said;
      await server.send('DELETE', path);
    };
  }

  /** What is told of the project from now on. */
  async function told(): Promise<{ text: () => string; end: () => void }> {
    const events = new AbortController();
    const response = await fetch(`${server.url}/api/projects/${project}/events`, { signal: events.signal });
    let text = '';
    const read = async () => {
      for await (const part of response.body!) text += new TextDecoder().decode(part);
    };
    read().catch(() => undefined);
    return { text: () => text, end: () => events.abort() };
  }

  test('proxies stand still while a window plays, but for what is looked at, and go on when it stops', async () => {
    const stop = await playIn('a-window');
    const { id } = await server.upload(project, await filmOf(FRAMES));
    await pass(WATCHED_MS);
    expect(await pieces(id)).toEqual([]);
    expect((await server.footage(project)).find((f) => f.id === id)).toMatchObject({ status: 'preparing' });

    // The playhead comes to its eighth piece.
    const frame = 7 * PIECE + 30;
    const picture = await fetch(`${server.url}/api/footage/${id}/pictures/${frame}`);
    expect(picture.status).toBe(200);
    await server.until(
      () => pieces(id),
      (made) => made.includes(7),
    );
    expect(await pieces(id)).not.toContain(0);

    await stop();
    await server.prepared(project, id);
  }, 120_000);

  test('a window that is gone without a word holds nothing up for long', async () => {
    await server.send('PUT', '/api/playing/another-window');
    const { id } = await server.upload(project, await filmOf(300));
    await server.prepared(project, id);
  }, 120_000);

  test('proxies stand still while this machine renders, and that is told', async () => {
    const rendering = new Rendering(server, await numberedClip(folder), folder);
    const bent = await rendering.bending(straightMap(20_000, 0, 239));
    await server.prepared(bent.id, bent.footage);
    const { id: render } = await rendering.render(bent.id, 'mp4');
    const { text, end } = await told();
    const { id } = await server.upload(project, await filmOf(420));
    await pass(WATCHED_MS);
    expect(await pieces(id)).toEqual([]);
    expect(text()).toContain('{"kind":"foreground","isBusy":true}');
    await server.send('POST', `/api/renders/${render}/cancel`);
    await rendering.rendered(bent.id, render);
    await server.prepared(project, id);
    expect(text()).toContain('{"kind":"foreground","isBusy":false}');
    end();
  }, 120_000);

  test('what the reel shows is prepared before what nobody uses', async () => {
    const { id: own, version, document } = await server.newProject();
    const stop = await playIn('a-window');
    const ids: string[] = [];
    for (const frames of [481, 482, 483, 484, 485]) ids.push((await server.upload(own, await filmOf(frames))).id);
    const source = {
      ...{ id: ids[3]!, name: 'used', frames: 484, nativeRate: rate(60), readAs: rate(60) },
      ...{ moments: [], droppedRepeats: null },
    };
    const used = appendClip(addSource(document, source), 'the-clip', ids[3]!);
    const kept = await server.send('PUT', `/api/projects/${own}/document`, { version, document: used, by: 'a window' });
    expect(kept.status).toBe(200);
    await stop();
    const states = await server.until(
      async () => new Map((await server.footage(own)).map((f) => [f.id as string, f.status as string])),
      (all) => all.get(ids[3]!) === 'ready',
    );
    // The other lane has made the first one meanwhile, at most that.
    expect(ids.slice(1).filter((each) => states.get(each) === 'ready')).toEqual([ids[3]]);
    for (const each of ids) await server.prepared(own, each);
  }, 120_000);
});
