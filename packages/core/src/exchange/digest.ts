/**
 * Stands for what tracks say: the order of fields, the spelling of numbers and versions of schemas, which tools write each in their own way,
 * do not count; what is shown when does. Sixty-four bits of FNV-1a over the UTF-16 of it, in hexadecimal: it tells an edit, and guards nothing.
 */
export function digestOf(tracks: unknown): string {
  const text = JSON.stringify(said(tracks));
  let [high, low] = [0xcbf29ce4, 0x84222325];
  for (let i = 0; i < text.length; i++) {
    low ^= text.charCodeAt(i);
    // Times the prime 2⁴⁰ + 0x1b3, in two halves of 32 bits.
    const product = low * 0x1b3;
    high = (Math.imul(high, 0x1b3) + Math.floor(product / 2 ** 32) + (low << 8)) >>> 0;
    low = product >>> 0;
  }
  return `${high.toString(16).padStart(8, '0')}${low.toString(16).padStart(8, '0')}`;
}

/** Fields that say what is shown, and when. */
const SAID = [
  'OTIO_SCHEMA',
  'name',
  'kind',
  'children',
  'source_range',
  'start_time',
  'duration',
  'value',
  'rate',
  'effects',
  'time_scalar',
  'markers',
  'marked_range',
  'media_reference',
  'target_url',
  'enabled',
];

function said(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(said);
  if (typeof value === 'number') return Number(value.toFixed(5));
  if (typeof value === 'string') return value.replace(/\.\d+$/, '');
  if (typeof value !== 'object' || value === null) return value;
  const one = value as Record<string, unknown>;
  // Of several references the one in use counts, which newer schemas have in a table.
  const references = one['media_references'] as Record<string, unknown> | undefined;
  const reference = references && {
    media_reference: references[String(one['active_media_reference_key'] ?? 'DEFAULT_MEDIA')],
  };
  const all: Record<string, unknown> = { ...one, ...reference };
  return SAID.flatMap((name) => {
    const found = all[name];
    const isSilent =
      found === undefined ||
      found === null ||
      (Array.isArray(found) && found.length === 0) ||
      (name === 'enabled' && found === true);
    return isSilent ? [] : [[name, said(found)]];
  });
}
