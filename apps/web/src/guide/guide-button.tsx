import { CircleQuestionMark } from 'lucide-react';
import { openGuide } from './guide-state.ts';

/** Opens the recipe that a part of the interface belongs to. */
export const GuideButton = ({ recipe }: { recipe: string }) => (
  <button
    className="text-faint hover:text-river grid size-6 shrink-0 place-items-center self-center"
    aria-label="How to do this"
    data-tip="How to do this, in the guide"
    onClick={() => openGuide(recipe)}
  >
    <CircleQuestionMark size={15} aria-hidden />
  </button>
);
