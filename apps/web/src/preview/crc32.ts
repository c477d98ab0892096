const CRC = Uint32Array.from({ length: 256 }, (_, n) => {
  for (let bit = 0; bit < 8; bit++) n = n & 1 ? 0xedb88320 ^ (n >>> 1) : n >>> 1;
  return n;
});

/** CRC-32 (ISO 3309) as eight hexadecimal digits. */
export function crc32(data: Uint8Array): string {
  let crc = ~0;
  for (let i = 0; i < data.length; i++) crc = CRC[(crc ^ data[i]!) & 255]! ^ (crc >>> 8);
  return (~crc >>> 0).toString(16).padStart(8, '0');
}
