import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Injectable, Logger } from '@nestjs/common';
import type { Footage } from '@idle-bend/core/api';
import { putShape } from '@idle-bend/core/clean';
import { reelSpaceOf } from '@idle-bend/core/colour';
import {
  addCue,
  addMoment,
  addSound,
  appendClip,
  setReelColour,
  cueOnSound,
  pinClip,
  setFills,
  tie,
  updateClip,
  withSource,
} from '@idle-bend/core/edit';
import { landClip } from '@idle-bend/core/landing';
import { emptyProject, type Project } from '@idle-bend/core/model';
import { clipSlope, placeOf, reelBeats, type ReelBeat } from '@idle-bend/core/reel';
import { CLIP_SHAPES } from '@idle-bend/core/shape';
import { rate } from '@idle-bend/core/time';
import { framesShowing, setClipSpeed, type TimeMap } from '@idle-bend/core/time-map';
import { Config } from '../config.js';
import { FootageLibrary } from '../footage/footage-library.js';
import { Projects } from '../projects/projects.js';

const ID = 'marble-parade';

/** In the order of the reel. */
const FILMS = ['marble-bell', 'dominoes', 'whirligig', 'whip-out', 'whip-in', 'paper-boat', 'capture', 'pendulum'];
/** Clips with a moment that has landed on a beat: clip, source, source frame, name. */
const LANDED = [
  ['clip-whip-in', 'demo-whip-in', 36, 'camera settles'],
  ['clip-pendulum', 'demo-pendulum', 202, 'through the middle'],
] as const;
const BOAT_FRAME = 64;
/** Source frames that are left before and after a clip: room to slip when it lands. */
const SPARE: Readonly<Record<string, number>> = { 'whip-in': 6, pendulum: 10 };
/** The version it has when it was made and filled, and nobody has changed it. */
const MADE = 2;

/** Marble Parade: a small maker of wooden marble runs films a short piece. Loaded once, as a whole; what an editor does to it stays. */
@Injectable()
export class DemoProject {
  private readonly logger = new Logger('demo');

  constructor(
    private readonly config: Config,
    private readonly projects: Projects,
    private readonly footage: FootageLibrary,
  ) {}

  async load(): Promise<void> {
    if (await this.isThere()) return;
    const folder = join(this.config.root, 'demo/footage');
    const { version } = (await this.projects.has(ID))
      ? await this.projects.open(ID)
      : await this.projects.create('Marble Parade', rate(24), undefined, ID);
    let project: Project = emptyProject(rate(24));
    for (const name of FILMS) {
      const footage = await this.take(folder, `${name}.mp4`, `demo-${name}`);
      if (!footage) continue;
      project = withSource(project, footage, footage.facts.picture!);
      const { colour } = footage.facts.picture!;
      if (colour && project.reel.colour === null) project = setReelColour(project, reelSpaceOf(colour));
      if (name === 'marble-bell') project = await this.bendTheBell(project, footage, folder);
      else project = shaped(project, footage, name);
    }
    project = await this.layTheMarch(project, folder);
    await this.take(folder, 'boat-song.ogg', 'demo-boat-song');
    await this.projects.keep(ID, version, project, 'demo');
  }

  /** One whose loading was interrupted, or that found no ffmpeg, is an empty one that nobody has edited: it is loaded again. */
  private async isThere(): Promise<boolean> {
    if (!(await this.projects.has(ID))) return false;
    if ((await this.projects.binned()).some(({ id }) => id === ID)) return true;
    const { version, document } = await this.projects.open(ID);
    return version > MADE || document.reel.items.length > 0;
  }

  private async take(folder: string, name: string, id: string): Promise<Footage | undefined> {
    const file = join(folder, name);
    try {
      const there = (await this.footage.list(ID)).find((footage) => footage.id === id);
      if (there) return there;
      if (existsSync(file)) return await this.footage.take(ID, file, name, 'copy', id);
      this.logger.warn(`${file} is missing; npm run demo:generate makes it`);
    } catch (error) {
      // The rest of the demo is there without it.
      this.logger.warn((error as Error).message);
    }
    return undefined;
  }

  /** The march lies under the reel, the second whip is pinned to a bar, moments have landed on beats; the boat is three frames late. */
  private async layTheMarch(project: Project, folder: string): Promise<Project> {
    const footage = await this.take(folder, 'parade-march.ogg', 'demo-parade-march');
    if (!footage) return project;
    const march = JSON.parse(await readFile(join(folder, 'parade-march.json'), 'utf8')) as {
      tempo: number;
      first: number;
      beats: number;
      bar: number;
    };
    const times = Array.from({ length: march.beats }, (_, i) => march.first + (i * 60) / march.tempo);
    const music = {
      id: 'march',
      footageId: footage.id,
      name: 'parade march',
      startSeconds: 0,
      fromSeconds: 0,
      toSeconds: footage.facts.durationSeconds!,
      gainDb: -3,
      fadeInSeconds: 0,
      fadeOutSeconds: 2,
    };
    let laid = addSound(project, { ...music, beats: { times, bar: { beats: march.bar, first: 0 } } });
    const onBar = nearestBeatTo(laid, placeOf(laid, 'clip-whip-in')?.start, march.bar);
    if (onBar) {
      const cue = cueOnSound(laid, 'march', onBar.second, 'cue-whip');
      // The first whip is as slow as it has to be to last until then.
      laid = setFills(pinClip(cue.project, 'clip-whip-in', cue.cueId), 'clip-whip-out', true);
    }
    for (const [clipId, sourceId, frame, name] of LANDED) {
      const shown = placeOf(laid, clipId);
      if (shown?.item.kind !== 'clip') continue;
      const marked = addMoment(laid, sourceId, { id: `moment-${clipId}`, frame, name });
      const at = framesShowing(shown.item.map, frame)[0] ?? Math.round(shown.frames / 2);
      const beat = nearestBeatTo(marked, shown.start + at);
      if (!beat) continue;
      const cue = cueOnSound(marked, 'march', beat.second, `cue-${clipId}`);
      laid = landClip(tie(cue.project, clipId, `moment-${clipId}`, cue.cueId), clipId).project;
    }
    const boat = placeOf(laid, 'clip-paper-boat');
    if (boat?.item.kind !== 'clip') return laid;
    const sail = boat.start + (framesShowing(boat.item.map, BOAT_FRAME)[0] ?? 0);
    const late = addCue(
      addMoment(laid, 'demo-paper-boat', { id: 'moment-boat', frame: BOAT_FRAME, name: 'boat passes' }),
      { id: 'cue-boat', frame: sail - 3, name: 'boat' },
    );
    return tie(late, 'clip-paper-boat', 'moment-boat', 'cue-boat');
  }

  /** The marble comes quickly, strikes the bell in slow motion, and goes on. */
  private async bendTheBell(project: Project, footage: Footage, folder: string): Promise<Project> {
    const { events } = JSON.parse(await readFile(join(folder, 'marble-bell.json'), 'utf8')) as {
      events: { frame: number }[];
    };
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
    return addCue(addMoment(bent, footage.id, { id: 'moment-hit', frame: hit, name: 'marble meets bell' }), {
      id: 'cue-hit',
      frame: 70,
      name: 'bell',
    });
  }
}

/** The beat nearest to a reel frame, of those that begin bars with `bar`. */
function nearestBeatTo(project: Project, frame: number | undefined, bar = 1): ReelBeat | undefined {
  if (frame === undefined) return undefined;
  const beats = reelBeats(project).filter(({ index }) => index % bar === 0);
  return beats.reduce<ReelBeat | undefined>(
    (best, beat) => (!best || Math.abs(beat.frame - frame) < Math.abs(best.frame - frame) ? beat : best),
    undefined,
  );
}

/** The dominoes hang in the middle of their fall, the pendulum swings at a quarter of its speed; the others play as they were shot. */
function shaped(project: Project, footage: Footage, name: string): Project {
  const id = `clip-${name}`;
  const { frames } = footage.facts.picture!;
  const spare = SPARE[name] ?? 0;
  const put = appendClip(
    project,
    id,
    footage.id,
    spare,
    Math.min(frames, name === 'whirligig' ? 240 : 1e6) - 1 - spare,
  );
  return updateClip(put, id, (clip) => ({
    ...clip,
    name: name.replaceAll('-', ' '),
    ...(name === 'dominoes' && { map: hovering(clip.map) }),
    ...(name === 'pendulum' && { map: setClipSpeed(clip.map, 0.25, clipSlope(put, clip)), method: 'flow' as const }),
  }));
}

/** Rushes in, hangs, rushes away, at speeds at which every frame is real. */
function hovering(map: TimeMap): TimeMap {
  return putShape(CLIP_SHAPES.find((shape) => shape.id === 'hover')!.map, map);
}
