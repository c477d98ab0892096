// Writes the outlines of the font that titles are set in into the core: node scripts/title-font.mjs
// Taken from the same family the interface ships (Bricolage Grotesque, SIL Open Font License 1.1), so that pictures made in a browser and
// on a server have the same letters to the last bit.
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { openSync } from 'fontkit';
import { format, resolveConfig } from 'prettier';
import { root } from './setup.mjs';

const FILE = 'packages/core/src/title/outlines.ts';
const folder = join(root, 'node_modules/@fontsource/bricolage-grotesque/files');
const fonts = ['latin', 'latin-ext'].map((part) =>
  openSync(join(folder, `bricolage-grotesque-${part}-700-normal.woff`)),
);
/** Letters and signs of European languages in Latin script. */
const RANGES = [
  [0x20, 0x7e],
  [0xa0, 0x17f],
  [0x218, 0x21b],
  [0x1e9e, 0x1e9e],
  [0x2010, 0x2026],
  [0x20ac, 0x20ac],
];
/** Pairs of these are set closer or further apart as the font says. */
const KERNED = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz.,-’!?';

const glyphs = {};
for (const [from, to] of RANGES)
  for (let code = from; code <= to; code++) {
    const font = fonts.find((each) => each.hasGlyphForCodePoint(code));
    if (!font) continue;
    const glyph = font.glyphForCodePoint(code);
    glyphs[String.fromCodePoint(code)] = [Math.round(glyph.advanceWidth), pathOf(glyph)];
  }

/** Commands as the font has them, in its own units: M and L x y, Q x1 y1 x y, C x1 y1 x2 y2 x y. */
function pathOf({ path }) {
  const letters = { moveTo: 'M', lineTo: 'L', quadraticCurveTo: 'Q', bezierCurveTo: 'C', closePath: 'Z' };
  return path.commands.map(({ command, args }) => letters[command] + args.map(Math.round).join(' ')).join('');
}

const [latin] = fonts;
const kerning = {};
for (const a of KERNED)
  for (const b of KERNED) {
    const [{ xAdvance }] = latin.layout(a + b, ['kern']).positions;
    const value = Math.round(xAdvance - glyphs[a][0]);
    if (value) kerning[a + b] = value;
  }
const data = { em: latin.unitsPerEm, ascent: latin.ascent, descent: latin.descent, glyphs, kerning };
const text = `// Written by \`node scripts/title-font.mjs\`: Bricolage Grotesque Bold, under the SIL Open Font License 1.1.
/** Everything in units of the font, y upwards. A glyph is how far the next one is, and its outline. */
interface FontData { readonly em: number; readonly ascent: number; readonly descent: number; readonly glyphs: Readonly<Record<string, readonly [advance: number, outline: string]>>; readonly kerning: Readonly<Record<string, number>>; }

export const FONT = JSON.parse(${JSON.stringify(JSON.stringify(data))}) as FontData;
`;
writeFileSync(join(root, FILE), await format(text, { ...(await resolveConfig(FILE)), parser: 'typescript' }));
console.log(
  `${Object.keys(glyphs).length} glyphs, ${Object.keys(kerning).length} pairs, ${Math.round(text.length / 1024)} kB`,
);
