import type { FootageFacts } from '@idle-bend/core/api';
import type { Frame } from '@idle-bend/core/frame';
import {
  AlikeProbe,
  checkSoundDecodes,
  fingerprintOf,
  indexSoon,
  keepBeside,
  type MediaFacts,
  MediaError,
  type OpenedSource,
  probe,
  proxyPictures,
  readFacts,
  readTables,
} from '@idle-bend/media';
import { defineJob } from './define-job.js';

/** A file that was looked into. */
export interface InspectedFile {
  /** Its name as it is shown. */
  readonly name: string;
  readonly facts: FootageFacts;
  /** Not known where it was not asked for. */
  readonly fingerprint: string | null;
  /** Its first picture as its proxy has it; none of sound alone, or where it was not asked for. */
  readonly first: Frame | undefined;
}

export interface InspectInput {
  readonly file: string;
  readonly name: string;
  /** A path of ours beside which its frame list is kept, so that nobody has to look for it again. */
  readonly beside?: string;
}

/** Looks into a file that is to become footage; refuses one that cannot. */
export const inspect = defineJob({
  silentSeconds: 900,
  isAwaited: true,
  run: (input: InspectInput): Promise<InspectedFile> =>
    look(input, (file, name) => probe(file, name), { first: true, fingerprint: true }),
});

/** So many files are looked into together: each waits for the disk, or for a program. */
const TOGETHER = 4;

/** A file that cannot become footage, and why. */
export interface RefusedFile {
  readonly problem: string;
}

/** What is known of kinds of files (see `AlikeProbe`). */
export type Kinds = AlikeProbe['kinds'];

export interface InspectManyInput {
  readonly files: readonly InspectInput[];
  readonly fingerprint: boolean;
  readonly kinds: Kinds;
}

export interface InspectedFiles {
  readonly found: readonly (InspectedFile | RefusedFile)[];
  readonly kinds: Kinds;
}

/**
 * Looks into many files, in their order. Their first pictures are not decoded: that shows with their proxies. Fingerprints take longer than all
 * the rest.
 */
export const inspectMany = defineJob({
  silentSeconds: 900,
  isAwaited: true,
  async run({ files, fingerprint, kinds }: InspectManyInput, { onProgress }): Promise<InspectedFiles> {
    const found: (InspectedFile | RefusedFile)[] = [];
    const waiting = [...files.entries()];
    const alike = new AlikeProbe(kinds);
    const facts: Probing = (file, name, tables) => alike.probe(file, name, tables);
    const lane = async () => {
      for (let next = waiting.shift(); next; next = waiting.shift()) {
        const [i, file] = next;
        found[i] = await look(file, facts, { first: false, fingerprint }).catch((error: Error) => {
          if (error instanceof MediaError) return { problem: error.message };
          throw error;
        });
        onProgress(files.length - waiting.length, files.length);
      }
    };
    await Promise.all(Array.from({ length: TOGETHER }, lane));
    return { found, kinds: alike.kinds };
  },
});

/** How what a file says of itself is found out, with the tables of its header. */
type Probing = (file: string, name: string, tables: ReturnType<typeof readTables>) => Promise<MediaFacts>;

async function look(
  { file, name, beside }: InspectInput,
  facts: Probing,
  wanted: { readonly first: boolean; readonly fingerprint: boolean },
): Promise<InspectedFile> {
  // While the program is asked, its tables are read.
  const tables = readTables(file);
  const fingerprint = wanted.fingerprint ? fingerprintOf(file) : null;
  fingerprint?.catch(() => undefined);
  const media = await facts(file, name, tables);
  const index = media.video && (await indexSoon(file, media, { tables }));
  const source = index && { file, facts: media, index };
  // What was found is written down while the first picture is decoded.
  const kept = beside !== undefined && source && !index.isEstimated ? keepBeside(beside, source) : undefined;
  kept?.catch(() => undefined);
  const first = source && wanted.first ? await firstPicture(source) : undefined;
  if (!source) await checkSoundDecodes(file, media);
  await kept;
  return { name, facts: readFacts(media, index), fingerprint: await fingerprint, first };
}

/** Shows too whether its content can be decoded. Throws `MediaError`. */
async function firstPicture(source: OpenedSource): Promise<Frame> {
  const pictures = proxyPictures(source);
  try {
    const [first] = await pictures.frames([0]);
    return first!;
  } finally {
    pictures.close();
  }
}
