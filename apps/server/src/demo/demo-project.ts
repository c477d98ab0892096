import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Injectable, Logger } from '@nestjs/common';
import {
  CLIP_SHAPES,
  stretchShape,
  addCue,
  addMoment,
  addSource,
  appendClip,
  emptyProject,
  rate,
  updateClip,
  type Footage,
  type Project,
} from '@idle-bend/core';
import { Config } from '../config.js';
import { FootageStore } from '../footage/footage.js';
import { Projects } from '../projects/projects.js';

const ID = 'marble-parade';

/** Marble Parade: a small maker of wooden marble runs films a short piece. Loaded once; what an editor does to it stays. */
@Injectable()
export class DemoProject {
  private readonly logger = new Logger('demo');

  constructor(
    private readonly config: Config,
    private readonly projects: Projects,
    private readonly footage: FootageStore,
  ) {}

  async load(): Promise<void> {
    if ((await this.projects.list()).some((p) => p.id === ID)) return;
    const folder = join(this.config.root, 'demo/footage');
    await this.projects.create('Marble Parade', rate(24), emptyProject(rate(24)), ID);
    let project: Project = emptyProject(rate(24));
    for (const name of ['marble-bell', 'dominoes', 'whirligig']) {
      const file = join(folder, `${name}.mp4`);
      if (!existsSync(file)) {
        this.logger.warn(`${file} is missing; npm run demo:generate makes it`);
        continue;
      }
      const footage = await this.footage.take(ID, file, `${name}.mp4`, 'copy', `demo-${name}`);
      project = addSource(project, asSource(footage));
      if (name === 'marble-bell') project = await this.bendTheBell(project, footage, folder);
      else project = shaped(project, footage, name);
    }
    await this.projects.keep(ID, 1, project, 'demo');
  }

  /** The marble comes quickly, strikes the bell in slow motion, and goes on. */
  private async bendTheBell(project: Project, footage: Footage, folder: string): Promise<Project> {
    const { events } = JSON.parse(await readFile(join(folder, 'marble-bell.json'), 'utf8')) as { events: { frame: number }[] };
    const hit = events[0]!.frame;
    const { frames } = footage.facts.picture!;
    const bent = updateClip(appendClip(project, 'clip-bell', footage.id), 'clip-bell', (clip) => ({
      ...clip,
      name: 'marble bell',
      map: {
        vertices: [
          { t: 0, s: 0 },
          { t: 30, s: hit - 34 },
          { t: 86, s: hit + 22 },
          { t: 86 + (frames - hit - 22) / 5, s: frames },
        ],
        bends: [
          { widthFrames: 0, ease: 'soft' },
          { widthFrames: 14, ease: 'soft' },
          { widthFrames: 18, ease: 'silk' },
          { widthFrames: 0, ease: 'soft' },
        ],
      },
    }));
    return addCue(addMoment(bent, footage.id, { id: 'moment-hit', frame: hit, name: 'marble meets bell' }), { id: 'cue-hit', frame: 70, name: 'bell' });
  }
}

/** The dominoes hang in the middle of their fall; the whirligig plays as it was shot. */
function shaped(project: Project, footage: Footage, name: string): Project {
  const id = `clip-${name}`;
  const { frames } = footage.facts.picture!;
  const put = appendClip(project, id, footage.id, 0, Math.min(frames, 240) - 1);
  const hover = CLIP_SHAPES.find((shape) => shape.id === 'hover')!.map;
  return updateClip(put, id, (clip) => ({ ...clip, name, ...(name === 'dominoes' && { map: stretchShape(hover, clip.map) }) }));
}

function asSource(footage: Footage) {
  const { rate: nativeRate, frames } = footage.facts.picture!;
  return { id: footage.id, name: footage.name.replace(/\.\w+$/, ''), frames, nativeRate, readAs: nativeRate, moments: [], skips: null };
}
