import type { Footage } from '@idle-bend/core/api';
import { spaceWords, type ColourSpace } from '@idle-bend/core/colour';
import { putOnReel } from '@idle-bend/core/edit';
import { useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import { activate, select } from '../session/bench-state.ts';
import { newId } from '../session/command.ts';
import { tell } from '../session/notices.ts';
import { edit, projectStore } from '../session/session.ts';
import { HighRangeChoice } from './high-range-choice.tsx';
import { useFootageRoom } from './in-out-points.ts';

const isEmptyReel = () => projectStore.getState().document?.reel.items.length === 0;

/**
 * Puts footage with pictures at the end of the reel, with its marked parts, as one edit, and goes to the bench; `question` is what is asked
 * before where a reel begins with high dynamic range.
 */
export function usePutOnReel(projectId: string): { put: (footage: readonly Footage[]) => void; question: ReactNode } {
  const navigate = useNavigate();
  const [asked, ask] = useState<readonly Footage[]>([]);
  const putAll = (footage: readonly Footage[], colour?: ColourSpace) => {
    const { marks } = useFootageRoom.getState();
    const wasEmpty = isEmptyReel();
    const clips = footage.map((each) => ({ footage: each, clipId: newId('clip'), part: marks[each.id] }));
    edit((project) =>
      clips.reduce(
        (p, { footage: f, clipId, part }) => putOnReel(p, f, f.facts.picture!, { clipId, part, colour }),
        project,
      ),
    );
    const reel = projectStore.getState().document?.reel;
    if (wasEmpty && reel)
      tell(
        `The reel is ${reel.width}×${reel.height}${reel.colour ? `, ${spaceWords(reel.colour)}` : ''} now, as its first clip is. Both can be changed under Reel.`,
      );
    activate(clips[0]!.clipId);
    select({ kind: 'clip' });
    void navigate(`/projects/${projectId}/bench`);
  };
  const put = (footage: readonly Footage[]) => {
    const first = footage[0]?.facts.picture;
    if (isEmptyReel() && first?.highRange && first.colour) ask(footage);
    else putAll(footage);
  };
  const space = asked[0]?.facts.picture?.colour;
  const question = space && (
    <HighRangeChoice space={space} choose={(colour) => putAll(asked, colour)} close={() => ask([])} />
  );
  return { put, question };
}
