import { PROXY_LINES, USUAL_LINES } from '@idle-bend/core/proxy';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api } from '../../api.ts';
import { tellError } from '../../session/notices.ts';
import { Select } from '../../ui/select.tsx';
import { useProject } from '../../ui/use-session.ts';

/** How large the pictures are that are shown here; renders are made from the originals, whatever it is. */
export function ProxyLinesField() {
  const projectId = useProject((s) => s.id) ?? '';
  const queries = useQueryClient();
  const queryKey = ['proxy lines', projectId];
  const { data: lines = USUAL_LINES } = useQuery({ queryKey, queryFn: () => api.proxyLines(projectId) });
  const { mutate } = useMutation({
    mutationFn: (wanted: (typeof PROXY_LINES)[number]) => api.setProxyLines(projectId, wanted),
    onMutate: (wanted) => queries.setQueryData(queryKey, wanted),
    onError: (error) => tellError(error.message),
    onSettled: () => queries.invalidateQueries({ queryKey }),
  });
  return (
    <div className="text-sm">
      <Select
        label="Proxies"
        value={String(lines)}
        options={PROXY_LINES.map((each) => ({
          value: String(each),
          text: `${each} lines${each === USUAL_LINES ? '' : ', larger and slower'}`,
        }))}
        choose={(value) => {
          const wanted = PROXY_LINES.find((each) => String(each) === value);
          if (wanted && wanted !== lines) mutate(wanted);
        }}
      />
      {lines !== USUAL_LINES && (
        <span className="text-faint text-[13px]">
          What is shown here is as large as its proxies; smaller ones play more smoothly.
        </span>
      )}
    </div>
  );
}
