import { soft, type FlashColour, type LookDefinition, type LookTime } from './look.js';

const WORD_WAYS = ['all at once', 'one after another', 'on cues', 'on beats'] as const;

export interface Title {
  readonly kind: 'title';
  /** Frames a word takes to come, and all of them to go. */
  readonly frames: number;
  readonly text: string;
  readonly words: (typeof WORD_WAYS)[number];
  /** The height of a capital letter, of the picture's height. */
  readonly size: number;
  /** The middle of the line, of the picture's width and height. */
  readonly across: number;
  readonly down: number;
  readonly colour: FlashColour;
}

/** Words one after another have all come by this share of the title's length. */
const ALL_HERE = 0.5;

export const title: LookDefinition<Title> = {
  title: 'A line of text, at once or word by word',
  initial: {
    ...{ kind: 'title', frames: 12, text: 'Title', words: 'all at once' },
    ...{ size: 0.1, across: 0.5, down: 0.5, colour: 'white' },
  },
  fields: {
    text: { kind: 'text', label: 'Text', longest: 120 },
    words: { kind: 'choice', label: 'Words come', options: WORD_WAYS },
    size: { kind: 'share', label: 'Height of capitals', min: 0.01, max: 0.5, from: 0, step: 0.01 },
    across: { kind: 'share', label: 'Middle, from the left', min: 0, max: 1, from: 0, step: 0.05 },
    down: { kind: 'share', label: 'Middle, from the top', min: 0, max: 1, from: 0, step: 0.05 },
    colour: { kind: 'colour', label: 'Colour of the letters', isPlain: true },
  },
  sustained: true,
  effect({ frames: fade, text, words, size, across, down, colour }, effects, time) {
    const count = text.split(/\s+/).filter(Boolean).length;
    const frame = time.at + time.passed;
    const leaving = soft(Math.min(1, (time.frames - time.passed) / fade));
    const come = Array.from({ length: count }, (_, i) => {
      const here = (frame - comesAt(words, i, count, time) + 1) / fade;
      return time.strength * leaving * soft(Math.max(0, Math.min(1, here)));
    });
    if (!come.some((amount) => amount > 0)) return effects;
    return { ...effects, titles: [...effects.titles, { text, size, x: across, y: down, colour, words: come }] };
  },
};

/** The frame a word begins to come at. Where there are fewer marks than words, the last ones come together on the last mark. */
function comesAt(way: Title['words'], word: number, count: number, { at, frames, cues, beats }: LookTime): number {
  if (way === 'all at once') return at;
  if (way === 'one after another') return at + Math.round((word / count) * ALL_HERE * frames);
  const marks = (way === 'on cues' ? cues : beats).filter((mark) => mark >= at - 0.5 && mark < at + frames);
  return Math.round(marks[Math.min(word, marks.length - 1)] ?? at);
}
