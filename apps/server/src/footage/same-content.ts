import { constants } from 'node:fs';
import { copyFile, open, rename, stat, type FileHandle } from 'node:fs/promises';
import { Injectable } from '@nestjs/common';
import { Op } from 'sequelize';
import { FootageRow } from '../storage/rows.js';
import { FootagePaths } from './footage-paths.js';

/** So many bytes of two files are compared at a time. */
const BLOCK = 1 << 20;

/** What was made of a file is not made again for footage of the very same content, in this project or another. */
@Injectable()
export class SameContent {
  /** Whether two originals were the same: a file's proxy, motion and sound each ask. */
  private readonly compared = new Map<string, boolean>();

  constructor(private readonly paths: FootagePaths) {}

  /**
   * Copies files from the folder of footage that has them and whose original is the same, byte for byte; the copies share their blocks
   * where the disk can do that. Answers that footage; `undefined` where no other has them, or its files cannot be read.
   * @param names in the order they are copied; the last one says that all are there
   * @param hasMade whether footage has them
   * @param goesOn whether they are still wanted
   */
  async borrow(
    row: FootageRow,
    names: readonly string[],
    hasMade: (other: FootageRow) => boolean,
    goesOn: () => boolean,
  ): Promise<FootageRow | undefined> {
    if (row.fingerprint === null) return undefined;
    const { fingerprint, facts } = row;
    const rows = await FootageRow.findAll({ where: { fingerprint, facts, id: { [Op.ne]: row.id } } });
    for (const other of rows.filter(hasMade)) {
      try {
        if (!(await this.isSame(row, other, goesOn))) continue;
        for (const name of names) await putCopy(this.paths.at(other.id, name), this.paths.at(row.id, name));
        return other;
      } catch {
        // One of the files went meanwhile, or there is no room: whoever makes it then says so.
      }
    }
    return undefined;
  }

  private async isSame(row: FootageRow, other: FootageRow, goesOn: () => boolean): Promise<boolean> {
    const pair = `${row.id}/${row.fileName} ${other.id}/${other.fileName}`;
    // Asks for both paths even when they were compared: a file that is gone or was changed is no longer the one it was.
    const [a, b] = [this.paths.original(row), this.paths.original(other)];
    const known = this.compared.get(pair);
    if (known !== undefined) return known;
    const isSame = await isSameFile(a, b, goesOn);
    if (goesOn()) this.compared.set(pair, isSame);
    return isSame;
  }
}

/** Either the whole copy is there under its name, or none. */
async function putCopy(file: string, target: string): Promise<void> {
  const part = `${target}.part`;
  await copyFile(file, part, constants.COPYFILE_FICLONE);
  await rename(part, target);
}

/** Whether two files have the same bytes. Given up, with `false`, when it is no longer wanted. */
async function isSameFile(a: string, b: string, goesOn: () => boolean): Promise<boolean> {
  const [one, other] = await Promise.all([stat(a), stat(b)]);
  if (one.size !== other.size) return false;
  if (one.dev === other.dev && one.ino === other.ino) return true;
  const files: FileHandle[] = [];
  try {
    for (const file of [a, b]) files.push(await open(file, 'r'));
    const [blockA, blockB] = [Buffer.alloc(BLOCK), Buffer.alloc(BLOCK)];
    for (let at = 0; at < one.size; at += BLOCK) {
      if (!goesOn()) return false;
      const [readA, readB] = await Promise.all([
        files[0]!.read(blockA, 0, BLOCK, at),
        files[1]!.read(blockB, 0, BLOCK, at),
      ]);
      if (readA.bytesRead !== readB.bytesRead || blockA.compare(blockB, 0, readB.bytesRead, 0, readA.bytesRead) !== 0)
        return false;
    }
    return true;
  } finally {
    for (const file of files) await file.close();
  }
}
