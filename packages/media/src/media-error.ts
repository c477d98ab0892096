/** Something a file, a codec or the disk did. The message is one sentence for a person and names the file. */
export class MediaError extends Error {
  override readonly name = 'MediaError';
}
