// CRC-32 (ISO 3309), sixteen bytes a step: M. E. Kounavis and F. L. Berry, "A Systematic Approach to Building High Performance
// Software-Based CRC Generators", ISCC 2005.

const STEP = 16;
/** Table n, of 256 words, has what a byte does to the remainder n bytes later. */
const tables: usize = memory.data(STEP * 1024, 16);

let isPrepared = false;

function prepare(): void {
  isPrepared = true;
  for (let byte: u32 = 0; byte < 256; byte++) {
    let crc = byte;
    for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? 0xedb88320 ^ (crc >> 1) : crc >> 1;
    store<u32>(tables + (byte << 2), crc);
  }
  for (let n = 1; n < STEP; n++)
    for (let byte: u32 = 0; byte < 256; byte++) {
      const crc = load<u32>(tables + <usize>(((n - 1) << 10) + (byte << 2)));
      store<u32>(tables + <usize>((n << 10) + (byte << 2)), entry(0, crc & 255) ^ (crc >> 8));
    }
}

/** The checksum of `count` bytes. */
export function checksum(data: usize, count: i32): u32 {
  if (!isPrepared) prepare();
  let crc: u32 = 0xffffffff;
  const end = data + <usize>count;
  for (; data + STEP <= end; data += STEP) {
    const a = load<u32>(data) ^ crc;
    const b = load<u32>(data, 4);
    const c = load<u32>(data, 8);
    const d = load<u32>(data, 12);
    crc = four(12, a) ^ four(8, b) ^ four(4, c) ^ four(0, d);
  }
  for (; data < end; data++) crc = entry(0, (crc ^ load<u8>(data)) & 255) ^ (crc >> 8);
  return ~crc;
}

/** What four bytes, the last of them n bytes before the end of the step, do to the remainder. */
// @ts-ignore: decorator
@inline
function four(n: i32, word: u32): u32 {
  return entry(n + 3, word & 255) ^ entry(n + 2, (word >> 8) & 255) ^ entry(n + 1, (word >> 16) & 255) ^ entry(n, word >> 24);
}

// @ts-ignore: decorator
@inline
function entry(n: i32, byte: u32): u32 {
  return load<u32>(tables + <usize>((n << 10) + (byte << 2)));
}
