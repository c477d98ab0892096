export interface NoticeOptions {
  /** A notice of the same id takes the place of an earlier one. */
  readonly id?: string;
  readonly durationMs?: number;
  /** One thing to do about it. */
  readonly action?: { readonly label: string; readonly run: () => void };
}

type Tone = 'plain' | 'warning' | 'error';

/** Where sentences to the editor are shown. */
export interface Notices {
  show(sentence: string, tone: Tone, options: NoticeOptions): void;
  /** Says that something is under way, until the function it answers is called. */
  showBusy(sentence: string): () => void;
}

let notices: Notices | undefined;
/** What was said before anything could show it. */
const unheard: (() => void)[] = [];

/** The interface says where sentences go; those that were said before are shown now. */
export function showNoticesWith(shown: Notices): void {
  notices = shown;
  unheard.splice(0).forEach((say) => say());
}

function show(sentence: string, tone: Tone, options: NoticeOptions): void {
  if (notices) notices.show(sentence, tone, options);
  else unheard.push(() => notices!.show(sentence, tone, options));
}

/** Says something to the editor that is no part of a page. */
export const tell = (sentence: string, options: NoticeOptions = {}): void => show(sentence, 'plain', options);
export const tellWarning = (sentence: string, options: NoticeOptions = {}): void => show(sentence, 'warning', options);
export const tellError = (sentence: string, options: NoticeOptions = {}): void => show(sentence, 'error', options);

/** Says that something is under way, until the function it answers is called. */
export const tellBusy = (sentence: string): (() => void) => notices?.showBusy(sentence) ?? (() => undefined);
