import { formatEdl, formatFrameMap, formatOtio, InvalidInput, lossesOf, parseOtio, type Project } from '@idle-bend/core';
import { FileUp } from 'lucide-react';
import { useRef } from 'react';
import { toast } from 'sonner';
import { api } from '../api.ts';
import { edit, useProject } from '../shell/project-store.ts';

type Way = 'otio' | 'edl' | 'csv' | 'json';

const WAYS: readonly { way: Way; text: string; title: string }[] = [
  { way: 'otio', text: 'OpenTimelineIO', title: 'Clips with their speeds, cues as markers; read back here it is this very project' },
  { way: 'edl', text: 'Edit decision list', title: 'An event for every speed, in the manner of CMX 3600' },
  { way: 'csv', text: 'Frame map', title: 'Every frame of the reel with its source frame, as a table' },
  { way: 'json', text: 'Document', title: 'The project document itself, for idle-bend export' },
];

/** The reel for other tools, as files of open formats, and theirs for this project. */
export function HandOver({ document: project, name }: { document: Project; name: string }) {
  const chooser = useRef<HTMLInputElement>(null);
  const losses = lossesOf(project);
  return (
    <section aria-label="Hand over" className="border-line mt-8 border-t pt-4">
      <h2 className="font-display mb-1 text-lg font-semibold">Hand over</h2>
      <p className="text-faint mb-2 text-[13px]">
        The reel as a file for another tool.{losses.length > 0 && ` At constant speeds it cannot say everything: ${losses.join(' ')}`}
      </p>
      <div className="flex flex-wrap gap-2">
        {WAYS.map(({ way, text, title }) => (
          <button key={way} className="button" title={title} onClick={() => save(project, name, way)}>
            {text}
          </button>
        ))}
        <button
          className="button"
          title="An OpenTimelineIO file takes the place of what is on the reel; one undo brings that back"
          onClick={() => chooser.current?.click()}
        >
          <FileUp size={15} aria-hidden /> Take one in…
        </button>
        <input
          ref={chooser}
          type="file"
          hidden
          accept=".otio,.json"
          aria-label="OpenTimelineIO file"
          onChange={(e) => {
            const [file] = e.target.files ?? [];
            if (file) void take(file);
            e.target.value = '';
          }}
        />
      </div>
    </section>
  );
}

function contentOf(project: Project, name: string, way: Way): string {
  const nameOf = (id: string) => project.sources.find((source) => source.id === id)?.name ?? id;
  switch (way) {
    case 'otio':
      return JSON.stringify(formatOtio(project, name, nameOf), null, 2);
    case 'edl':
      return formatEdl(project, name).text;
    case 'csv':
      return formatFrameMap(project, nameOf);
    case 'json':
      return JSON.stringify(project, null, 2);
  }
}

function save(project: Project, name: string, way: Way): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([contentOf(project, name, way)]));
  link.download = `${name || 'reel'}.${way}`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** A timeline takes the place of what is on the reel, one undo; what of it could not be taken is said. */
async function take(file: File): Promise<void> {
  const { id } = useProject.getState();
  if (!id) return;
  try {
    const value: unknown = JSON.parse(await file.text());
    const footage = (await api.footage(id)).flatMap(({ id: footageId, name, facts: { picture } }) =>
      picture ? [{ id: footageId, name, frames: picture.frames, nativeRate: picture.rate }] : [],
    );
    const { project, losses } = parseOtio(value, footage);
    edit(() => project);
    toast(`${file.name} is on the reel; one undo brings back what was.${losses.length > 0 ? ` ${losses.join(' ')}` : ''}`, { duration: 10_000 });
  } catch (error) {
    if (error instanceof SyntaxError) toast.error(`${file.name} is not an OpenTimelineIO file: it is not JSON.`);
    else if (error instanceof InvalidInput) toast.error(`${file.name}: ${error.field} ${error.problem}.`);
    else throw error;
  }
}
