import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { addCue, addSource, appendClip } from '../edit/edit.js';
import { parseLandings } from '../landing/landings-file.js';
import type { Source } from '../model/group.js';
import { emptyProject, parseProject } from '../model/project.js';
import { parseMotion } from '../motion/source-motion.js';
import { parseSample } from '../sampling/sample-file.js';
import { readShapes, writeShapes } from '../shape/shape-file.js';
import { parseMapFile } from '../time-map/map-file.js';
import { rate } from '../time/rate.js';
import { formatCueCsv, formatCueVtt, parseCueCsv, parseCueVtt } from './cue-text.js';
import { parseEdl } from './edl-read.js';
import { formatEdl } from './edl.js';
import { parseOtio } from './otio-read.js';
import { formatOtio, OTIO_NAMESPACE } from './otio.js';

const bell: Source = {
  id: 'bell',
  name: 'marble-bell',
  frames: 600,
  nativeRate: rate(120),
  readAs: rate(120),
  moments: [],
  droppedRepeats: null,
};

const project = addCue(appendClip(addSource(emptyProject(rate(24)), bell), 'a', 'bell', 120, 239), {
  id: 'q',
  frame: 30,
  name: 'bell',
});

const cues = [
  { second: 1.5, name: 'bell' },
  { second: 2.25, name: 'boat, "paper"' },
];

const foreign = () => {
  const timeline = JSON.parse(JSON.stringify(formatOtio(project, 'x', (id) => `${id}.mp4`)));
  delete timeline.metadata[OTIO_NAMESPACE];
  return JSON.stringify(timeline);
};

const json = (read: (value: unknown) => unknown) => (text: string) => {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return;
  }
  read(value);
};

/** Every reader of files, with a real file of its kind. */
const READERS: readonly (readonly [string, string, (text: string) => unknown])[] = [
  ['project document', JSON.stringify(project), json(parseProject)],
  [
    'map file',
    '{"version":1,"sourceRate":"120","timelineRate":"24","vertices":[[0,0],[30,150],[86,206]],"bends":[{"at":1,"width":14,"ease":[0.4,0,0.6,1]}]}',
    (text) => parseMapFile(text),
  ],
  ['landings', '[{"moment":184,"cue":64},{"moment":190,"cue":70.5}]', (text) => parseLandings(text)],
  [
    'sample',
    '{"kind":"flow","a":143,"b":144,"fraction":0.4,"before":142,"after":145,"tuning":{"trust":1,"keenness":0}}',
    json(parseSample),
  ],
  [
    'motion',
    '{"version":1,"fields":[],"pairs":[[0.9,null,0.1,0,0.02,1.5,1],[1,0.2,0,0,0,0,0.5]],"across":[{"from":0,"to":2,"pair":[1,0,0,0,0,0,1]}]}',
    json(parseMotion),
  ],
  [
    'shapes',
    writeShapes([{ id: 'swing', name: 'bell swing', note: '', kind: 'bend', ease: [0.1, 0.8, 0.2, 1] }]),
    json(readShapes),
  ],
  ['cues as CSV', formatCueCsv(cues, rate(24)), (text) => parseCueCsv(text, rate(24))],
  ['cues as WebVTT', formatCueVtt(cues), (text) => parseCueVtt(text)],
  [
    'edit decision list',
    formatEdl(project, 'Marble Parade').lists[0]!,
    (text) => parseEdl(text, rate(24), [{ ...bell }]),
  ],
  ['OpenTimelineIO', foreign(), json((value) => parseOtio(value, [bell]))],
  [
    'OpenTimelineIO of our own',
    JSON.stringify(formatOtio(project, 'x', (id) => id)),
    json((value) => parseOtio(value, [bell])),
  ],
];

/** What happens to files: letters lost, doubled, swapped for others, figures changed, ends cut off, another file's piece inside. */
const damage = fc.oneof(
  fc.record({ kind: fc.constant('cut' as const), at: fc.nat(), length: fc.nat(40) }),
  fc.record({ kind: fc.constant('double' as const), at: fc.nat(), length: fc.nat(200) }),
  fc.record({ kind: fc.constant('end' as const), at: fc.nat(), length: fc.constant(0) }),
  fc.record({
    kind: fc.constant('figure' as const),
    at: fc.nat(),
    length: fc.constant(0),
    by: fc.constantFrom('-1', '1e308', '1e999', '0', 'null', '""', '[]', '{}', '9007199254740993', 'true'),
  }),
  fc.record({
    kind: fc.constant('put' as const),
    at: fc.nat(),
    length: fc.nat(3),
    by: fc.oneof(
      fc.string(),
      fc.constantFrom('\u0000', '"', '}', ']', ',', '\n', '__proto__', 'constructor', '00:00:00:00'),
    ),
  }),
);

type Damage = typeof damage extends fc.Arbitrary<infer T> ? T : never;

function damaged(text: string, { kind, at, length, ...more }: Damage): string {
  const i = text.length === 0 ? 0 : at % text.length;
  if (kind === 'cut') return text.slice(0, i) + text.slice(i + length);
  if (kind === 'double') return text.slice(0, i + length) + text.slice(i);
  if (kind === 'end') return text.slice(0, i);
  const { by } = more as { by: string };
  if (kind === 'put') return text.slice(0, i) + by + text.slice(i + length);
  const figures = [...text.matchAll(/-?\d+(\.\d+)?/g)];
  const one = figures[at % Math.max(1, figures.length)];
  return one ? text.slice(0, one.index) + by + text.slice(one.index + one[0].length) : text;
}

describe('whatever a file has been through, it is read or refused by name', () => {
  test.each(READERS)('%s', (_, text, read) => {
    read(text);
    fc.assert(
      fc.property(fc.array(damage, { minLength: 1, maxLength: 4 }), (all) => {
        const wrong = all.reduce(damaged, text);
        try {
          read(wrong);
        } catch (error) {
          if ((error as Error).name !== 'InvalidInput') throw error;
          expect((error as Error).message).toMatch(/^\S.*: \S/s);
        }
      }),
      { numRuns: 400 },
    );
  });

  test.each(READERS)('%s: nothing but letters drawn at random', (_, __, read) => {
    fc.assert(
      fc.property(fc.oneof(fc.string({ unit: 'binary', maxLength: 300 }), fc.json()), (text) => {
        try {
          read(text);
        } catch (error) {
          if ((error as Error).name !== 'InvalidInput') throw error;
        }
      }),
      { numRuns: 200 },
    );
  });

  test('the demo’s own files are among what is read', () => {
    for (const name of ['parade-march', 'boat-song'])
      expect(JSON.parse(readFileSync(`demo/footage/${name}.json`, 'utf8'))).toHaveProperty('tempo');
  });
});
