import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api } from '../api.ts';
import { tellError } from '../session/notices.ts';

/** What is kept of the motion between frames: a render whose curves changed finds only what is new. */
export function KeptMotion() {
  const queries = useQueryClient();
  const { data } = useQuery({ queryKey: ['motion-cache'], queryFn: api.motionCache });
  const drop = useMutation({
    mutationFn: api.dropMotionCache,
    onSuccess: () => void queries.invalidateQueries({ queryKey: ['motion-cache'] }),
    onError: (e) => tellError(e.message),
  });
  if (!data || data.pairs === 0) return null;
  const size = (bytes: number) => `${(bytes / 2 ** 20).toFixed(0)} MB`;
  return (
    <p className="text-faint mt-8 flex items-center gap-3 text-[13px]">
      <span>
        Motion between {data.pairs} pairs of frames is kept for the next render: {size(data.bytes)} of at most{' '}
        {size(data.maxBytes)}.
      </span>
      <button className="button px-2 py-0.5 text-xs" disabled={drop.isPending} onClick={() => drop.mutate()}>
        Delete it
      </button>
    </p>
  );
}
