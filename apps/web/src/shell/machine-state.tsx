import { useQuery } from '@tanstack/react-query';
import { TriangleAlert } from 'lucide-react';
import { api } from '../api.ts';

const EVERY_MS = 30_000;

/** What is not as it should be with the server's machine, said before it gets in the way. */
export function MachineState() {
  const { data } = useQuery({ queryKey: ['state'], queryFn: api.state, refetchInterval: EVERY_MS, retry: false });
  if (!data || data.problems.length === 0) return null;
  return (
    <div
      role="alert"
      className="border-line bg-sheet text-vermilion flex shrink-0 items-start gap-2 border-b px-3 py-1 text-[13px]"
    >
      <TriangleAlert size={15} className="mt-0.5 shrink-0" aria-hidden />
      <span>{data.problems.join(' ')}</span>
    </div>
  );
}
