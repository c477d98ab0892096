import type { Footage } from '@idle-bend/core/api';
import {
  decodeText,
  formatEdl,
  formatFrameMap,
  formatOtio,
  lossesOf,
  parseEdl,
  parseOtio,
  type ImportedTimeline,
} from '@idle-bend/core/exchange';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Project } from '@idle-bend/core/model';
import { canDropFrames } from '@idle-bend/core/time';
import { FileUp, Package } from 'lucide-react';
import { useRef, useState } from 'react';
import { api, bundleUrl } from '../api.ts';
import { edit, flush, projectStore } from '../session/session.ts';
import { tell, tellError } from '../session/notices.ts';
import { Check } from '../ui/check.tsx';

type Way = 'otio' | 'edl' | 'csv' | 'json';

const WAYS: readonly { way: Way; text: string; title: string }[] = [
  {
    way: 'otio',
    text: 'OpenTimelineIO',
    title: 'Clips with their speeds, cues as markers; read back here it is this very project',
  },
  { way: 'edl', text: 'Edit decision list', title: 'An event for every speed, in the manner of CMX 3600' },
  { way: 'csv', text: 'Frame map', title: 'Every frame of the reel with its source frame, as a table' },
  { way: 'json', text: 'Document', title: 'The project document itself, for idle-bend export' },
];

/** The reel for other tools, as files of open formats, and theirs for this project. */
export function HandOver({
  document: project,
  name,
  projectId,
}: {
  document: Project;
  name: string;
  projectId: string;
}) {
  const chooser = useRef<HTMLInputElement>(null);
  const [drop, setDrop] = useState(false);
  const losses = lossesOf(project);
  return (
    <section aria-label="Hand over" className="border-line mt-8 border-t pt-4">
      <h2 className="font-display mb-1 text-lg font-semibold">Hand over</h2>
      <p className="text-faint mb-2 text-[13px]">
        The reel as a file for another tool.
        {losses.length > 0 && ` At constant speeds it cannot say everything: ${losses.join(' ')}`}
      </p>
      <div className="flex flex-wrap gap-2">
        {WAYS.map(({ way, text, title }) => (
          <button
            key={way}
            className="button"
            data-tip={title}
            onClick={() =>
              void save(project, name, way, projectId, drop).catch((error: Error) => tellError(error.message))
            }
          >
            {text}
          </button>
        ))}
        {canDropFrames(project.reel.rate) && (
          <Check
            label="Drop-frame"
            tip="Timecode of the edit decision list counts drop-frame"
            checked={drop}
            set={setDrop}
          />
        )}
        <button
          className="button"
          data-tip="An OpenTimelineIO file or an edit decision list takes the place of what is on the reel; one undo brings that back"
          onClick={() => chooser.current?.click()}
        >
          <FileUp size={15} aria-hidden /> Take one in…
        </button>
        <input
          ref={chooser}
          type="file"
          hidden
          accept=".otio,.json,.edl,.txt"
          aria-label="Timeline file"
          onChange={(e) => {
            const [file] = e.target.files ?? [];
            if (file) void take(file);
            e.target.value = '';
          }}
        />
      </div>
      <h3 className="font-display mt-5 mb-1 font-semibold">The whole project</h3>
      <p className="text-faint mb-2 text-[13px]">
        A bundle is a ZIP of the document, your shapes and what is known of the footage. Another Idle Bend makes the
        same project of it, on its first page.
      </p>
      <div className="flex flex-wrap gap-2">
        <BundleLink
          projectId={projectId}
          media={false}
          text="Bundle"
          title="Without the media: they are known again by their content"
        />
        <BundleLink
          projectId={projectId}
          media
          text="Bundle with its media"
          title="Everything it takes to go on elsewhere"
        />
      </div>
    </section>
  );
}

function BundleLink({
  projectId,
  media,
  text,
  title,
}: {
  projectId: string;
  media: boolean;
  text: string;
  title: string;
}) {
  return (
    <button
      className="button"
      data-tip={title}
      onClick={() =>
        void flush().then(
          () => location.assign(bundleUrl(projectId, media)),
          (error: Error) => tellError(error.message),
        )
      }
    >
      <Package size={15} aria-hidden /> {text}
    </button>
  );
}

/** The files of a hand-over: one, or several lists. */
function contentsOf(
  project: Project,
  name: string,
  way: Way,
  footage: readonly Footage[],
  drop: boolean,
): readonly string[] {
  const media = (id: string) => footage.find((one) => one.id === id);
  const nameOf = (id: string) => media(id)?.name ?? project.sources.find((source) => source.id === id)?.name ?? id;
  switch (way) {
    case 'otio':
      return [JSON.stringify(formatOtio(project, name, nameOf), null, 2)];
    case 'edl':
      return formatEdl(project, name, { drop: drop, startOf: (id) => media(id)?.facts.startTimecode }).lists;
    case 'csv':
      return [formatFrameMap(project, nameOf)];
    case 'json':
      return [JSON.stringify(project, null, 2)];
  }
}

async function save(project: Project, name: string, way: Way, projectId: string, drop: boolean): Promise<void> {
  const contents = contentsOf(project, name, way, await api.footage(projectId), drop);
  contents.forEach((content, i) => {
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([content]));
    link.download = `${name || 'reel'}${contents.length > 1 ? ` ${i + 1}` : ''}.${way}`;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
  });
}

/** A timeline takes the place of what is on the reel, one undo; what of it could not be taken is said. */
async function take(file: File): Promise<void> {
  const { id } = projectStore.getState();
  if (!id) return;
  try {
    const text = decodeText(new Uint8Array(await file.arrayBuffer()));
    const footage = (await api.footage(id)).flatMap(({ id: footageId, name, facts: { picture, startTimecode } }) =>
      picture ? [{ id: footageId, name, frames: picture.frames, nativeRate: picture.rate, startTimecode }] : [],
    );
    const rate = projectStore.getState().whole!.reel.rate;
    const taken: ImportedTimeline = /\.(edl|txt)$/i.test(file.name)
      ? parseEdl(text, rate, footage)
      : parseOtio(JSON.parse(text), footage);
    const { project, losses } = taken;
    edit(() => project);
    tell(
      `${file.name} is on the reel; one undo brings back what was.${losses.length > 0 ? ` ${losses.join(' ')}` : ''}`,
      { durationMs: 10_000 },
    );
  } catch (error) {
    if (error instanceof SyntaxError) tellError(`${file.name} is not an OpenTimelineIO file: it is not JSON.`);
    else if (error instanceof InvalidInput) tellError(`${file.name}: ${error.field} ${error.problem}.`);
    else throw error;
  }
}
