/** Spacings hits of one kind have, in beats. */
const SPACINGS = [4, 3, 2, 1.5, 1, 3 / 4, 2 / 3, 1 / 2, 1 / 3, 1 / 4, 1 / 6, 1 / 8];
/** A hit no further than this share of a spacing from its place is the one of that place. */
const AT_ITS_PLACE = 0.25;
/** With fewer at their places than this share, hits have no pattern, and are counted as they come. */
const REGULAR = 0.8;

/**
 * Every `every`-th of the hits, from the one that is `first` places after the first: counted along the beats, so that one that was not
 * heard, or one between, puts nothing after it out of step. Without beats, or where hits follow no pattern, they are counted as they
 * come. Times in seconds, increasing.
 */
export function everyNth(hits: readonly number[], beats: readonly number[], every: number, first: number): number[] {
  const asTheyCome = () => hits.filter((_, i) => i % every === first);
  if (every === 1 || hits.length < 3 || beats.length < 2) return asTheyCome();
  const places = inBeats(hits, beats);
  const gaps = places.slice(1).map((place, i) => place - places[i]!);
  const spacing = nearestSpacing(gaps.toSorted((a, b) => a - b)[gaps.length >> 1]!);
  const start = phaseOf(places, spacing);
  const numbers = places.map((place) => Math.round((place - start) / spacing));
  const isAt = places.map((place, i) => Math.abs((place - start) / spacing - numbers[i]!) <= AT_ITS_PLACE);
  const atPlace = isAt.filter(Boolean).length;
  if (atPlace < REGULAR * hits.length) return asTheyCome();
  const origin = numbers[isAt.indexOf(true)]!;
  let last: number | undefined;
  return hits.filter((_, i) => {
    const number = numbers[i]!;
    // Of two at one place the first.
    if (!isAt[i] || number === last) return false;
    last = number;
    return (((number - origin) % every) + every) % every === first;
  });
}

/** Seconds, increasing, as beats, whole at each of them; beyond the first and the last they go on evenly. */
function inBeats(seconds: readonly number[], beats: readonly number[]): number[] {
  let i = 0;
  return seconds.map((second) => {
    while (i < beats.length - 2 && beats[i + 1]! <= second) i++;
    return i + (second - beats[i]!) / (beats[i + 1]! - beats[i]!);
  });
}

const nearestSpacing = (gap: number): number =>
  SPACINGS.reduce((best, spacing) =>
    Math.abs(Math.log(spacing / gap)) < Math.abs(Math.log(best / gap)) ? spacing : best,
  );

/** Where in a spacing most hits lie: the angle of the sum of their unit vectors. */
function phaseOf(places: readonly number[], spacing: number): number {
  const turn = (place: number) => (2 * Math.PI * place) / spacing;
  const [x, y] = places.reduce(
    ([x, y], place) => [x + Math.cos(turn(place)), y + Math.sin(turn(place))] as [number, number],
    [0, 0] as [number, number],
  );
  return (Math.atan2(y, x) / (2 * Math.PI)) * spacing;
}
