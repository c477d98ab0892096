import { InvalidInput } from '../foundation/errors.js';
import { framesPerSecond, type Rate } from './rate.js';
import { parseTimecode } from './timecode.js';

/**
 * A length as people type it, in frames of a rate: `35` or `35f`, `1.46 s` (1.46 seconds), `1s 11f`, or a timecode such as `00:00:01:11` or
 * `01:11` (the parts left out are 0). Seconds may come to a fraction of a frame. Throws `InvalidInput`, naming `field`.
 */
export function parseLength(typed: string, rate: Rate, field = 'length'): number {
  const text = typed.trim().toLowerCase();
  if (/^[\d:;]+$/.test(text) && /[:;]/.test(text)) {
    const parts = text.split(/(?=[:;])/);
    const missing = Math.max(0, 4 - parts.length);
    return parseTimecode(
      `${'00:'.repeat(missing)}${text.padStart(2, '0')}`.replace(/(^|:)(\d)(?=[:;])/g, '$10$2'),
      rate,
      field,
    );
  }
  const match = /^(?:(\d+(?:\.\d+)?)\s*s)?\s*(?:(\d+(?:\.\d+)?)\s*f?)?$/.exec(text);
  if (text === '' || !match)
    throw new InvalidInput(field, `"${typed}" is not a length; write 35f, 1.46 s, 1s 11f or 00:00:01:11`);
  return Number(match[1] ?? 0) * framesPerSecond(rate) + Number(match[2] ?? 0);
}
