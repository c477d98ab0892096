// How well beats meet beats: the measures of M. Davies, N. Degara & M. Plumbley, "Evaluation Methods for Musical Audio Beat
// Tracking Algorithms" (Queen Mary University, 2009).

/** F-measure of found against true times, each met at most once, within `tolerance` seconds. */
export function fMeasure(truth, found, tolerance) {
  let [i, j, hits] = [0, 0, 0];
  while (i < truth.length && j < found.length) {
    const off = found[j] - truth[i];
    if (Math.abs(off) <= tolerance) [i, j, hits] = [i + 1, j + 1, hits + 1];
    else if (off < 0) j++;
    else i++;
  }
  return truth.length + found.length > 0 ? (2 * hits) / (truth.length + found.length) : 1;
}

/** Beats as they are, off-beats, doubled, and halved both ways. */
export function metrical(beats) {
  const halves = beats.slice(1).map((b, i) => (b + beats[i]) / 2);
  return [
    beats,
    halves,
    [...beats, ...halves].sort((a, b) => a - b),
    beats.filter((_, i) => i % 2 === 0),
    beats.filter((_, i) => i % 2 === 1),
  ];
}

/** Share of beats that meet a true one, as the beat before them did, within 17.5 % of the true period in place and length. */
export function continuity(truth, found) {
  const nearest = (time) =>
    truth.reduce((best, t, i) => (Math.abs(t - time) < Math.abs(truth[best] - time) ? i : best), 0);
  const met = found.slice(1).filter((beat, n) => {
    const [i, before] = [nearest(beat), nearest(found[n])];
    if (i === 0 || before !== i - 1) return false;
    const period = truth[i] - truth[i - 1];
    const near = (a, b) => Math.abs(a - b) < 0.175 * period;
    return near(beat, truth[i]) && near(found[n], truth[i - 1]) && near(beat - found[n], period);
  });
  return met.length / Math.max(1, Math.max(truth.length, found.length) - 1);
}
