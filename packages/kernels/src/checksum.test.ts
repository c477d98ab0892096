import { readFileSync } from 'node:fs';
import { crc32 } from 'node:zlib';
import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { Kernels } from './kernels.js';

const kernels = new Kernels(new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm')));

describe('the checksum of a picture', () => {
  it('is the CRC-32 that everybody knows', () => {
    expect(kernels.checksum(new TextEncoder().encode('123456789'))).toBe('cbf43926');
    expect(kernels.checksum(new Uint8Array())).toBe('00000000');
  });

  it('is that of another program for any bytes', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 0, maxLength: 200 }), (bytes) => {
        expect(kernels.checksum(bytes)).toBe(crc32(bytes).toString(16).padStart(8, '0'));
      }),
    );
  });
});
