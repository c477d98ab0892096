import { api } from '../api.ts';
import { tell } from '../session/notices.ts';

/** Bytes that are read at the beginning, in the middle and at the end. */
const WINDOW = 1 << 20;

/** Tells a file from others as the server does (`fingerprintOf`): SHA-256 of its length and of a mebibyte at its beginning, middle and end. */
export async function fingerprintOf(file: Blob): Promise<string> {
  const starts = [0, Math.floor((file.size - WINDOW) / 2), file.size - WINDOW].map((at) => Math.max(0, at));
  const windows = await Promise.all(starts.map((at) => file.slice(at, at + WINDOW).arrayBuffer()));
  const content = await new Blob([String(file.size), ...windows]).arrayBuffer();
  const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', content));
  return [...digest].map((byte) => byte.toString(16).padStart(2, '0')).join('');
}

/** Uses a chosen file where it lies, if that is a media folder of the server's machine. Answers whether it does: it need not be sent then. */
export async function takeWhereItLies(projectId: string, file: File): Promise<boolean> {
  try {
    // Pages that came over a plain network have no digests, and none of their files lies on the server's machine.
    if (!('subtle' in crypto) || (await api.mediaRoots()).length === 0) return false;
    const fingerprint = await fingerprintOf(file);
    const chosen = { name: file.name, bytes: file.size, modifiedMs: file.lastModified, fingerprint };
    const footage = await api.takeSame(projectId, chosen);
    if (!footage) return false;
    tell(`${footage.name} is used where it lies; nothing was copied.`);
    return true;
  } catch {
    // It is sent then, and what is wrong with it is said.
    return false;
  }
}
