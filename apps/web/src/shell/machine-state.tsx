import { useQuery } from '@tanstack/react-query';
import { TriangleAlert } from 'lucide-react';
import { canDecode } from '../preview/can-decode.ts';
import { api } from '../api.ts';

const EVERY_MS = 30_000;

/** Said where the page is not trusted to decode: reached by its address over a plain network, or in a browser that has no decoder. */
const NO_DECODER =
  'This browser does not decode video for this page, so pictures come one by one from the server and playing leaves many out. ' +
  (globalThis.isSecureContext ? 'Another browser may.' : 'It does over HTTPS, or on the machine the server runs on.');

/** What is not as it should be with the server's machine or with this browser, said before it gets in the way. */
export function MachineState() {
  const { data } = useQuery({ queryKey: ['state'], queryFn: api.state, refetchInterval: EVERY_MS, retry: false });
  const problems = [...(data?.problems ?? []), ...(canDecode() ? [] : [NO_DECODER])];
  if (problems.length === 0) return null;
  return (
    <div
      role="alert"
      className="border-line bg-sheet text-vermilion flex shrink-0 items-start gap-2 border-b px-3 py-1 text-[13px]"
    >
      <TriangleAlert size={15} className="mt-0.5 shrink-0" aria-hidden />
      <span>{problems.join(' ')}</span>
    </div>
  );
}
