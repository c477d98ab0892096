import type { LandingFreedom, LandedReel } from '@idle-bend/core/landing';
import type { LayChoice, LayPlan } from '@idle-bend/core/lay';
import type { Project, ReelItem } from '@idle-bend/core/model';

/** What is worked out for a whole reel, away from the thread that draws. */
export type Question =
  | { readonly kind: 'land'; readonly project: Project; readonly freeEnd: boolean; readonly gives: LandingFreedom }
  | {
      readonly kind: 'lay';
      readonly project: Project;
      readonly clipIds: readonly string[];
      readonly choice: LayChoice;
    };

export interface Landed {
  readonly kind: 'land';
  /** The reel's items: those that stayed as they were by their place in the question's, so that they stay the same values. */
  readonly items: readonly (ReelItem | number)[];
  readonly conflicts: LandedReel['conflicts'];
}

export interface Laid {
  readonly kind: 'lay';
  readonly plan: LayPlan | undefined;
  /** Why the question cannot be answered. */
  readonly problem: string | undefined;
}

type Reply = Landed | Laid;
type ReplyTo<Q extends Question> = Extract<Reply, { readonly kind: Q['kind'] }>;

let thread: Worker | undefined;
let asked = 0;
const waiting = new Map<
  number,
  { readonly resolve: (reply: Reply) => void; readonly reject: (error: Error) => void }
>();

function solver(): Worker {
  if (thread) return thread;
  thread = new Worker(new URL('./solving.worker.ts', import.meta.url), { type: 'module' });
  thread.addEventListener('message', ({ data }: MessageEvent<{ id: number; reply?: Reply; error?: string }>) => {
    const question = waiting.get(data.id);
    waiting.delete(data.id);
    if (data.reply) question?.resolve(data.reply);
    else question?.reject(new Error(data.error));
  });
  return thread;
}

/** Asks the solving thread; questions are answered in order. */
export function solve<Q extends Question>(question: Q): Promise<ReplyTo<Q>> {
  const id = asked++;
  return new Promise((resolve, reject) => {
    waiting.set(id, { resolve: (reply) => resolve(reply as ReplyTo<Q>), reject });
    solver().postMessage({ id, question });
  });
}
