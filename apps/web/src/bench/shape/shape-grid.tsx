import { CLIP_SHAPES } from '@idle-bend/core/shape';
import type { TimeMap } from '@idle-bend/core/time-map';
import { CurveDrawing } from './curve-drawing.tsx';
import type { useShapeNote } from './shape-note.tsx';

interface Props {
  readonly label: string;
  readonly note: ReturnType<typeof useShapeNote>;
  readonly put: (shape: TimeMap) => void;
}

/** The library's curves for whole clips, a press each. */
export function ShapeGrid({ label, note, put }: Props) {
  return (
    <div role="group" aria-label={label} className="grid grid-cols-5 gap-1.5">
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
  );
}

/** The curve of the one that is shown. */
export const shapeNamed = (name: string | undefined): TimeMap | undefined =>
  CLIP_SHAPES.find((shape) => shape.name === name)?.map;
