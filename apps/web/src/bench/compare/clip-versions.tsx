import { updateClip } from '@idle-bend/core/edit';
import { LEVELS } from '@idle-bend/pipeline';
import { BookmarkPlus, Trash2 } from 'lucide-react';
import { compareWith, setCompare, toggleCompare } from './commands.ts';
import { forgetVersion, keepThisVersion, switchTo } from './versions.ts';
import { Choice } from '../../ui/choice.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { edit } from '../../session/session.ts';
import { benchStore, type BenchClip, type Compare, type ComparedMethod } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';
import { Select } from '../../ui/select.tsx';

const HOWS = [
  { value: 'side', text: 'Side' },
  { value: 'wipe', text: 'Wipe' },
  { value: 'blink', text: 'Blink' },
  { value: 'difference', text: 'Difference', title: 'What differs, four times as strong, on grey' },
] as const;
const BYS = [
  { value: 'time', text: 'Time', title: 'Both at the same frame of the timeline' },
  { value: 'source', text: 'Source', title: 'Both where the same of the source shows' },
] as const;

/** The same curve, made another way. */
const WAYS: readonly { key: string; text: string; other: ComparedMethod }[] = [
  { key: 'way-step', text: 'Step', other: { kind: 'method', method: 'step', level: undefined } },
  { key: 'way-mix', text: 'Mix', other: { kind: 'method', method: 'mix', level: undefined } },
  ...LEVELS.map((level) => ({
    key: `way-${level}`,
    text: `Flow, ${level}`,
    other: { kind: 'method', method: 'flow', level } as const,
  })),
];

function keyOf(other: Compare['other']): string {
  if (other.kind === 'version') return other.id;
  if (other.kind !== 'method') return other.kind;
  return WAYS.find(({ other: { method, level } }) => method === other.method && level === other.level)!.key;
}

/** The clip against another curve, and the curves kept under names. */
export function ClipVersions({ bench }: { bench: BenchClip }) {
  const compare = useBench((s) => s.compare);
  const { versions } = bench.clip;
  const choose = (key: string) => {
    if (key === 'none') benchStore.setState({ compare: undefined });
    else
      compareWith(
        WAYS.find((way) => way.key === key)?.other ??
          (key === 'plain' || key === 'opened' ? { kind: key } : { kind: 'version', id: key }),
      );
  };
  return (
    <>
      <div className="grid grid-cols-2 items-end gap-3">
        <Select
          label="Compare with"
          value={compare ? keyOf(compare.other) : 'none'}
          options={[
            { value: 'none', text: 'nothing' },
            {
              group: 'Another curve',
              options: [
                { value: 'plain', text: 'plain, 100 %' },
                { value: 'opened', text: 'as it was when opened' },
                ...versions.map(({ id, name }) => ({ value: id, text: name })),
              ],
            },
            { group: 'This curve, made with', options: WAYS.map(({ key, text }) => ({ value: key, text })) },
          ]}
          choose={choose}
        />
        <button className="button h-8 justify-center" onClick={toggleCompare}>
          {compare ? 'Stop comparing' : 'Compare'} <kbd className="font-mono text-xs opacity-70">X</kbd>
        </button>
      </div>
      {compare && (
        <div className="grid grid-cols-[1.7fr_1fr] gap-3">
          <Choice label="How" value={compare.how} options={HOWS} choose={(how) => setCompare({ how })} />
          <Choice label="In step by" value={compare.by} options={BYS} choose={(by) => setCompare({ by })} />
        </div>
      )}
      <button className="button self-start" onClick={keepThisVersion}>
        <BookmarkPlus size={15} aria-hidden /> Keep this version <kbd className="font-mono text-xs opacity-70">V</kbd>
      </button>
      <ul className="flex flex-col gap-2" aria-label="Versions">
        {versions.map((version) => (
          <li key={version.id} className="flex items-end gap-2">
            <div className="flex-1">
              <TypedField
                label="Version"
                text={version.name}
                commit={(name) =>
                  edit((p) =>
                    updateClip(p, bench.clip.id, (c) => ({
                      ...c,
                      versions: c.versions.map((v) => (v.id === version.id ? { ...v, name } : v)),
                    })),
                  )
                }
              />
            </div>
            <button
              className="button h-8"
              disabled={version.map === bench.clip.map}
              onClick={() => switchTo(version.id)}
            >
              {version.map === bench.clip.map ? 'On the clip' : 'Use'}
            </button>
            <button
              className="button h-8 px-2"
              aria-label={`Remove ${version.name}`}
              onClick={() => forgetVersion(version.id)}
            >
              <Trash2 size={15} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}
