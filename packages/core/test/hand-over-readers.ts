/** Readers of hand-over files that share no code with ours: from the written file alone, which place of which source every frame shows. */

export interface Place {
  readonly source: string;
  /** In the file's own unit: frames of the source (OpenTimelineIO), frames of the list (edit decision list). */
  readonly at: number;
}

/** Every frame of an OpenTimelineIO file's first track, counted from where its media begin; `undefined` where it is a gap. */
export function placesInOtio(file: any): (Place | undefined)[] {
  return file.tracks.children[0].children.flatMap((child: any) => {
    const { start_time: start, duration } = child.source_range;
    const count = Math.round(duration.value);
    if (child.OTIO_SCHEMA.startsWith('Gap')) return Array.from({ length: count }, () => undefined);
    const begin = child.media_reference.available_range?.start_time.value ?? 0;
    const scalar = child.effects.reduce((product: number, effect: any) => product * effect.time_scalar, 1);
    return Array.from({ length: count }, (_, k) => ({
      source: child.media_reference.name,
      at: start.value - begin + (k / duration.rate) * scalar * start.rate,
    }));
  });
}

const labels = (code: string, nominal: number): number => {
  const [h, m, s, f] = code.split(/[:;]/).map(Number) as [number, number, number, number];
  const plain = ((h * 60 + m) * 60 + s) * nominal + f;
  if (!code.includes(';')) return plain;
  const minutes = h * 60 + m;
  return plain - (nominal / 15) * (minutes - Math.floor(minutes / 10));
};

/** Every frame of an edit decision list, or of several that go on from each other. */
export function placesInEdl(lists: readonly string[], nominal: number, fps: number): (Place | undefined)[] {
  const places: (Place | undefined)[] = [];
  let begin: number | undefined;
  for (const list of lists) {
    const blocks = list.split(/\r\n(?=\d{3} )/).slice(1);
    for (const block of blocks) {
      const [, , tape, sourceIn, sourceOut, recordIn, recordOut] =
        /^(\d{3})\s+(\S+)\s+V\s+C\s+(\S+) (\S+) (\S+) (\S+)/.exec(block)!;
      const motion = /\r\nM2\s+\S+\s+(-?[\d.]+)\s+(\S+)/.exec(block);
      begin ??= labels(recordIn!, nominal);
      const [from, to] = [labels(recordIn!, nominal) - begin, labels(recordOut!, nominal) - begin];
      if (from !== places.length) throw new Error(`event at ${from}, not ${places.length}`);
      const slope = motion ? Number(motion[1]) / fps : 1;
      const first = labels(motion && slope < 0 ? motion[2]! : sourceIn!, nominal);
      if (slope < 0 && first !== labels(sourceOut!, nominal) - 1)
        throw new Error('a reversed event does not begin with its last frame');
      const name = /\* SOURCE FILE: (.*)/.exec(block)?.[1]?.trim() ?? tape!;
      for (let k = from; k < to; k++)
        places.push(tape === 'BL' ? undefined : { source: name, at: first + (k - from) * slope });
    }
  }
  return places;
}

/** Rows of a frame map. */
export const rowsOfMap = (text: string): string[][] =>
  text
    .trimEnd()
    .split('\r\n')
    .slice(1)
    .map((row) =>
      [...row.matchAll(/(?:^|,)(?:"((?:[^"]|"")*)"|([^,]*))/g)].map((m) => m[1]?.replaceAll('""', '"') ?? m[2] ?? ''),
    );
