// Draws the small pictures of recipes that no screen shows better: node scripts/guide-pictures.mjs
// Curves are the program's own, from the core, which has to be built.
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { bounceRange, freezeAt, positionAt, setRangeSpeed, slopeAt, straightMap } from '@idle-bend/core/time-map';
import { root } from './setup.mjs';

const FOLDER = join(root, 'docs/guide/pictures');
const [WIDTH, HEIGHT] = [320, 170];
/** Where the chart lies, and the row of frames under it. */
const CHART = { left: 24, right: 308, top: 14, bottom: 122 };
const FRAMES = { top: 134, height: 12 };
const INK = {
  paper: '#f6f8f4',
  line: '#cdd5cd',
  ink: '#1d2b29',
  faint: '#5c6b66',
  river: '#0f6a70',
  pale: '#9fc3bf',
  brass: '#8a5a00',
};
const soft = (widthFrames) => ({ widthFrames, ease: 'soft' });

const svg = (
  title,
  inside,
) => `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${HEIGHT}" width="${WIDTH}" height="${HEIGHT}" role="img" font-family="monospace" font-size="10">
<title>${title}</title>
<rect width="${WIDTH}" height="${HEIGHT}" rx="8" fill="${INK.paper}"/>
${inside.flat(Infinity).join('\n')}
</svg>
`;
const n = (value) => Number(value.toFixed(2));
const text = (x, y, words, { fill = INK.ink, anchor = 'start' } = {}) =>
  `<text x="${n(x)}" y="${n(y)}" fill="${fill}" text-anchor="${anchor}">${words}</text>`;
const path = (points, { stroke = INK.river, width = 2, dash } = {}) =>
  `<path d="M${points.map(([x, y]) => `${n(x)},${n(y)}`).join('L')}" fill="none" stroke="${stroke}" stroke-width="${width}"${dash ? ` stroke-dasharray="${dash}"` : ''}/>`;

/** The chart of maps over each other, in the same scale; the last is the one that is meant. */
function chart(maps, { source, labels = [] }) {
  const frames = Math.max(...maps.map((map) => map.vertices.at(-1).t));
  const x = (t) => CHART.left + ((CHART.right - CHART.left) * t) / frames;
  const y = (s) => CHART.bottom - ((CHART.bottom - CHART.top) * s) / source;
  const along = (map) => {
    const last = map.vertices.at(-1).t;
    return Array.from({ length: 121 }, (_, i) => [x((last * i) / 120), y(positionAt(map, (last * i) / 120))]);
  };
  const shown = maps.at(-1);
  const count = Math.round(shown.vertices.at(-1).t);
  const each = (CHART.right - CHART.left) / frames;
  return [
    `<rect x="${CHART.left}" y="${CHART.top}" width="${CHART.right - CHART.left}" height="${CHART.bottom - CHART.top}" fill="none" stroke="${INK.line}"/>`,
    text(15, 68, 'source', { fill: INK.faint, anchor: 'middle' }).replace(
      '<text',
      '<text transform="rotate(-90 15 68)"',
    ),
    text(CHART.right, HEIGHT - 8, 'time', { fill: INK.faint, anchor: 'end' }),
    maps.slice(0, -1).map((map) => path(along(map), { stroke: INK.faint, width: 1.2, dash: '4 3' })),
    path(along(shown)),
    Array.from({ length: count }, (_, k) => {
      const real = Math.abs(positionAt(shown, k) - Math.round(positionAt(shown, k))) < 1e-6;
      const still = k > 0 && Math.abs(positionAt(shown, k) - positionAt(shown, k - 1)) < 1e-6;
      return `<rect x="${n(x(k) + 0.5)}" y="${FRAMES.top}" width="${n(each - 1)}" height="${FRAMES.height}" fill="${still ? INK.line : real ? INK.ink : INK.pale}"/>`;
    }),
    labels.map(([t, s, words]) => text(x(t), y(s), words, { anchor: 'middle' })),
  ];
}

const plain = straightMap(40, 0, 200);
const slow = setRangeSpeed(plain, 12, 20, 0.4, 5, 'content', soft(5));
const held = freezeAt(plain, 16, 12, soft(6)).map;
const bounced = bounceRange(plain, 12, 24, soft(3));
const read = straightMap(72, 0, 72);

/** A wave whose pitch is the speed of a map. */
function wave(map, frames) {
  const middle = 70;
  let turns = 0;
  const steps = 900;
  return path(
    Array.from({ length: steps + 1 }, (_, i) => {
      const t = (frames * i) / steps;
      turns += ((slopeAt(map, t) / 5) * frames) / steps;
      return [CHART.left + ((CHART.right - CHART.left) * i) / steps, middle - 34 * Math.sin(turns * 2.2)];
    }),
    { width: 1.4, stroke: INK.brass },
  );
}

const marble = (x, y, fill, opacity = 1) =>
  `<circle cx="${n(x)}" cy="${n(y)}" r="12" fill="${fill}" fill-opacity="${opacity}"/>`;
const shaking = (i) => 9 * Math.sin(i * 2.1) + 6 * Math.sin(i * 3.7 + 1);

const PICTURES = {
  'slow-a-part': svg('A part at 40 %: it lasts longer, and what follows comes later', [
    chart([plain, slow], {
      source: 200,
      labels: [
        [7, 78, '100 %'],
        [29, 62, '40 %'],
        [44, 120, '100 %'],
      ],
    }),
  ]),
  freeze: svg('A frame held, with ramps into it and out of it', [
    chart([plain, held], { source: 200, labels: [[23, 60, 'held']] }),
  ]),
  'there-and-back': svg('A range played there, back and there again', [
    chart([plain, bounced], {
      source: 200,
      labels: [
        [18, 112, 'there'],
        [37, 96, 'back'],
        [54, 76, 'there'],
      ],
    }),
  ]),
  'read-as': svg('At 120 fps every fifth frame shows; read as 24 and at 100 % every one', [
    chart([straightMap(15, 0, 72), read], {
      source: 72,
      labels: [
        [22, 62, 'as shot'],
        [46, 22, 'read as 24'],
      ],
    }),
  ]),
  'on-twos': svg('Above: each drawing twice. Below: with repeats left out', [
    [0, 1].map((row) => [
      text(CHART.left, 22 + 74 * row, row ? 'repeats left out' : 'as the file has it', { fill: INK.faint }),
      Array.from({ length: row ? 6 : 12 }, (_, i) => {
        const drawing = row ? i : i >> 1;
        const x = CHART.left + 24 * i;
        return [
          `<rect x="${x}" y="${30 + 74 * row}" width="21" height="34" fill="none" stroke="${INK.line}"/>`,
          marble(x + 10.5, 56 - 3.6 * drawing + 74 * row, INK.river).replace('r="12"', 'r="5"'),
        ];
      }),
    ]),
  ]),
  sound: svg('The pitch falls and rises with the speed', [
    wave(slow, 52),
    text(60, 134, '100 %', { anchor: 'middle' }),
    text(166, 134, '40 %', { anchor: 'middle' }),
    text(270, 134, '100 %', { anchor: 'middle' }),
  ]),
  blur: svg('Sharp while slow, blurred along its way while fast', [
    marble(60, 80, INK.river),
    Array.from({ length: 16 }, (_, i) => marble(170 + 7 * i, 80, INK.river, 0.09)),
    text(60, 134, '40 %', { anchor: 'middle' }),
    text(222, 134, '400 %', { anchor: 'middle' }),
  ]),
  steady: svg('Where the picture goes: as shot, with an even move, and still', [
    path(
      Array.from({ length: 60 }, (_, i) => [24 + 4.8 * i, 62 - 0.5 * i + shaking(i / 2)]),
      { stroke: INK.faint, width: 1.2, dash: '4 3' },
    ),
    path([
      [24, 66],
      [308, 36],
    ]),
    path(
      [
        [24, 120],
        [308, 120],
      ],
      { stroke: INK.ink },
    ),
    text(308, 58, 'even move', { anchor: 'end' }),
    text(308, 112, 'still', { anchor: 'end' }),
    text(24, 30, 'as shot', { fill: INK.faint }),
  ]),
};

mkdirSync(FOLDER, { recursive: true });
for (const [name, picture] of Object.entries(PICTURES)) writeFileSync(join(FOLDER, `${name}.svg`), picture);
