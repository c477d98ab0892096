// MPEG-4 with its B-pictures packed: two pictures in one chunk of an AVI and an empty one after it, as encoders of the format's first years
// wrote them. No encoder at hand does, so the chunks are packed here (ISO/IEC 14496-2 for the start codes, the RIFF AVI layout for the file).
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ffmpeg } from './draw.mjs';

const VOP = 0xb6;
const USER_DATA = 0xb2;
const I_VOP = 0;
const B_VOP = 2;

/** The stream's units, each beginning with its start code. */
function unitsOf(data) {
  const starts = [];
  for (let i = data.indexOf('\0\0\x01', 0, 'latin1'); i >= 0; i = data.indexOf('\0\0\x01', i + 3, 'latin1'))
    starts.push(i);
  return starts.map((start, i) => data.subarray(start, starts[i + 1] ?? data.length));
}

const kindOf = (vop) => vop[4] >> 6;

/** A picture that is not coded: the decoder shows what it holds. `timeBits`: bits of a time increment. */
function emptyVop(timeBits) {
  // Kind P, no whole second, marker, time increment 0, marker, not coded; then stuffing.
  const bits = `01${'0'}1${'0'.repeat(timeBits)}1${'0'}0`;
  const filled = bits.padEnd(Math.ceil(bits.length / 8) * 8, '1');
  return Buffer.concat([
    Buffer.from([0, 0, 1, VOP]),
    Buffer.from(filled.match(/.{8}/g).map((byte) => parseInt(byte, 2))),
  ]);
}

function chunksOf(units, timeBits) {
  // "p" says that pictures are packed.
  const says = Buffer.concat([Buffer.from([0, 0, 1, USER_DATA]), Buffer.from('DivX503b1393p\0')]);
  const chunks = [];
  let header = [];
  for (const unit of units) {
    if (unit[3] === USER_DATA) continue;
    if (unit[3] !== VOP) header.push(unit);
    else if (kindOf(unit) === B_VOP) {
      chunks[chunks.length - 1].push(unit);
      chunks.push([emptyVop(timeBits)]);
    } else {
      chunks.push([...header, ...(kindOf(unit) === I_VOP && header.length > 0 ? [says] : []), unit]);
      header = [];
    }
  }
  return chunks.map((parts) => Buffer.concat(parts));
}

const chunk = (id, data) => {
  const head = Buffer.alloc(8);
  head.write(id, 'latin1');
  head.writeUInt32LE(data.length, 4);
  return Buffer.concat([head, data, Buffer.alloc(data.length % 2)]);
};
const list = (kind, ...parts) => chunk('LIST', Buffer.concat([Buffer.from(kind, 'latin1'), ...parts]));
const words = (...values) => {
  const data = Buffer.alloc(4 * values.length);
  values.forEach((value, i) =>
    typeof value === 'string' ? data.write(value, 4 * i, 'latin1') : data.writeUInt32LE(value, 4 * i),
  );
  return data;
};

function avi(chunks, [width, height], [num, den]) {
  const largest = Math.max(...chunks.map(({ length }) => length));
  const main = words(
    Math.round((1e6 * den) / num),
    0,
    0,
    0x10,
    chunks.length,
    0,
    1,
    largest,
    width,
    height,
    0,
    0,
    0,
    0,
  );
  const stream = words(
    'vids',
    'XVID',
    0,
    0,
    0,
    den,
    num,
    0,
    chunks.length,
    largest,
    0xffffffff,
    0,
    0,
    width | (height << 16),
  );
  const format = words(40, width, height, 1 | (24 << 16), 'XVID', width * height * 3, 0, 0, 0, 0);
  const header = list('hdrl', chunk('avih', main), list('strl', chunk('strh', stream), chunk('strf', format)));
  const index = [];
  let offset = 4;
  for (const [i, data] of chunks.entries()) {
    index.push(words('00dc', i === 0 ? 0x10 : 0, offset, data.length));
    offset += 8 + data.length + (data.length % 2);
  }
  const body = [
    Buffer.from('AVI ', 'latin1'),
    header,
    list('movi', ...chunks.map((data) => chunk('00dc', data))),
    chunk('idx1', Buffer.concat(index)),
  ];
  return chunk('RIFF', Buffer.concat(body));
}

/** Packs a file with one B-picture at most between two others. */
export const packed = (size, rate) => async (whole, file, scratch) => {
  const raw = join(scratch, 'raw.m4v');
  await ffmpeg(['-i', whole, '-c', 'copy', '-f', 'm4v', raw]);
  const timeBits = Math.max(1, Math.ceil(Math.log2(rate[0])));
  await writeFile(file, avi(chunksOf(unitsOf(await readFile(raw)), timeBits), size, rate));
};
