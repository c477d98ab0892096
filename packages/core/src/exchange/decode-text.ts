declare const TextDecoder: new (label: string, options?: { fatal?: boolean }) => { decode(bytes: Uint8Array): string };

/**
 * The text of a file of another tool: UTF-16 where its first two bytes say so, or every second byte is empty; UTF-8 where it is that; else
 * the western letters of Windows, which hold all of Latin-1.
 */
export function decodeText(bytes: Uint8Array): string {
  const [a, b] = bytes;
  if (a === 0xff && b === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
  if (a === 0xfe && b === 0xff) return new TextDecoder('utf-16le').decode(swapped(bytes));
  if (bytes.length >= 4 && a !== 0 && b === 0 && bytes[3] === 0) return new TextDecoder('utf-16le').decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}

function swapped(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length & ~1);
  for (let i = 0; i < out.length; i += 2) [out[i], out[i + 1]] = [bytes[i + 1]!, bytes[i]!];
  return out;
}
