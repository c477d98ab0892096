import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from '@jest/globals';
import { OWN_SOUND, type Clip, type Method, type Project } from '@idle-bend/core/model';
import type { TimeMap } from '@idle-bend/core/time-map';
import { H264, makeNumberedClip } from '../../../packages/media/test/numbered-clip.js';
import type { RunningServer } from './running-server.js';

/** Frames of the numbered clip. */
export const FRAMES = 240;

/** A clip at 120 fps whose every picture carries its number, with open groups of pictures. */
export const numberedClip = (folder: string): Promise<string> =>
  makeNumberedClip({
    file: join(folder, 'clip.mp4'),
    frames: FRAMES,
    rate: '120',
    options: [
      ...[...H264, '-x264-params', 'open-gop=1:keyint=40:bframes=3', '-color_range', 'tv'],
      ...['-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709'],
    ],
  });

const FORMAT = { mp4: 'h264', mkv: 'ffv1' } as const;

/** Renders of one project of a server, whose reel is one clip of the numbered footage. Its footage is looked at once. */
export class Rendering {
  private project: Promise<{ id: string; footage: string }> | undefined;

  constructor(
    private readonly server: RunningServer,
    private readonly clip: string,
    private readonly folder: string,
  ) {}

  /** The project with the clip's curve. */
  async bending(map: TimeMap, method: Method = 'step', end: 'hold' | 'black' = 'hold') {
    this.project ??= this.newProject();
    const { id, footage } = await this.project;
    const { version, document } = (await this.server.get<{ version: number; document: Project }>(`/api/projects/${id}`))
      .body;
    const rate = { num: 120, den: 1 };
    const source = {
      id: footage,
      name: 'clip',
      frames: FRAMES,
      nativeRate: rate,
      readAs: rate,
      moments: [],
      droppedRepeats: null,
    };
    const item: Clip = {
      kind: 'clip',
      ...{ id: 'c', name: 'c', sourceId: footage, map, method, end, tuning: null, sound: OWN_SOUND },
      ...{ reachMethods: [], mends: [], ties: [], locks: [], limits: null, versions: [] },
      ...{ pin: null, fills: false, framing: null, blur: null, steady: null },
    };
    const changed: Project = {
      ...document,
      sources: [source],
      reel: { ...document.reel, width: 320, height: 192, items: [item] },
    };
    await this.server.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'a' });
    return { id, footage };
  }

  private async newProject() {
    const { id } = await this.server.newProject();
    return { id, footage: (await this.server.upload(id, this.clip)).id };
  }

  async render(id: string, container: 'mp4' | 'mkv') {
    return (await this.server.send('POST', `/api/projects/${id}/renders`, { format: FORMAT[container] })).body[0];
  }

  /** A render once nothing more is done for it. */
  rendered(project: string, id: string) {
    return this.server.until(
      async () => (await this.server.get<any[]>(`/api/projects/${project}/renders`)).body.find((r) => r.id === id),
      (r) => !['queued', 'running', 'joining'].includes(r.status),
    );
  }

  async download(id: string, name: string): Promise<string> {
    const response = await fetch(`${this.server.url}/api/renders/${id}/file`);
    expect(response.headers.get('content-disposition')).toMatch(/attachment; filename="Marble Parade\.(mp4|mkv)"/);
    writeFileSync(join(this.folder, name), Buffer.from(await response.arrayBuffer()));
    return join(this.folder, name);
  }
}
