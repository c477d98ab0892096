/** The sign of Idle Bend: a bend through a point. */
export function Mark({ size = 24 }: { size?: number }) {
  return (
    <svg viewBox="0 0 32 32" width={size} height={size} aria-hidden>
      <path
        d="M4 26C13 26 12 16 16 16s4-10 12-10"
        fill="none"
        stroke="var(--river)"
        strokeWidth="3.4"
        strokeLinecap="round"
      />
      <circle cx="16" cy="16" r="3.8" fill="var(--paper)" stroke="var(--vermilion)" strokeWidth="2.4" />
    </svg>
  );
}
