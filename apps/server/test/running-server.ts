import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import type { Project } from '@idle-bend/core/model';

/** A machine that has much else to do starts it in less. */
const START_MS = 120_000;

/** A server of its own on a port of its own, over HTTP, as its users have it. */
export class RunningServer {
  private constructor(
    readonly url: string,
    readonly data: string,
    private readonly child: ChildProcess,
  ) {}

  static async start(
    data = mkdtempSync(join(tmpdir(), 'idle-bend-server-')),
    args: readonly string[] = [],
    env: Readonly<Record<string, string>> = {},
  ): Promise<RunningServer> {
    const child = spawn(process.execPath, ['apps/server/dist/main.js', '--port', '0', '--data', data, ...args], {
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, NODE_OPTIONS: '', ...env },
    });
    let said = '';
    const url = await new Promise<string>((resolve, reject) => {
      const tooLong = () => reject(new Error(`the server does not say where it is: ${said}`));
      setTimeout(tooLong, START_MS).unref();
      child.stderr.on('data', (chunk: Buffer) => (said += chunk.toString()));
      child.stdout.on('data', (chunk: Buffer) => {
        const match = /http:\/\/[\d.]+:(\d+)/.exec((said += chunk.toString()));
        if (match) resolve(`http://127.0.0.1:${match[1]}`);
      });
      child.once('close', () => reject(new Error(`the server ended: ${said}`)));
    });
    return new RunningServer(url, data, child);
  }

  get pid(): number {
    return this.child.pid!;
  }

  async get<T = any>(path: string, headers: Record<string, string> = {}): Promise<{ status: number; body: T }> {
    return this.send('GET', path, undefined, headers);
  }

  async send<T = any>(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<{ status: number; body: T }> {
    const response = await fetch(this.url + path, {
      method,
      headers: { ...(body !== undefined && { 'Content-Type': 'application/json' }), ...headers },
      ...(body !== undefined && { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
    const text = await response.text();
    let parsed: unknown = text;
    try {
      parsed = JSON.parse(text);
    } catch {
      // Not JSON: the text itself.
    }
    return { status: response.status, body: parsed as T };
  }

  async newProject(name = 'Marble Parade', rate = '24'): Promise<{ id: string; version: number; document: Project }> {
    return (await this.send('POST', '/api/projects', { name, rate })).body;
  }

  /** Sends a file over tus in pieces; the answer is that of the last piece. */
  async upload(
    projectId: string,
    file: string,
    name = basename(file),
    pieces = 1,
    more: Record<string, string> = {},
  ): Promise<{ status: number; text: string; id: string }> {
    const content = readFileSync(file);
    const encode = (text: string) => Buffer.from(text).toString('base64');
    const created = await fetch(`${this.url}/api/uploads`, {
      method: 'POST',
      headers: {
        'Tus-Resumable': '1.0.0',
        'Upload-Length': String(content.length),
        'Upload-Metadata': Object.entries({ projectId, filename: name, ...more })
          .map(([key, value]) => `${key} ${encode(value)}`)
          .join(','),
      },
    });
    const place = new URL(created.headers.get('location') ?? '', `${this.url}/api/uploads`);
    let last: Response = created;
    for (let i = 0; i < pieces && last.ok; i++) {
      const at = await fetch(place, { method: 'HEAD', headers: { 'Tus-Resumable': '1.0.0' } });
      const from = Number(at.headers.get('upload-offset'));
      const to = i === pieces - 1 ? content.length : from + Math.floor(content.length / pieces);
      last = await fetch(place, {
        method: 'PATCH',
        headers: {
          'Tus-Resumable': '1.0.0',
          'Upload-Offset': String(from),
          'Content-Type': 'application/offset+octet-stream',
        },
        body: content.subarray(from, to),
      });
    }
    return { status: last.status, text: await last.text(), id: last.headers.get('x-footage-id') ?? '' };
  }

  /** Waits until something is as it should be; fails with what it last was. */
  async until<T>(look: () => Promise<T>, isSo: (value: T) => boolean, seconds = 300): Promise<T> {
    const end = Date.now() + seconds * 1000;
    for (;;) {
      const value = await look();
      if (isSo(value)) return value;
      if (Date.now() > end) throw new Error(`still ${JSON.stringify(value).slice(0, 500)} after ${seconds} s`);
      await new Promise((resolve) => setTimeout(resolve, 60));
    }
  }

  async footage(projectId: string): Promise<any[]> {
    return (await this.get(`/api/projects/${projectId}/footage`)).body;
  }

  /** A piece of footage once its proxy is made, or has failed to be. */
  async prepared(projectId: string, id: string): Promise<any> {
    const find = async () => (await this.footage(projectId)).find((f) => f.id === id);
    return this.until(find, (f) => f !== undefined && f.status !== 'preparing');
  }

  async kill(signal: 'SIGKILL' | 'SIGTERM' = 'SIGKILL'): Promise<void> {
    if (this.child.exitCode !== null || this.child.signalCode !== null) return;
    const closed = new Promise((resolve) => this.child.once('close', resolve));
    this.child.kill(signal);
    await closed;
  }

  /** Ends it and removes its data. */
  async discard(): Promise<void> {
    await this.kill('SIGTERM');
    rmSync(this.data, { recursive: true, force: true });
  }
}
