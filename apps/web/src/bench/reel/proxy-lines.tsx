import { PROXY_LINES, type ProxyLines, USUAL_LINES } from '@idle-bend/core/proxy';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api } from '../../api.ts';
import { tellError } from '../../session/notices.ts';
import { Select } from '../../ui/select.tsx';
import { useProject } from '../../ui/use-session.ts';

const WORDS: Readonly<Record<ProxyLines, string>> = {
  540: '540 lines, quickest',
  720: '720 lines',
  1080: '1080 lines, sharpest',
};

/** How large the pictures are that are shown here; renders are made from the originals, whatever it is. */
export function ProxyLinesField() {
  const projectId = useProject((s) => s.id) ?? '';
  const queries = useQueryClient();
  const queryKey = ['proxy lines', projectId];
  const { data: lines = USUAL_LINES } = useQuery({ queryKey, queryFn: () => api.proxyLines(projectId) });
  const { mutate } = useMutation({
    mutationFn: (wanted: ProxyLines) => api.setProxyLines(projectId, wanted),
    onMutate: (wanted) => queries.setQueryData(queryKey, wanted),
    onError: (error) => tellError(error.message),
    onSettled: () => queries.invalidateQueries({ queryKey }),
  });
  return (
    <div className="text-sm">
      <Select
        label="Proxies"
        value={String(lines)}
        options={PROXY_LINES.map((each) => ({ value: String(each), text: WORDS[each] }))}
        choose={(value) => {
          const wanted = PROXY_LINES.find((each) => String(each) === value);
          if (wanted && wanted !== lines) mutate(wanted);
        }}
      />
      <span className="text-faint text-[13px]">
        What is shown here is as large as they are; renders are made from the originals.
      </span>
    </div>
  );
}
