import type { Footage, PictureFacts } from '@idle-bend/core/api';
import { sameRate, speakRate } from '@idle-bend/core/time';
import { readFootageAs } from '@idle-bend/core/edit';
import { edit } from '../session/session.ts';
import { useProject } from '../ui/use-session.ts';

/** What the camera says it shot at is offered; what the file says is one press back. */
export function ReadAs({ footage, picture }: { footage: Footage; picture: PictureFacts }) {
  const readAs =
    useProject((s) => s.document?.sources.find((source) => source.id === footage.id)?.readAs) ?? picture.rate;
  const { captureRate } = footage.facts;
  const offer = !sameRate(readAs, picture.rate)
    ? picture.rate
    : captureRate && !sameRate(captureRate, picture.rate)
      ? captureRate
      : undefined;
  if (!offer) return null;
  const back = sameRate(offer, picture.rate);
  return (
    <p className="text-brass mt-1 flex items-center gap-2 text-sm">
      {back ? `read as ${speakRate(readAs)} fps` : `shot at ${speakRate(offer)} fps, by its tag`}
      <button
        className="button ml-auto py-0.5"
        onClick={() => edit((project) => readFootageAs(project, footage, picture, offer))}
      >
        Read as {speakRate(offer)}
      </button>
    </p>
  );
}
