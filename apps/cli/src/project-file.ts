import { readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join, resolve } from 'node:path';
import { InvalidInput } from '@idle-bend/core/foundation';
import { parseProject, type Project } from '@idle-bend/core/model';
import { makeScratchFolder, MediaError, openBundle, releaseScratch, type MediaFiles } from '@idle-bend/media';

/** A project as it lies in a file: a document, or a bundle. */
export interface ProjectFile {
  readonly name: string;
  readonly project: Project;
  /** The media behind its sources and sounds, as far as they are there. */
  readonly media: MediaFiles;
  /** Removes what was unpacked. */
  close(): Promise<void>;
}

/** Opens a document (.json) or a bundle (.zip). Media are those of the bundle and of the folder `media`, known by their names. Throws `InvalidInput` naming the file. */
export async function openProjectFile(file: string, media?: string): Promise<ProjectFile> {
  const name = basename(file).replace(/\.\w+$/, '');
  const inFolder = media === undefined ? new Map<string, string>() : await mediaIn(media);
  if (!/\.zip$/i.test(file)) {
    const project = await readDocument(file);
    return { name, project, media: knownByName(project, inFolder), close: () => Promise.resolve() };
  }
  const folder = makeScratchFolder(join(tmpdir(), 'idle-bend-bundle-'));
  const close = () => rm(folder, { recursive: true, force: true }).then(() => releaseScratch(folder));
  try {
    const bundle = await openBundle(file, folder);
    try {
      const found: Record<string, { file: string; name: string }> = {};
      for (const [i, footage] of bundle.manifest.footage.entries()) {
        const outside = inFolder.get(plain(footage.name));
        if (outside) found[footage.id] = { file: outside, name: footage.name };
        if (!bundle.files[i]!.has(footage.fileName)) continue;
        const to = join(folder, String(i), footage.fileName);
        await bundle.extract(i, footage.fileName, to);
        found[footage.id] = { file: to, name: footage.name };
      }
      return {
        name: bundle.manifest.name,
        project: bundle.document,
        media: { ...knownByName(bundle.document, inFolder), ...found },
        close,
      };
    } finally {
      bundle.close();
    }
  } catch (error) {
    await close();
    throw error;
  }
}

export async function readDocument(file: string): Promise<Project> {
  const content = await readFile(file, 'utf8').catch((error: Error) => {
    throw new InvalidInput(file, `cannot be read: ${error.message}`);
  });
  let value: unknown;
  try {
    value = JSON.parse(content);
  } catch {
    throw new InvalidInput(file, 'is not JSON');
  }
  return parseProject(value);
}

/** Names without folder and ending, letters and figures only: "parade march" is parade-march.ogg. */
const plain = (name: string) =>
  basename(name)
    .replace(/\.\w+$/, '')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]/gu, '');

/** The files of a folder by their plain names. */
export async function mediaIn(folder: string): Promise<Map<string, string>> {
  const names = await readdir(folder).catch((error: Error) => {
    throw new InvalidInput('--media', `${folder} cannot be read: ${error.message}`);
  });
  const media = names.filter((name) => !/\.(json|zip|txt|csv|edl|otio)$/i.test(name) && !name.startsWith('.'));
  return new Map(media.map((name) => [plain(name), resolve(folder, name)]));
}

export function knownByName({ sources, reel }: Project, files: ReadonlyMap<string, string>): MediaFiles {
  const all = [
    ...sources.map(({ id, name }) => ({ id, name })),
    ...reel.sounds.map(({ footageId, name }) => ({ id: footageId, name })),
  ];
  return Object.fromEntries(
    all.flatMap(({ id, name }) => {
      const file = files.get(plain(name)) ?? files.get(plain(id));
      return file ? [[id, { file, name: basename(file) }] as const] : [];
    }),
  );
}

/** Throws `MediaError` naming the first piece of footage whose file is not known. */
export function refuseMissing(project: Project, used: ReadonlySet<string>, media: MediaFiles): void {
  for (const { id, name } of project.sources)
    if (used.has(id) && !media[id])
      throw new MediaError(`The file of "${name}" is not there; name its folder with --media.`);
}
