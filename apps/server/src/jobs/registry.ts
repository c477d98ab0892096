import { assemble } from './assemble.js';
import { chunk } from './chunk.js';
import { costs } from './costs.js';
import { count } from './count.js';
import { facts } from './facts.js';
import { fields } from './fields.js';
import { inspect, inspectMany } from './inspect.js';
import { listen } from './listen.js';
import { motion } from './motion.js';
import { proxy } from './proxy.js';
import { sequence } from './sequence.js';
import { track } from './track.js';

/** Every kind of background work. To add one: its file here, and a line. */
export const JOBS = {
  inspect,
  inspectMany,
  count,
  facts,
  proxy,
  motion,
  track,
  listen,
  fields,
  sequence,
  chunk,
  assemble,
  costs,
};

export type JobName = keyof typeof JOBS;
export type InputOf<Name extends JobName> = Parameters<(typeof JOBS)[Name]['run']>[0];
export type OutputOf<Name extends JobName> = Awaited<ReturnType<(typeof JOBS)[Name]['run']>>;
