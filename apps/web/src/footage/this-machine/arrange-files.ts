import type { MediaFileFacts, MediaFolder } from '@idle-bend/core/api';

/** A file of a folder with what is known of it by now. */
export type ListedFile = MediaFolder['files'][number] & { readonly facts: MediaFileFacts | undefined };

export type Column = 'name' | 'rate' | 'length' | 'size' | 'codec' | 'bytes';

export interface Arrangement {
  readonly by: Column;
  readonly descending: boolean;
  /** Part of a name, or a rate such as 120. */
  readonly sought: string;
  /** Only files with at least so many frames a second. */
  readonly leastRate: number;
}

type Facts = Exclude<MediaFileFacts, { problem: string }>;
const known = ({ facts }: ListedFile): Facts | undefined => (facts && !('problem' in facts) ? facts : undefined);
const rateOf = (file: ListedFile) => known(file)?.picture?.framesPerSecond;

/** What files are sorted by; those of which it is not known come last either way. */
const VALUE: Readonly<Record<Column, (file: ListedFile) => number | string | undefined>> = {
  name: ({ name }) => name,
  rate: rateOf,
  length: (file) => known(file)?.seconds ?? undefined,
  size: (file) => {
    const picture = known(file)?.picture;
    return picture ? picture.width * picture.height : undefined;
  },
  codec: (file) => known(file)?.codec,
  bytes: ({ bytes }) => bytes,
};

/** The files that are wanted, in the order that is. */
export function arrangeFiles(
  files: readonly ListedFile[],
  { by, descending, sought, leastRate }: Arrangement,
): ListedFile[] {
  const text = sought.trim().toLowerCase();
  const shown = files.filter((file) => {
    const rate = rateOf(file);
    const isSought =
      text === '' || file.name.toLowerCase().includes(text) || (rate !== undefined && shortRate(rate) === text);
    return isSought && (leastRate === 0 || (rate !== undefined && rate > leastRate - 0.1));
  });
  const value = VALUE[by];
  return shown.sort((a, b) => {
    const [one, other] = [value(a), value(b)];
    if (one === undefined || other === undefined) return Number(one === undefined) - Number(other === undefined);
    const order =
      typeof one === 'string' ? one.localeCompare(String(other), 'en', { numeric: true }) : one - Number(other);
    return descending ? -order : order;
  });
}

/** 59.94, 60 or 23.976. */
export const shortRate = (rate: number): string => String(Number(rate.toFixed(3)));

/** What is picked after a press on a row: it goes in or out, or, to extend, all from the one picked last to it go in. */
export function pickedWith(
  picked: readonly string[],
  names: readonly string[],
  name: string,
  isExtending: boolean,
): readonly string[] {
  const last = names.indexOf(picked.at(-1) ?? '');
  if (isExtending && last >= 0) {
    const at = names.indexOf(name);
    const between = names.slice(Math.min(last, at), Math.max(last, at) + 1);
    return [...new Set([...picked, ...between])];
  }
  return picked.includes(name) ? picked.filter((other) => other !== name) : [...picked, name];
}
