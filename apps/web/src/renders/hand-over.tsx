import {
  countsDropFrames,
  decodeText,
  lossesOf,
  READ_ENDINGS,
  readTimeline,
  TIMELINE_FORMAT_NAMES,
  TIMELINE_FORMATS,
  writeTimeline,
  type TimelineFormatName,
} from '@idle-bend/core/exchange';
import type { Footage } from '@idle-bend/core/api';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Project } from '@idle-bend/core/model';
import { canDropFrames } from '@idle-bend/core/time';
import { FileUp, Package } from 'lucide-react';
import { useRef, useState } from 'react';
import type { BundledMedia } from '@idle-bend/core/exchange';
import { api, bundleUrl } from '../api.ts';
import { useFootage } from '../bench/motion.ts';
import { edit, flush, projectStore } from '../session/session.ts';
import { tell, tellError } from '../session/notices.ts';
import { Ask } from '../ui/ask.tsx';
import { Check } from '../ui/check.tsx';

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
  const footage = useFootage();
  const [chosen, setChosen] = useState<boolean>();
  // Until somebody says otherwise labels are counted as those of the footage are.
  const drop = chosen ?? countsDropFrames(project, startsIn(footage ?? []));
  const losses = lossesOf(project);
  return (
    <section aria-label="Hand over" className="border-line mt-8 border-t pt-4">
      <h2 className="font-display mb-1 text-lg font-semibold">Hand over</h2>
      <p className="text-faint mb-2 text-[13px]">
        The reel as a file for another tool.
        {losses.length > 0 && ` At constant speeds it cannot say everything: ${losses.join(' ')}`}
      </p>
      <div className="flex flex-wrap gap-2">
        {TIMELINE_FORMAT_NAMES.map((format) => (
          <button
            key={format}
            className="button"
            data-tip={TIMELINE_FORMATS[format].purpose}
            onClick={() =>
              void save(project, name, format, projectId, drop).catch((error: Error) => tellError(error.message))
            }
          >
            {TIMELINE_FORMATS[format].title}
          </button>
        ))}
        {canDropFrames(project.reel.rate) && (
          <Check
            label="Drop-frame"
            tip="Timecode of the edit decision list counts drop-frame"
            checked={drop}
            set={setChosen}
          />
        )}
        <TakeIn clips={project.reel.items.length} run={() => chooser.current?.click()} />
        <input
          ref={chooser}
          type="file"
          hidden
          accept={READ_ENDINGS.join(',')}
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
          media="no"
          text="Bundle"
          title="Without the media: they are known again by their content"
        />
        <BundleLink
          projectId={projectId}
          media="proxies"
          text="Bundle with proxies"
          title="To look at and go on bending elsewhere; renders wait for the media"
        />
        <BundleLink
          projectId={projectId}
          media="yes"
          text="Bundle with its media"
          title="Everything it takes to go on elsewhere"
        />
      </div>
    </section>
  );
}

/** Reads another tool's timeline; asks first where that takes the place of what is on the reel. */
function TakeIn({ clips, run }: { clips: number; run: () => void }) {
  const button = (
    <button
      className="button"
      data-tip="An OpenTimelineIO file or an edit decision list takes the place of what is on the reel; one undo brings that back"
      onClick={clips === 0 ? run : undefined}
    >
      <FileUp size={15} aria-hidden /> Import…
    </button>
  );
  if (clips === 0) return button;
  return (
    <Ask
      question="Replace what is on the reel?"
      means={`The timeline of the file takes the place of ${clips === 1 ? 'the clip that is' : `all ${clips} clips that are`} on the reel now. One undo brings ${clips === 1 ? 'it' : 'them'} back.`}
      yes="Choose the file…"
      no="Cancel"
      run={run}
    >
      {button}
    </Ask>
  );
}

function BundleLink({
  projectId,
  media,
  text,
  title,
}: {
  projectId: string;
  media: BundledMedia;
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

const startsIn = (footage: readonly Footage[]) => (id: string) =>
  footage.find((one) => one.id === id)?.facts.startTimecode;

/** Saves the files of a format where the browser keeps what it downloads. */
async function save(
  project: Project,
  name: string,
  format: TimelineFormatName,
  projectId: string,
  drop: boolean,
): Promise<void> {
  const footage = await api.footage(projectId);
  const counting = footage.find(({ facts }) => facts.picture?.estimate?.isCounted === false);
  if (counting) throw new Error(`The frames of "${counting.name}" are still being counted; hand over when they are.`);
  const media = (id: string) => footage.find((one) => one.id === id);
  const { files } = writeTimeline(format, project, {
    name,
    nameOf: (id) => media(id)?.name ?? project.sources.find((source) => source.id === id)?.name ?? id,
    startOf: startsIn(footage),
    drop,
  });
  files.forEach((content, i) => {
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([content]));
    link.download = `${name || 'reel'}${files.length > 1 ? ` ${i + 1}` : ''}.${TIMELINE_FORMATS[format].endings[0]}`;
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
    const { project, losses } = readTimeline(file.name, text, rate, footage);
    edit(() => project);
    tell(
      `${file.name} is on the reel; one undo brings back what was.${losses.length > 0 ? ` ${losses.join(' ')}` : ''}`,
      { durationMs: 10_000 },
    );
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    tellError(`${file.name}${error.field === 'file' ? '' : `: ${error.field}`} ${error.problem}.`);
  }
}
