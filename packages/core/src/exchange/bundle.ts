import type { FootageFacts } from '../api/api.js';
import { readFacts } from '../api/readers.js';
import { InvalidInput } from '../foundation/errors.js';
import { array, object, onlyFields, string, whole } from '../foundation/readers.js';
import type { Project } from '../model/project.js';
import { mapClips } from '../reel/clips.js';

/** What a bundle (docs/formats.md) says it holds. */
export interface BundleManifest {
  readonly format: 'idle-bend-bundle';
  readonly version: typeof BUNDLE_VERSION;
  readonly name: string;
  readonly footage: readonly BundledFootage[];
}

export interface BundledFootage {
  readonly id: string;
  readonly name: string;
  /** Its original's name, inside the bundle where that is there. */
  readonly fileName: string;
  readonly bytes: number;
  /** By which the file is known again (see `fingerprintOf`); none of footage that is older than that. */
  readonly fingerprint: string | null;
  readonly facts: FootageFacts;
  /** What looking at its pictures found, as it was kept; it is not read here. */
  readonly health: unknown;
}

export const BUNDLE_FORMAT = 'idle-bend-bundle';

export const BUNDLE_VERSION = 1;

/** More footage than any project has. */
const MAX_FOOTAGE = 10_000;

/** Reads what a bundle says it holds. Throws `InvalidInput` naming the field. */
export function parseBundle(value: unknown): BundleManifest {
  const file = object(value, 'bundle');
  if (file['format'] !== BUNDLE_FORMAT) throw new InvalidInput('bundle.format', 'is not that of a bundle');
  if (whole(file['version'], 'bundle.version') > BUNDLE_VERSION)
    throw new InvalidInput('bundle.version', 'is newer than this program reads');
  onlyFields(file, ['format', 'version', 'name', 'footage'], 'bundle');
  const footage = array(file['footage'], 'bundle.footage', MAX_FOOTAGE).map((each, i) =>
    readFootage(each, `bundle.footage[${i}]`),
  );
  if (new Set(footage.map(({ id }) => id)).size < footage.length)
    throw new InvalidInput('bundle.footage', 'has the same id twice');
  return { format: BUNDLE_FORMAT, version: BUNDLE_VERSION, name: string(file['name'], 'bundle.name', 120), footage };
}

function readFootage(value: unknown, field: string): BundledFootage {
  const one = object(value, field);
  onlyFields(one, ['id', 'name', 'fileName', 'bytes', 'fingerprint', 'facts', 'health'], field);
  const fileName = string(one['fileName'], `${field}.fileName`, 100);
  if (!BUNDLED_ORIGINAL.test(fileName)) throw new InvalidInput(`${field}.fileName`, 'is not the name of an original');
  const id = string(one['id'], `${field}.id`, 100);
  // It becomes the name of a folder.
  if (!/^[\w-]+$/.test(id)) throw new InvalidInput(`${field}.id`, 'must be made of letters, digits, _ and -');
  const { fingerprint } = one;
  if (fingerprint !== null && !/^[0-9a-f]{64}$/.test(string(fingerprint, `${field}.fingerprint`)))
    throw new InvalidInput(`${field}.fingerprint`, 'is not a fingerprint');
  return {
    id,
    name: string(one['name'], `${field}.name`, 200),
    fileName,
    bytes: whole(one['bytes'], `${field}.bytes`),
    fingerprint: fingerprint as string | null,
    facts: readFacts(one['facts'], `${field}.facts`),
    health: one['health'] ?? null,
  };
}

/** How originals are named, here and in the data folder. */
export const BUNDLED_ORIGINAL = /^original[\w-]*(\.\w{1,10})?$/;

/** What goes into a bundle of its media: these themselves, proxies that stand for them, or only what they are known again by. */
export const BUNDLED_MEDIA = ['yes', 'proxies', 'no'] as const;

export type BundledMedia = (typeof BUNDLED_MEDIA)[number];

/** What stands for an original that is not there: its proxy and its filmstrip, and its sound. */
export const BUNDLED_PROXY: readonly string[] = ['proxy.mp4', 'strip.jpg'];

export const BUNDLED_SOUND = 'sound.flac';

/** The project with other ids for its footage, where a server has those already. */
export function withFootageIds(project: Project, idOf: ReadonlyMap<string, string>): Project {
  const id = (old: string) => idOf.get(old) ?? old;
  const clips = mapClips(project, (clip) => ({ ...clip, sourceId: id(clip.sourceId) }));
  return {
    ...clips,
    sources: clips.sources.map((source) => ({ ...source, id: id(source.id) })),
    reel: { ...clips.reel, sounds: clips.reel.sounds.map((sound) => ({ ...sound, footageId: id(sound.footageId) })) },
  };
}
