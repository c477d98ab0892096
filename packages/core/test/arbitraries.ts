import fc from 'fast-check';
import { clampBends, HARD, type TimeMap } from '../src/time-map/time-map.js';
import { easeCurve, NAMED_EASES, type Ease } from '../src/time-map/ease.js';

/** Hand-drawn eases that stay inside their limits, overshoot included. */
const bezier = fc
  .tuple(
    fc.double({ min: 0, max: 1, noNaN: true }),
    fc.double({ min: -0.6, max: 1.6, noNaN: true }),
    fc.double({ min: 0, max: 1, noNaN: true }),
    fc.double({ min: -0.6, max: 1.6, noNaN: true }),
  )
  .map((handles) => handles as unknown as Ease)
  .filter((ease) => {
    try {
      // Away from the limit itself, where rounding decides.
      const { mean } = easeCurve(ease);
      return mean > 0.001 && mean < 0.999;
    } catch {
      return false;
    }
  });

export const easeArbitrary: fc.Arbitrary<Ease> = fc.oneof(fc.constantFrom<Ease>(...NAMED_EASES), bezier);

/** Maps of one to six reaches: forward, reverse, still; bends of any ease, cut to the room there is. */
export const mapArbitrary: fc.Arbitrary<TimeMap> = fc
  .record({
    start: fc.integer({ min: 0, max: 500 }),
    reaches: fc.array(
      fc.record({
        run: fc.double({ min: 1, max: 80, noNaN: true }),
        slope: fc.oneof(fc.double({ min: -6, max: 12, noNaN: true }), fc.constantFrom(0, 1, 0.5, -1)),
        width: fc.double({ min: 0, max: 60, noNaN: true }),
        ease: easeArbitrary,
      }),
      { minLength: 1, maxLength: 6 },
    ),
  })
  .map(({ start, reaches }) => {
    let [t, s] = [0, start];
    const vertices = [{ t, s }, ...reaches.map(({ run, slope }) => ({ t: (t += run), s: (s += run * slope) }))];
    const bends = vertices.map((_, i) => {
      const reach = reaches[i];
      return i === 0 || !reach ? HARD : { widthFrames: reach.width, ease: reach.ease };
    });
    return clampBends({ vertices, bends });
  });
