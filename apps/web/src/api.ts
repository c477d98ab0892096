import { parseMotion, type SourceMotion } from '@idle-bend/core/motion';
import type {
  Backup,
  Binned,
  DiskUse,
  DroppableKind,
  Footage,
  HeardSound,
  MediaFileFacts,
  MediaFolder,
  MediaRoot,
  MotionCache,
  OpenedProject,
  ProjectSizes,
  ProjectSummary,
  Render,
  RenderEstimate,
  ServerState,
} from '@idle-bend/core/api';
import type { BundledMedia } from '@idle-bend/core/exchange';
import type { Patch, Project } from '@idle-bend/core/model';
import type { ProxyLines } from '@idle-bend/core/proxy';
import type { RenderPart, RenderSettings } from '@idle-bend/core/render';
import type { SavedShape } from '@idle-bend/core/shape';
import { randomId } from './random-id.ts';

/** A refusal from the server: its sentence, and its status. */
class ApiError extends Error {
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
    ...(options.body !== undefined && {
      body: JSON.stringify(options.body),
      headers: { 'Content-Type': 'application/json' },
    }),
  }).catch(() => {
    throw new ApiError('The server does not answer.', 0);
  });
  // The server's own page then asks for its token.
  if (response.status === 401) location.reload();
  const answer = (await response.json().catch(() => ({}))) as T & { message?: string };
  if (!response.ok) throw new ApiError(answer.message ?? `The server refused (${response.status}).`, response.status);
  return answer;
}

/** What of the reel is to be rendered, and as what. */
export interface RenderRequest extends RenderSettings {
  readonly part: RenderPart;
  readonly clipId?: string;
}

/** Every window has a name of its own, so that it does not answer to its own changes. */
export const WINDOW_NAME = randomId() + randomId();

export const api = {
  shapes: () => call<SavedShape[]>('shapes'),
  keepShape: (shape: SavedShape) => call<object>(`shapes/${shape.id}`, { method: 'PUT', body: shape }),
  removeShape: (id: string) => call<object>(`shapes/${id}`, { method: 'DELETE' }),
  projects: () => call<ProjectSummary[]>('projects'),
  createProject: (name: string, rate: string) =>
    call<OpenedProject>('projects', { method: 'POST', body: { name, rate } }),
  duplicateProject: (id: string, name: string) =>
    call<OpenedProject>(`projects/${id}/duplicate`, { method: 'POST', body: { name } }),
  renameProject: (id: string, name: string) => call<object>(`projects/${id}`, { method: 'PATCH', body: { name } }),
  binProject: (id: string) => call<unknown>(`projects/${id}`, { method: 'DELETE' }),
  bin: () => call<Binned[]>('bin'),
  restoreProject: (id: string) => call<unknown>(`bin/${id}/restore`, { method: 'POST' }),
  deleteProject: (id: string) => call<unknown>(`bin/${id}`, { method: 'DELETE' }),
  openProject: (id: string) => call<OpenedProject>(`projects/${id}`),
  keepDocument: (id: string, version: number, document: Project) =>
    call<{ version: number }>(`projects/${id}/document`, {
      method: 'PUT',
      body: { version, document, by: WINDOW_NAME },
    }),
  backups: (projectId: string) => call<Backup[]>(`projects/${projectId}/backups`),
  goBack: (projectId: string, version: number) =>
    call<{ version: number }>(`projects/${projectId}/backups/${version}/restore`, { method: 'POST' }),
  /** What the data folder holds; what of it can be dropped goes, and the answer is what it holds then. */
  diskUse: () => call<DiskUse>('disk'),
  /** Bytes of every project. */
  projectSizes: () => call<ProjectSizes>('disk/projects'),
  dropFromDisk: (kind: DroppableKind) => call<DiskUse>(`disk/${kind}`, { method: 'DELETE' }),
  state: () => call<ServerState>('state'),
  footage: (projectId: string) => call<Footage[]>(`projects/${projectId}/footage`),
  /** The folders of the server's machine that footage may be taken from, and what is in them. */
  mediaRoots: () => call<MediaRoot[]>('media'),
  mediaFolder: (root: string, path: string) =>
    call<MediaFolder>(`media/${root}/folder?${new URLSearchParams({ path }).toString()}`),
  mediaFacts: (root: string, paths: readonly string[]) =>
    call<Record<string, MediaFileFacts>>(`media/${root}/facts`, { method: 'POST', body: { paths } }),
  /** Makes footage of files, or of what is in folders, where they lie. */
  takeReferences: (projectId: string, root: string, paths: readonly string[]) =>
    call<{ taken: Footage[]; problems: string[] }>(`projects/${projectId}/references`, {
      method: 'POST',
      body: { root, paths },
    }),
  /** Makes footage of a chosen file where it lies in a media folder; null where it lies in none. */
  takeSame: async (
    projectId: string,
    file: { readonly name: string; readonly bytes: number; readonly modifiedMs: number; readonly fingerprint: string },
  ) =>
    (await call<{ footage: Footage | null }>(`projects/${projectId}/references/same`, { method: 'POST', body: file }))
      .footage,
  /** Looks for missing files in the media roots; answers the footage that has its file again. */
  searchReferences: (projectId: string) =>
    call<Footage[]>(`projects/${projectId}/references/search`, { method: 'POST' }),
  /** A file that was changed where it lies is the same, or is taken as it is now. */
  takeChanged: (id: string, same: boolean) =>
    call<Footage>(`footage/${id}/reference`, { method: 'POST', body: { same } }),
  renameFootage: (id: string, name: string) => call<Footage>(`footage/${id}`, { method: 'PATCH', body: { name } }),
  makeFields: (id: string) => call<object>(`footage/${id}/fields`, { method: 'POST' }),
  binFootage: (id: string) => call<object>(`footage/${id}`, { method: 'DELETE' }),
  restoreFootage: (id: string) => call<unknown>(`footage/${id}/restore`, { method: 'POST' }),
  deleteFootage: (id: string) => call<unknown>(`bin/footage/${id}`, { method: 'DELETE' }),
  /** What is known of the motion in a piece of footage. */
  motion: async (id: string, revision: string): Promise<SourceMotion> =>
    parseMotion(await call(`footage/${id}/motion?revision=${revision}`)),
  /** What was heard in the sound of a piece of footage. */
  heard: async (id: string, revision: string): Promise<HeardSound> => {
    const heard = await call<Omit<HeardSound, 'sections'> & Partial<HeardSound>>(
      `footage/${id}/heard?revision=${revision}`,
    );
    // What was listened to before 2026-11-29 does not say how sure it is.
    return { sections: [], ...heard };
  },
  peaks: async (id: string, revision: string): Promise<Int8Array> => {
    const response = await fetch(`/api/footage/${id}/peaks?revision=${revision}`);
    if (!response.ok) throw new ApiError('The waveform is not there.', response.status);
    return new Int8Array(await response.arrayBuffer());
  },
  /** Where a patch of the picture is, from one frame to another, after or before it. */
  followPatch: (id: string, from: number, to: number, patch: Patch) =>
    call<{ places: [number, number][] }>(`footage/${id}/places`, { method: 'POST', body: { from, to, ...patch } }),
  /** How many lines a project's proxies have at most. */
  proxyLines: async (projectId: string) =>
    (await call<{ lines: ProxyLines }>(`projects/${projectId}/proxy-lines`)).lines,
  setProxyLines: (projectId: string, lines: ProxyLines) =>
    call<object>(`projects/${projectId}/proxy-lines`, { method: 'PUT', body: { lines } }),
  pieces: (id: string) => call<{ frames: number; made: number[] }>(`footage/${id}/pieces`),
  playing: (window: string) => call<object>(`playing/${window}`, { method: 'PUT' }),
  stopped: (window: string) => call<object>(`playing/${window}`, { method: 'DELETE' }),
  motionFirst: (id: string) => call<object>(`footage/${id}/motion`, { method: 'POST' }),
  listenAgain: (id: string) => call<object>(`footage/${id}/listening`, { method: 'POST' }),
  stopListening: (id: string) => call<object>(`footage/${id}/listening`, { method: 'DELETE' }),
  motionCache: () => call<MotionCache>('motion-cache'),
  dropMotionCache: () => call<object>('motion-cache', { method: 'DELETE' }),
  renders: (projectId: string) => call<Render[]>(`projects/${projectId}/renders`),
  startRender: (projectId: string, request: RenderRequest) =>
    call<Render[]>(`projects/${projectId}/renders`, { method: 'POST', body: request }),
  estimateRender: (projectId: string, request: RenderRequest) =>
    call<RenderEstimate>(`projects/${projectId}/renders/estimate`, { method: 'POST', body: request }),
  cancelRender: (id: string) => call<object>(`renders/${id}/cancel`, { method: 'POST' }),
  pauseRender: (id: string) => call<object>(`renders/${id}/pause`, { method: 'POST' }),
  resumeRender: (id: string) => call<object>(`renders/${id}/resume`, { method: 'POST' }),
  moveRender: (id: string, before: string | null) =>
    call<object>(`renders/${id}`, { method: 'PATCH', body: { before } }),
  removeRender: (id: string) => call<object>(`renders/${id}`, { method: 'DELETE' }),
};

export const proxyUrl = (footageId: string, revision: string) => `/api/footage/${footageId}/proxy?revision=${revision}`;
/** A small picture of a file of a media root, as it was when it was changed last. */
export const mediaPictureUrl = (root: string, path: string, modifiedMs: number) =>
  `/api/media/${root}/picture?${new URLSearchParams({ path, at: String(Math.round(modifiedMs)) }).toString()}`;
/** A small picture of footage, there before anything was made of it. */
export const posterUrl = (footageId: string, revision: string) =>
  `/api/footage/${footageId}/poster?revision=${revision}`;
/** Under it lie frames of the original, and the pieces of a proxy that is being made. */
export const footageUrl = (footageId: string) => `/api/footage/${footageId}`;
export const soundUrl = (footageId: string, revision: string) => `/api/footage/${footageId}/sound?revision=${revision}`;
export const stripUrl = (footageId: string, revision = '') => `/api/footage/${footageId}/strip?revision=${revision}`;
export const bundleUrl = (projectId: string, media: BundledMedia) => `/api/projects/${projectId}/bundle?media=${media}`;
export const renderUrl = (renderId: string) => `/api/renders/${renderId}/file`;
/** The address of a frame of the reel as its render has it, from the originals; `within`: of the reel inside that group. */
export const reelFrameUrl = (projectId: string, version: number, frame: number, within: string | undefined): string => {
  const asked = { frame: String(frame), ...(within !== undefined && { within }) };
  // The version tells the browser one document's frame from another's.
  return `/api/projects/${projectId}/frame?${new URLSearchParams(asked).toString()}#${version}`;
};
