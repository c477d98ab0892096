import { useState } from 'react';

interface Noted {
  readonly name: string;
  readonly suits: string;
  readonly avoid: string;
}

/** The shape that is pointed at or focused, for its note. */
export function useShapeNote() {
  const [shown, setShown] = useState<Noted>();
  const of = (shape: Noted) => ({
    onPointerEnter: () => setShown(shape),
    onFocus: () => setShown(shape),
    onPointerLeave: () => setShown(undefined),
    onBlur: () => setShown(undefined),
  });
  return { shown, of };
}

/** When a shape suits and when it does not. */
export function ShapeNote({
  shown,
  otherwise,
  warning,
}: {
  shown: Noted | undefined;
  otherwise: string;
  /** What would go wrong with it here. */
  warning?: string | undefined;
}) {
  return (
    <p className="text-faint min-h-8 text-xs" aria-live="polite">
      {shown ? (
        <>
          <span className="text-ink font-semibold">{shown.name}.</span> {shown.suits}{' '}
          <span className="text-vermilion">Not for:</span> {shown.avoid}
          {warning && <strong className="text-vermilion block font-semibold">{warning}</strong>}
        </>
      ) : (
        otherwise
      )}
    </p>
  );
}
