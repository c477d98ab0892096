import type { LoggerService } from '@nestjs/common';
import pino from 'pino';

const output = pino(
  { base: undefined, timestamp: pino.stdTimeFunctions.isoTime, formatters: { level: (level) => ({ level }) } },
  pino.destination({ fd: 2, sync: true }),
);

/** Nest hands over the message, then whatever else was said, and last the area that says it. */
const write =
  (level: 'error' | 'warn' | 'info' | 'fatal') =>
  (message: unknown, ...rest: unknown[]) => {
    const area = rest.at(-1);
    const stack = rest.length > 1 && typeof rest[0] === 'string' ? { stack: rest[0] } : {};
    output[level]({ area, ...stack }, message instanceof Error ? (message.stack ?? message.message) : String(message));
  };

/** What the server has to say to its operator: a line of JSON each on its standard error, warnings and errors only. */
export const serverLog: LoggerService = {
  log: () => undefined,
  warn: write('warn'),
  error: write('error'),
  fatal: write('fatal'),
};
