/**
 * Turns a document of one version into one of the next. A migration is frozen: it writes out the values its version began with and
 * refers to no constant of today's, so that an old document is read the same for ever. Throws `InvalidInput` naming the place.
 */
export type Migration = (document: Record<string, unknown>) => Record<string, unknown>;
