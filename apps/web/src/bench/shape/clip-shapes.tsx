import { putShape } from '@idle-bend/core/clean';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Clip, Source } from '@idle-bend/core/model';
import { missingSource, usableFrames } from '@idle-bend/core/sampling';
import { asShape } from '@idle-bend/core/shape';
import type { TimeMap } from '@idle-bend/core/time-map';
import { useMemo } from 'react';
import { SavedShapes } from './saved-shapes.tsx';
import { ShapeGrid, shapeNamed } from './shape-grid.tsx';
import { ShapeNote, useShapeNote } from './shape-note.tsx';
import { type BenchClip } from '../../session/bench-state.ts';
import { changeMap } from '../../session/command.ts';

/** Whether a shape would ask for source that the clip does not have, said before it is put on. */
function missingWith(shape: TimeMap, clip: Clip, source: Source): string | undefined {
  try {
    const missing = missingSource(putShape(shape, clip.map), usableFrames(source));
    if (!missing) return undefined;
    const frames = missing.count === 1 ? 'one frame' : `${missing.count} frames`;
    return `On this clip ${frames} would have no source: trim or slip it first.`;
  } catch (error) {
    if (error instanceof InvalidInput) return `It cannot be put on this clip: ${error.problem}.`;
    throw error;
  }
}

/** Whole curves to put on the clip: its length and its first and last source frame stay. */
export function ClipShapes({ bench }: { bench: BenchClip }) {
  const note = useShapeNote();
  const put = (shape: TimeMap) => changeMap((map) => putShape(shape, map));
  const { clip, source } = bench;
  const pointed = shapeNamed(note.shown?.name);
  const warning = useMemo(() => pointed && missingWith(pointed, clip, source), [pointed, clip, source]);
  return (
    <>
      <ShapeGrid label="Shapes for the clip" note={note} put={put} />
      <ShapeNote
        shown={note.shown}
        warning={warning}
        otherwise="Each keeps the clip’s length and its first and last frame, at speeds near its own that keep most frames real."
      />
      <SavedShapes
        kind="clip"
        content={() => ({ kind: 'clip', map: asShape(bench.clip.map) })}
        put={(shape) => shape.kind === 'clip' && put(shape.map)}
      />
    </>
  );
}
