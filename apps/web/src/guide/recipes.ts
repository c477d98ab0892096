/** A recipe of the guide: how to do one job. */
export interface Recipe {
  /** Its file's name, without its ending. */
  readonly name: string;
  readonly title: string;
  /** Markdown, without the title. */
  readonly text: string;
}

const FILES = import.meta.glob<string>('../../../../docs/guide/*.md', {
  query: '?raw',
  import: 'default',
  eager: true,
});
const PICTURES = import.meta.glob<string>(
  ['../../../../docs/screenshots/*.png', '../../../../docs/guide/pictures/*.svg'],
  {
    query: '?url',
    import: 'default',
    eager: true,
  },
);

const fileOf = (path: string) => path.replace(/^.*\//, '');
const nameOf = (path: string) => fileOf(path).replace(/\.\w+$/, '');

/** In the order an editor meets them; those that are not listed come last. */
const ORDER = [
  ...['slow-a-part', 'ramp', 'freeze', 'there-and-back', 'smooth', 'land-a-hit', 'reel-on-music', 'race-into-next'],
  ...[
    'transitions',
    'accents',
    'title',
    'sound',
    'blur',
    'steady',
    'framing',
    'read-as',
    'on-twos',
    'many-clips',
    'compare',
  ],
  ...['long-footage', 'hand-over', 'from-a-shell'],
];
const placeOf = ({ name }: Recipe) => (ORDER.includes(name) ? ORDER.indexOf(name) : ORDER.length);

export const RECIPES: readonly Recipe[] = Object.entries(FILES)
  .map(([path, file]): Recipe => {
    const [, title = '', text = ''] = /^# (.+)\n+([^]*)$/.exec(file) ?? [];
    return { name: nameOf(path), title, text };
  })
  .sort((a, b) => placeOf(a) - placeOf(b));

/** The address of a picture that a recipe shows. */
export const pictureOf = (link: string): string | undefined =>
  Object.entries(PICTURES).find(([path]) => fileOf(path) === fileOf(link))?.[1];

/** The recipes that have every word of `wanted`, those with one in their title first. */
export function findRecipes(wanted: string): readonly Recipe[] {
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const has = (text: string, word: string) => text.toLowerCase().includes(word);
  const found = RECIPES.filter(({ title, text }) => words.every((word) => has(`${title} ${text}`, word)));
  const titled = ({ title }: Recipe) => words.some((word) => has(title, word));
  return [...found.filter(titled), ...found.filter((recipe) => !titled(recipe))];
}
