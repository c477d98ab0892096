import type { EndChoice, Method, Project, Rate } from '@idle-bend/core';

/** A refusal from the server: its sentence, and its status. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

async function call<T>(path: string, options: { method?: string; body?: unknown } = {}): Promise<T> {
  const response = await fetch(`/api/${path}`, {
    method: options.method ?? 'GET',
    ...(options.body !== undefined && { body: JSON.stringify(options.body), headers: { 'Content-Type': 'application/json' } }),
  }).catch(() => {
    throw new ApiError('The server does not answer.', 0);
  });
  const answer = (await response.json().catch(() => ({}))) as T & { message?: string };
  if (!response.ok) throw new ApiError(answer.message ?? `The server refused (${response.status}).`, response.status);
  return answer;
}

export interface ProjectSummary {
  readonly id: string;
  readonly name: string;
  readonly version: number;
  readonly updatedAt: string;
  /** The footage whose filmstrip stands for the project. */
  readonly coverId: string | null;
}

export interface OpenedProject extends ProjectSummary {
  /** Files put into this folder are imported. */
  readonly watchedFolder: string;
  readonly document: Project;
}

/** As the server's own type of this name (docs/api.md). */
export interface PictureFacts {
  readonly rate: Rate;
  readonly frames: number;
  readonly width: number;
  readonly height: number;
  readonly codec: string;
  readonly pixelAspect: Rate;
  readonly rotation: number;
  readonly bitDepth: number;
  readonly variable: { readonly held: number; readonly dropped: number } | null;
  readonly interlaced: boolean;
  readonly dropFrame: boolean;
  readonly proxy: { readonly width: number; readonly height: number };
  readonly strip: { readonly step: number; readonly count: number };
}

export interface FootageFacts {
  readonly container: string;
  readonly bytes: number;
  readonly durationSeconds: number | null;
  readonly startTimecode: string | null;
  readonly captureRate: Rate | null;
  readonly picture: PictureFacts | null;
  readonly sound: { readonly codec: string; readonly channels: number; readonly sampleRate: number; readonly startSeconds: number } | null;
}

export interface Footage {
  readonly id: string;
  readonly name: string;
  readonly status: 'preparing' | 'ready' | 'failed';
  readonly problem: string | null;
  readonly facts: FootageFacts;
}

export interface Render {
  readonly id: string;
  readonly fileName: string;
  readonly container: 'mp4' | 'mkv';
  readonly status: 'queued' | 'running' | 'done' | 'failed' | 'cancelled';
  readonly problem: string | null;
  readonly frames: number;
  readonly bytes: number | null;
  readonly createdAt: string;
  readonly done: number;
  readonly secondsLeft: number | null;
}

/** Every window has a name of its own, so that it does not answer to its own changes. */
export const WINDOW_NAME = crypto.randomUUID();

export const api = {
  projects: () => call<ProjectSummary[]>('projects'),
  createProject: (name: string, rate: string) => call<OpenedProject>('projects', { method: 'POST', body: { name, rate } }),
  openProject: (id: string) => call<OpenedProject>(`projects/${id}`),
  keepDocument: (id: string, version: number, document: Project) =>
    call<{ version: number }>(`projects/${id}/document`, { method: 'PUT', body: { version, document, by: WINDOW_NAME } }),
  footage: (projectId: string) => call<Footage[]>(`projects/${projectId}/footage`),
  removeFootage: (id: string) => call<object>(`footage/${id}`, { method: 'DELETE' }),
  renders: (projectId: string) => call<Render[]>(`projects/${projectId}/renders`),
  startRender: (projectId: string, container: 'mp4' | 'mkv') => call<Render>(`projects/${projectId}/renders`, { method: 'POST', body: { container } }),
  cancelRender: (id: string) => call<object>(`renders/${id}/cancel`, { method: 'POST' }),
  removeRender: (id: string) => call<object>(`renders/${id}`, { method: 'DELETE' }),
};

export const proxyUrl = (footageId: string) => `/api/footage/${footageId}/proxy`;
export const stripUrl = (footageId: string) => `/api/footage/${footageId}/strip`;
export const renderUrl = (renderId: string) => `/api/renders/${renderId}/file`;
export const stillUrl = (footageId: string, position: number, method: Method, end: EndChoice) =>
  `/api/footage/${footageId}/frame?position=${position.toFixed(9)}&method=${method}&end=${end}`;
