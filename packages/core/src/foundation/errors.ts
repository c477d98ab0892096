/** A value that came from outside (a file, a form, an option) and cannot be used. The message is one sentence for a person. */
export class InvalidInput extends Error {
  override readonly name = 'InvalidInput';

  /**
   * @param field what the value belongs to: an option, a JSON path, a file name
   * @param problem what is wrong with it and what would be right
   */
  constructor(
    readonly field: string,
    readonly problem: string,
  ) {
    super(`${field}: ${problem}`);
  }
}
