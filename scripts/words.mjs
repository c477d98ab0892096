// npm run words [AREA]
// Prints every sentence and word the interface shows, file by file, so that they can be read as a whole: bench, bench/sound, footage, …
import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import ts from 'typescript';

const ROOT = 'apps/web/src';
const area = process.argv[2] ?? '';

/** Names of attributes and fields whose single words are shown, too. */
const SHOWN = ['label', 'title', 'text', 'name', 'hint', 'about', 'aria-label', 'data-tip', 'placeholder'];
/** Those that are never shown. */
const HIDDEN = ['className', 'd', 'viewBox', 'transform', 'queryKey', 'style'];

const files = readdirSync(join(ROOT, area), { recursive: true, encoding: 'utf8' })
  .filter((name) => /\.tsx?$/.test(name) && !/\.test\./.test(name))
  .map((name) => join(ROOT, area, name))
  .sort();
for (const file of files) {
  const words = wordsOf(file);
  if (words.length > 0) console.log(`${relative(ROOT, file)}\n${words.map((word) => `  ${word}`).join('\n')}`);
}

function wordsOf(file) {
  const source = ts.createSourceFile(file, readFileSync(file, 'utf8'), ts.ScriptTarget.Latest, true, ts.ScriptKind.TSX);
  const found = new Set();
  const visit = (node, within) => {
    const word = wordOf(node, within);
    if (word !== undefined && /[a-z]{2}/i.test(word)) found.add(word.replace(/\s+/g, ' ').trim());
    if (ts.isImportDeclaration(node) || HIDDEN.includes(within)) return;
    const name = ts.isJsxAttribute(node) || ts.isPropertyAssignment(node) ? node.name.getText() : within;
    ts.forEachChild(node, (child) => visit(child, name));
  };
  visit(source, '');
  return [...found];
}

/** What a node shows; a gap for what is put in. Single words in code are keys, but for those of attributes that are shown. */
function wordOf(node, within) {
  if (HIDDEN.includes(within)) return undefined;
  if (ts.isJsxText(node)) return node.text;
  if (ts.isTemplateExpression(node)) {
    const text = [node.head.text, ...node.templateSpans.map(({ literal }) => literal.text)].join('…');
    return /\s/.test(text) ? text : undefined;
  }
  if (!ts.isStringLiteralLike(node)) return undefined;
  return SHOWN.includes(within) || (/\s/.test(node.text) && !isStyle(node.text)) ? node.text : undefined;
}

/** Lists of style names are no sentences. */
function isStyle(text) {
  return text.split(/\s+/).some((word) => /^[a-z]+(-[a-z0-9[\]./]+)+$|^[a-z-]+:[a-z]/.test(word));
}
