import { Catch, HttpException, Logger, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common';
import { InvalidInput } from '@idle-bend/core/foundation';
import { MediaError } from '@idle-bend/media';
import type { Response } from 'express';

/** Answers every error as `{ message }`, one sentence; what is not foreseen is logged and told without its insides. */
@Catch()
export class ErrorFilter implements ExceptionFilter {
  private readonly logger = new Logger('http');

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    if (response.headersSent) return;
    if (error instanceof HttpException) {
      const body = error.getResponse();
      const said =
        typeof body === 'string' ? body : ((body as { message?: string | string[] }).message ?? error.message);
      // The framework passes on the parser's own words, which speak of positions in a text nobody typed.
      const message =
        error.getStatus() === 400 && /JSON/.test(String(said))
          ? 'The request is not JSON.'
          : Array.isArray(said)
            ? said.join('; ')
            : said;
      response.status(error.getStatus()).json({ ...(typeof body === 'object' ? body : {}), message });
    } else if (error instanceof InvalidInput || error instanceof MediaError) {
      response.status(422).json({ message: error.message });
    } else if ((error as { type?: string }).type === 'entity.too.large') {
      response.status(413).json({ message: 'The request is larger than this server takes.' });
    } else if (error instanceof URIError) {
      response.status(400).json({ message: 'The address cannot be read.' });
    } else if (isGone(error)) {
      // Its path is nobody's business.
      response.status(404).json({ message: 'That file is not there any more.' });
    } else if (noRoom(error)) {
      response
        .status(507)
        .json({ message: 'The disk of the data folder is full: this was not kept. Free some, and try again.' });
    } else if (notWritable(error)) {
      response
        .status(503)
        .json({ message: 'The data folder cannot be written: this was not kept. Make it writable, and try again.' });
    } else {
      this.logger.error((error as Error).stack ?? String(error));
      response.status(500).json({ message: 'Something went wrong on the server; its log says more.' });
    }
  }
}

/** Codes of the file system and of the database, which are wrapped in errors of the library between. */
function codeOf(error: unknown): string {
  const { code, original, parent } = error as {
    code?: string;
    original?: { code?: string; message?: string };
    parent?: { code?: string };
  };
  return original?.code ?? parent?.code ?? code ?? '';
}

const isGone = (error: unknown) => codeOf(error) === 'ENOENT' || (error as { status?: number }).status === 404;
const noRoom = (error: unknown) => ['ENOSPC', 'EDQUOT', 'SQLITE_FULL'].includes(codeOf(error));
const notWritable = (error: unknown) =>
  ['EROFS', 'EACCES', 'EPERM', 'SQLITE_READONLY', 'SQLITE_CANTOPEN', 'SQLITE_IOERR'].includes(codeOf(error));
