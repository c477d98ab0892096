import type { RunningServer } from './running-server.js';

export interface Brought {
  readonly status: number;
  readonly text: string;
  /** The project it became. */
  readonly id: string;
  /** Set where it had been brought before. */
  readonly again: string | null;
}

/** Brings a bundle to a server, the way the interface does. */
export async function bringBundle(on: RunningServer, content: Buffer): Promise<Brought> {
  const encode = (text: string) => Buffer.from(text).toString('base64');
  const metadata = `bundle ${encode('yes')},filename ${encode('it.zip')}`;
  const created = await fetch(`${on.url}/api/uploads`, {
    method: 'POST',
    headers: { 'Tus-Resumable': '1.0.0', 'Upload-Length': String(content.length), 'Upload-Metadata': metadata },
  });
  const place = new URL(created.headers.get('location')!, `${on.url}/api/uploads`);
  const answer = await fetch(place, {
    method: 'PATCH',
    headers: { 'Tus-Resumable': '1.0.0', 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' },
    body: new Uint8Array(content),
  });
  return {
    status: answer.status,
    text: await answer.text(),
    id: answer.headers.get('x-project-id') ?? '',
    again: answer.headers.get('x-taken-again'),
  };
}
