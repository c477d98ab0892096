import { describe, expect, test } from '@jest/globals';
import { readdirSync, readFileSync } from 'node:fs';
import { migrate, PROJECT_VERSION } from '../model/migrations/migrate.js';
import { parseProject, type Project } from '../model/project.js';
import { placeItems } from '../reel/places.js';
import { resolveClip } from './resolve-clip.js';

/** Documents as earlier programs wrote them, and what those programs said every frame shows (test/golden/make.mjs). */
const GOLDEN = new URL('../../test/golden/', import.meta.url);

const text = (name: string) => readFileSync(new URL(name, GOLDEN), 'utf8');

const versions = Array.from({ length: PROJECT_VERSION }, (_, i) => i + 1);

/** Written as the golden files are. */
function framesOf(project: Project): string[] {
  return placeItems(project).flatMap(({ item, frames }) => {
    if (item.kind === 'gap') return Array.from({ length: frames }, () => 'gap');
    const show = resolveClip(project, item);
    return Array.from({ length: frames }, (_, k) => {
      const shown = show(k);
      return shown ? `${shown.clip.id} ${shown.source.id} ${Number(shown.position.toFixed(9))}` : 'nothing';
    });
  });
}

describe('documents that earlier programs wrote', () => {
  test('there is one of every version', () => {
    const kept = readdirSync(GOLDEN).flatMap((name) => /^v(\d+)\.json$/.exec(name)?.[1] ?? []);
    expect(kept.map(Number).sort((a, b) => a - b)).toEqual(versions);
  });

  test.each(versions)('version %i shows in every frame what it showed then', (version) => {
    const frames = text(`v${version}.frames.txt`).trimEnd().split('\n');
    expect(frames.length).toBeGreaterThan(600);
    expect(framesOf(parseProject(JSON.parse(text(`v${version}.json`))))).toEqual(frames);
  });

  test.each([1, 2, 3, 4, 5, 6])('version %i becomes the version 7 that it became then', (version) => {
    const seven = migrate(JSON.parse(text(`v${version}.json`)), 7);
    expect(seven).toEqual(JSON.parse(text(`v${version}.as-7.json`)));
  });
});
