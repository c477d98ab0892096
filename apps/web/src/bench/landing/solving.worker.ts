import { InvalidInput } from '@idle-bend/core/foundation';
import { landReel } from '@idle-bend/core/landing';
import { planLay } from '@idle-bend/core/lay';
import type { Laid, Landed, Question } from './solving.ts';

/** The thread that lands a whole reel, and lays clips on music. */

addEventListener('message', ({ data: { id, question } }: MessageEvent<{ id: number; question: Question }>) => {
  try {
    postMessage({ id, reply: question.kind === 'land' ? land(question) : lay(question) });
  } catch (error) {
    postMessage({ id, error: (error as Error).message });
  }
});

function land({ project, freeEnd, gives }: Extract<Question, { kind: 'land' }>): Landed {
  const { project: landed, conflicts } = landReel(project, { freeEnd, gives });
  const places = new Map(project.reel.items.map((item, i) => [item, i]));
  return { kind: 'land', items: landed.reel.items.map((item) => places.get(item) ?? item), conflicts };
}

function lay({ project, clipIds, choice }: Extract<Question, { kind: 'lay' }>): Laid {
  try {
    return { kind: 'lay', plan: planLay(project, clipIds, choice), problem: undefined };
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    return { kind: 'lay', plan: undefined, problem: error.problem };
  }
}
