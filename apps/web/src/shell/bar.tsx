/** How far long work has come. */
export function Bar({ done, total, label }: { done: number; total: number; label: string }) {
  const percent = total > 0 ? Math.round((done / total) * 100) : 0;
  return (
    <div
      className="bg-shoal my-2 h-1.5 overflow-hidden rounded"
      role="progressbar"
      aria-valuenow={percent}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-label={label}
    >
      <div className="bg-river h-full" style={{ width: `${percent}%` }} />
    </div>
  );
}
