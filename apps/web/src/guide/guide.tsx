import { ArrowLeft, X } from 'lucide-react';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import Markdown from 'react-markdown';
import { useStore } from 'zustand';
import { guideStore, openGuide } from './guide-state.ts';
import { findRecipes, pictureOf, RECIPES, type Recipe } from './recipes.ts';

const close = () => guideStore.setState({ page: undefined });

/** Recipes for the jobs an editor comes with, beside the work: it goes on being usable while one reads. */
export function Guide() {
  const page = useStore(guideStore, (s) => s.page);
  const recipe = RECIPES.find(({ name }) => name === page);
  return (
    <aside
      aria-label="Guide"
      className="border-line bg-paper fixed top-11 bottom-0 left-0 z-30 flex w-[26rem] max-w-full flex-col border-r shadow-xl"
      onKeyDown={(event) => {
        if (event.key !== 'Escape') return;
        event.stopPropagation();
        close();
      }}
    >
      <div className="border-line flex h-11 shrink-0 items-center gap-2 border-b px-3">
        {recipe ? (
          <button className="button px-2 py-1" onClick={() => openGuide()}>
            <ArrowLeft size={15} aria-hidden /> All recipes
          </button>
        ) : (
          <h2 className="font-display font-semibold">Guide</h2>
        )}
        <button className="button ml-auto px-1.5 py-1" aria-label="Close the guide" onClick={close}>
          <X size={15} aria-hidden />
        </button>
      </div>
      {recipe ? <Page recipe={recipe} /> : <Contents />}
    </aside>
  );
}

function Contents() {
  const [wanted, setWanted] = useState('');
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.focus(), []);
  const found = findRecipes(wanted);
  return (
    <>
      <input
        ref={field}
        type="search"
        aria-label="Search the guide"
        placeholder="What do you want to do?"
        className="border-line border-b bg-transparent px-4 py-3 outline-none"
        value={wanted}
        onChange={(event) => setWanted(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && found[0] && openGuide(found[0].name)}
      />
      <ul className="min-h-0 flex-1 overflow-y-auto p-1.5" aria-label="Recipes">
        {found.map(({ name, title }) => (
          <li key={name}>
            <button
              className="hover:bg-river-pale focus-visible:bg-river-pale w-full rounded-lg px-3 py-1.5 text-left"
              onClick={() => openGuide(name)}
            >
              {title}
            </button>
          </li>
        ))}
        {found.length === 0 && <li className="text-faint px-3 py-2">No matches.</li>}
      </ul>
    </>
  );
}

function Page({ recipe: { name, title, text } }: { recipe: Recipe }) {
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus(), [name]);
  return (
    <article className="min-h-0 flex-1 overflow-y-auto px-4 py-3 text-sm">
      <h2 ref={heading} tabIndex={-1} className="font-display mb-2 text-lg font-semibold outline-none">
        {title}
      </h2>
      <Markdown
        components={{
          p: ({ children }) => <p className="my-2">{children}</p>,
          ol: ({ children }) => <ol className="my-2 flex list-decimal flex-col gap-1.5 pl-5">{children}</ol>,
          em: ({ children }) => <em className="font-semibold not-italic">{children}</em>,
          code: ({ children }) => <Key>{children}</Key>,
          a: ({ href = '', children }) => <Jump to={href}>{children}</Jump>,
          img: ({ src, alt }) => (
            <img className="border-line my-2 rounded-lg border" src={pictureOf(String(src))} alt={alt} />
          ),
        }}
      >
        {text}
      </Markdown>
    </article>
  );
}

const Key = ({ children }: { children?: ReactNode }) => (
  <kbd className="border-line bg-sheet rounded border px-1 font-mono text-[12px] break-words">{children}</kbd>
);

/** A link to another recipe. */
const Jump = ({ to, children }: { to: string; children?: ReactNode }) => (
  <button className="text-river font-semibold hover:underline" onClick={() => openGuide(to.replace(/\.md$/, ''))}>
    {children}
  </button>
);
