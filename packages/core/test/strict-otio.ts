/**
 * Reads an OpenTimelineIO file as the schema has it (OpenTimelineIO documentation, "Serialized Schema Documentation"): every object is of a
 * schema that is known, in a place where such an object belongs, with all of its fields, each of its kind, and no other. Throws naming the place.
 */
type Check = (value: any, at: string) => void;

const fail = (at: string, problem: string): never => {
  throw new Error(`${at}: ${problem}`);
};
const text: Check = (v, at) => void (typeof v === 'string' || fail(at, 'is not text'));
const number: Check = (v, at) => void (Number.isFinite(v) || fail(at, 'is no number'));
const positive: Check = (v, at) => void (v > 0 || fail(at, 'is not above 0'));
const truth: Check = (v, at) => void (typeof v === 'boolean' || fail(at, 'is neither true nor false'));
const anything: Check = (v, at) =>
  void ((typeof v === 'object' && v !== null && !Array.isArray(v)) || fail(at, 'is no dictionary'));
const orNull =
  (check: Check): Check =>
  (v, at) =>
    v === null || check(v, at);
const oneOf =
  (...all: string[]): Check =>
  (v, at) =>
    void (all.includes(v) || fail(at, `"${v}" is not one of ${all.join(', ')}`));
const list =
  (...schemas: string[]): Check =>
  (v, at) =>
    Array.isArray(v) ? v.forEach((each, i) => object(...schemas)(each, `${at}[${i}]`)) : fail(at, 'is no list');
const object =
  (...schemas: string[]): Check =>
  (v, at) => {
    const { OTIO_SCHEMA: name, ...own } = v as { OTIO_SCHEMA: string; [field: string]: unknown };
    if (!schemas.includes(name)) fail(at, `is a ${name}, not a ${schemas.join(' or ')}`);
    const fields = SCHEMAS[name]!();
    for (const key of Object.keys(own)) if (!fields[key]) fail(`${at}.${key}`, `is no field of ${name}`);
    for (const [key, check] of Object.entries(fields)) {
      if (!(key in own)) fail(at, `has no ${key}`);
      check(own[key], `${at}.${key}`);
    }
  };

const COLOURS = ['PINK', 'RED', 'ORANGE', 'YELLOW', 'GREEN', 'CYAN', 'BLUE', 'PURPLE', 'MAGENTA', 'BLACK', 'WHITE'];
const named = () => ({ name: text, metadata: anything });
const item = () => ({
  ...named(),
  source_range: orNull(object('TimeRange.1')),
  effects: list('LinearTimeWarp.1', 'FreezeFrame.1'),
  markers: list('Marker.2'),
  enabled: truth,
});
const effect = () => ({ ...named(), effect_name: text });
const media = () => ({ ...named(), available_range: orNull(object('TimeRange.1')) });

const SCHEMAS: Readonly<Record<string, () => Record<string, Check>>> = {
  'Timeline.1': () => ({ ...named(), global_start_time: orNull(object('RationalTime.1')), tracks: object('Stack.1') }),
  'Stack.1': () => ({ ...item(), children: list('Track.1') }),
  'Track.1': () => ({ ...item(), kind: oneOf('Video', 'Audio'), children: list('Clip.1', 'Gap.1') }),
  'Clip.1': () => ({ ...item(), media_reference: object('ExternalReference.1', 'MissingReference.1') }),
  'Gap.1': item,
  'LinearTimeWarp.1': () => ({ ...effect(), time_scalar: number }),
  'FreezeFrame.1': () => ({ ...effect(), time_scalar: (v, at) => void (v === 0 || fail(at, 'of a freeze is not 0')) }),
  'Marker.2': () => ({ ...named(), color: oneOf(...COLOURS), comment: text, marked_range: object('TimeRange.1') }),
  'ExternalReference.1': () => ({ ...media(), target_url: text }),
  'MissingReference.1': media,
  'TimeRange.1': () => ({ start_time: object('RationalTime.1'), duration: object('RationalTime.1') }),
  'RationalTime.1': () => ({ value: number, rate: positive }),
};

export const readOtioStrictly = (value: unknown): void => object('Timeline.1')(value, 'timeline');
