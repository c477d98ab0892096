import { putShape } from '@idle-bend/core/clean';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Clip, Source } from '@idle-bend/core/model';
import { missingSource, usableFrames } from '@idle-bend/core/sampling';
import { asShape, CLIP_SHAPES } from '@idle-bend/core/shape';
import type { TimeMap } from '@idle-bend/core/time-map';
import { useMemo } from 'react';
import { CurveDrawing } from './curve-drawing.tsx';
import { SavedShapes } from './saved-shapes.tsx';
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
  const pointed = CLIP_SHAPES.find(({ name }) => name === note.shown?.name)?.map;
  const warning = useMemo(() => pointed && missingWith(pointed, clip, source), [pointed, clip, source]);
  return (
    <>
      <div role="group" aria-label="Shapes for the clip" className="grid grid-cols-5 gap-1.5">
        {CLIP_SHAPES.map((shape) => (
          <button
            key={shape.id}
            className="border-line bg-sheet hover:border-river rounded-lg border px-1 pt-1 text-xs"
            onClick={() => put(shape.map)}
            {...note.of(shape)}
          >
            <CurveDrawing map={shape.map} />
            {shape.name}
          </button>
        ))}
      </div>
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
