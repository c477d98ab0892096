import { InvalidInput } from '../foundation/errors.js';
import { array, finite, object, onlyFields } from '../foundation/readers.js';
import type { Landing } from '../clean/landing.js';

/** Reads a landings file: `[{"moment": source frame, "cue": timeline frame}, …]`. Throws `InvalidInput` naming file and entry. */
export function parseLandings(text: string, name = 'landings'): Landing[] {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw new InvalidInput(name, `is not JSON (${(error as Error).message})`);
  }
  return array(json, name, 10_000).map((entry, i) => {
    const at = `${name}[${i}]`;
    const landing = object(entry, at);
    onlyFields(landing, ['moment', 'cue'], at);
    return { moment: finite(landing['moment'], `${at}.moment`), cue: finite(landing['cue'], `${at}.cue`) };
  });
}
