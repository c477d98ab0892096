import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { addSource, appendClip, insertGap, setFraming, updateClip, withMap } from '@idle-bend/core/edit';
import { placePicture } from '@idle-bend/core/framing';
import { groupItems } from '@idle-bend/core/group';
import { emptyProject, FITTED, type Clip, type Framing, type Project } from '@idle-bend/core/model';
import { resolveClip } from '@idle-bend/core/resolve';
import { rate } from '@idle-bend/core/time';
import { H264, makeNumberedClip, readNumbers } from '../../test/numbered-clip.js';
import { openSource, type OpenedSource } from '../probe/source.js';
import { writeReel, type ReelWork } from './write-reel.js';

let folder: string;
let sources: Record<string, OpenedSource>;
const at = (name: string) => join(folder, name);
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'idle-bend-reel-'));
  // Two films of other lengths, sizes and rates: what shows is told by its number, and by a number only one of them has.
  const bell = await makeNumberedClip({ file: at('bell.mp4'), frames: 60, rate: '24', options: H264 });
  const boat = await makeNumberedClip({ file: at('boat.mp4'), frames: 200, rate: '48', options: H264 });
  sources = { bell: await openSource(bell), boat: await openSource(boat) };
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const open = (id: string) => Promise.resolve(sources[id]!);
const LOSSLESS = { muxer: 'matroska', codec: 'ffv1' } as const;

async function numbers(project: Project, work: ReelWork = {}): Promise<number[]> {
  await writeReel(project, open, at('out.mkv'), LOSSLESS, work);
  return readNumbers(at('out.mkv'));
}

/** bell 0–23, 6 of black, boat 100–147 (24 frames). */
function parade(): Project {
  const source = (id: string, frames: number, fps: number) => ({
    id,
    name: id,
    frames,
    nativeRate: rate(fps),
    readAs: rate(fps),
    moments: [],
    droppedRepeats: null,
  });
  let project = addSource(addSource(emptyProject(rate(24), 320, 192), source('bell', 60, 24)), source('boat', 200, 48));
  project = appendClip(appendClip(project, 'a', 'bell', 0, 23), 'b', 'boat', 100, 147);
  return insertGap(project, 1, 'gap', 6);
}
const upTo = (count: number, first = 0, step = 1) => Array.from({ length: count }, (_, i) => first + step * i);

describe('a rendered reel', () => {
  test('a group plays its clips and gaps, bent as one, inside another group too', async () => {
    const plain = [...upTo(24), ...Array<number>(6).fill(0), ...upTo(24, 100, 2)];
    expect(await numbers(parade())).toEqual(plain);
    let project = groupItems(parade(), ['a', 'gap'], { clipId: 'g', sourceId: 'inner', name: 'inner' });
    project = groupItems(project, ['g', 'b'], { clipId: 'h', sourceId: 'outer', name: 'outer' });
    expect(await numbers(project)).toEqual(plain);
    // Twice as fast backward, then forward at a third.
    const bounce = {
      vertices: [
        { t: 0, s: 53 },
        { t: 20, s: 13 },
        { t: 50, s: 23 },
      ],
      bends: [0, 8, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
    };
    const bent = updateClip(project, 'h', (clip) => withMap(clip, bounce));
    const show = resolveClip(bent, bent.reel.items[0] as Clip);
    const wanted = upTo(50).map((k) => {
      const sample = show(k)?.sample;
      return sample?.kind === 'source' ? sample.frame : 0;
    });
    expect(wanted.slice(0, 4)).toEqual([146, 142, 138, 134]);
    expect(await numbers(bent)).toEqual(wanted);
  });

  test('of a range has those frames and no others', async () => {
    expect(await numbers(parade(), { stretch: { from: 20, to: 33 } })).toEqual([
      20, 21, 22, 23, 0, 0, 0, 0, 0, 0, 100, 102, 104,
    ]);
    expect(await numbers(parade(), { stretch: { from: 25, to: 28 } })).toEqual([0, 0, 0]);
    await expect(numbers(parade(), { stretch: { from: 90, to: 99 } })).rejects.toThrow(
      /nothing of the reel in that range/,
    );
  });
});

describe('framing', () => {
  /** A picture of 320 × 192, left half dark, right half bright. */
  const halves = async () => {
    const { status, stderr } = spawnSync('ffmpeg', [
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      'color=black:s=320x192:r=24:d=0.2',
      '-vf',
      'format=yuv420p,geq=lum=if(lt(X\\,160)\\,60\\,235):cb=128:cr=128',
      '-c:v',
      'ffv1',
      at('halves.mkv'),
    ]);
    if (status !== 0) throw new Error(stderr.toString());
    return openSource(at('halves.mkv'));
  };
  const framed = async (framing: Framing | null, width: number, height: number) => {
    const source = await halves();
    const footage = {
      id: 's',
      name: 'halves',
      frames: 4,
      nativeRate: rate(24),
      readAs: rate(24),
      moments: [],
      droppedRepeats: null,
    };
    const project = setFraming(
      appendClip(addSource(emptyProject(rate(24), width, height), footage), 'c', 's'),
      'c',
      framing,
    );
    await writeReel(project, () => Promise.resolve(source), at('framed.mkv'), LOSSLESS);
    const { stdout } = spawnSync('ffmpeg', [
      '-v',
      'error',
      '-i',
      at('framed.mkv'),
      '-frames:v',
      '1',
      '-f',
      'rawvideo',
      'pipe:1',
    ]);
    expect(stdout.length).toBe(width * height * 1.5);
    return (x: number, y: number) => stdout[y * width + x]!;
  };

  test.each<[string, Framing | null, number, number]>([
    ['fitted into a tall reel', null, 240, 400],
    ['filling a tall reel', { ...FITTED, fit: 'fill' }, 240, 400],
    ['filling a square one, moved', { ...FITTED, fit: 'fill', x: 0.2, y: 0 }, 200, 200],
    ['larger and off to a corner', { fit: 'fit', scale: 1.6, x: -0.3, y: 0.25 }, 320, 192],
    ['small', { fit: 'fit', scale: 0.4, x: 0.25, y: -0.2 }, 320, 192],
  ])('%s, every pixel of the picture is where it belongs', async (_, framing, width, height) => {
    const luma = await framed(framing, width, height);
    const place = placePicture(320 / 192, { width, height }, framing ?? undefined);
    const seam = place.left + place.width / 2;
    for (let y = 1; y < height; y += 9)
      for (let x = 1; x < width; x += 7) {
        const [dx, dy] = [x - place.left, y - place.top];
        const nearEdge = Math.min(...[dx, dx - place.width, dy, dy - place.height, x - seam].map(Math.abs)) < 6;
        if (nearEdge) continue;
        const outside = dx < 0 || dy < 0 || dx >= place.width || dy >= place.height;
        expect(Math.abs(luma(x, y) - (outside ? 16 : x < seam ? 60 : 235))).toBeLessThanOrEqual(2);
      }
  });

  test('moved out of sight, it is black', async () => {
    const luma = await framed({ ...FITTED, x: 3 }, 320, 192);
    expect([luma(0, 0), luma(160, 96), luma(319, 191)].map((v) => v < 20)).toEqual([true, true, true]);
  });
});
