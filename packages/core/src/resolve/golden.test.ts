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

  test('version 8 becomes the version 9 that is written now, the whoosh of its join apart', () => {
    const nine = JSON.parse(text('v9.json'));
    nine.reel.joins[0].whoosh = null;
    expect(migrate(JSON.parse(text('v8.json')), 9)).toEqual(nine);
  });

  test('whips go sideways or up and down until version 9, along any line since', () => {
    const nine = JSON.parse(text('v9.json'));
    const whip = (way: string) => ({ kind: 'whip', frames: 8, before: 0.5, way, share: 0.4 });
    const on = { kind: 'cuts', clipIds: [nine.reel.items[1].id] };
    const sets = ['sideways', 'up and down'].map((way) => ({
      id: way.slice(0, 2),
      name: way,
      look: whip(way),
      strength: 1,
      on,
    }));
    const flash = { ...sets[0]!, id: 'f', look: { kind: 'flash', frames: 2, colour: 'white', falls: 'fast' } };
    nine.reel.accents = [...sets, flash];
    const { accents } = (migrate(nine, 10) as any).reel;
    expect(accents.map(({ look }: any) => [look.degrees, look.way])).toEqual([
      [0, undefined],
      [90, undefined],
      [undefined, undefined],
    ]);
    expect(accents[2]).toEqual(flash);
    expect(parseProject({ ...nine, reel: { ...nine.reel, accents: [sets[1]] } }).reel.accents[0]!.look).toEqual({
      ...{ kind: 'whip', frames: 8, before: 0.5, degrees: 90, share: 0.4 },
    });
  });

  test('joins with a whoosh, in a group too, are lifted to version 9', () => {
    const eight = JSON.parse(text('v8.json'));
    const [join] = eight.reel.joins;
    join.whoosh = { gain: -20, tone: 0.25 };
    eight.sources.find(({ bound }: { bound?: unknown }) => bound).bound.joins.push({ ...join, id: 'inside' });
    const nine = migrate(eight, 9) as any;
    const inside = nine.sources.find(({ content }: { content?: unknown }) => content).content.joins[0];
    const { replaced, ...rest } = join;
    const lifted = (undo: Record<string, unknown>) => ({
      ...{ original: undo['was'], ramped: undo['made'], startFrames: undo['from'], slowed: undo['slowed'] },
    });
    const expected = {
      ...{ ...rest, whoosh: { gainDb: -20, tone: 0.25 } },
      undo: { before: lifted(replaced.before), after: lifted(replaced.after) },
    };
    expect(nine.reel.joins[0]).toEqual(expected);
    expect(inside).toEqual({ ...expected, id: 'inside' });
  });
});
