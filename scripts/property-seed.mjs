import fc from 'fast-check';

/** Property tests take the same cases in every run; `PROPERTY_SEED=n` takes others, `PROPERTY_RUNS=n` that many of each. */
const { PROPERTY_SEED = '20261124', PROPERTY_RUNS } = process.env;
fc.configureGlobal({ seed: Number(PROPERTY_SEED), ...(PROPERTY_RUNS && { numRuns: Number(PROPERTY_RUNS) }) });
