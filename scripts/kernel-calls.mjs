// node scripts/kernel-calls.mjs [--check]
// Writes packages/kernels/src/kernel-calls.ts: the kernels' types, and those with many parameters by name, made of the kernels' own
// declarations. With --check it only says whether that is up to date.
import { readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import ts from 'typescript';
import { format, resolveConfig } from 'prettier';

const ASSEMBLY = 'packages/kernels/src/assembly';
const OUT = 'packages/kernels/src/kernel-calls.ts';
/** With more parameters than this nobody can tell them apart by their place. */
const MANY = 7;

const parsed = (file) => ts.createSourceFile(file, readFileSync(file, 'utf8'), ts.ScriptTarget.Latest, true);
const index = parsed(join(ASSEMBLY, 'index.ts'));
const kernels = index.statements.flatMap((statement) => {
  if (!ts.isExportDeclaration(statement)) return [];
  const file = `${join(ASSEMBLY, statement.moduleSpecifier.text)}.ts`;
  const functions = parsed(file).statements.filter(ts.isFunctionDeclaration);
  return statement.exportClause.elements.map(({ name }) => {
    const declared = functions.find((each) => each.name.text === name.text);
    if (!declared) throw new Error(`${file}: ${name.text} is not declared there`);
    const parameters = declared.parameters.map((parameter) => parameter.name.text);
    const answers = declared.type.getText() === 'void' ? 'void' : 'number';
    return { name: name.text, parameters, answers, file: file.slice(dirname(ASSEMBLY).length + 1) };
  });
});
const long = kernels.filter(({ parameters }) => parameters.length > MANY);
const short = kernels.filter((kernel) => !long.includes(kernel));
const signature = ({ name, parameters, answers }) =>
  `  ${name}(${parameters.map((p) => `${p}: number`).join(', ')}): ${answers};`;
const named = ({ parameters }) => `Readonly<Record<${parameters.map((p) => `'${p}'`).join(' | ')}, number>>`;

const content = `// Made by scripts/kernel-calls.mjs of the kernels' own declarations; not edited by hand.

/** Kernels that are called by place. Addresses are byte offsets into their memory. */
interface ByPlace {
${short.map(signature).join('\n')}
}

/** Kernels with more than ${MANY} parameters, called by the names of these. */
interface ByName {
${long.map((kernel) => `  ${kernel.name}(input: ${named(kernel)}): ${kernel.answers};`).join('\n')}
}

/** The kernels as WebAssembly exports them. */
export type KernelExports = ByPlace & {
  readonly [K in keyof ByName]: (...values: number[]) => ReturnType<ByName[K]>;
};

/** The kernels as they are called. */
export type KernelCalls = ByPlace & ByName;

/** @param run the exports of an instance of \`kernels.wasm\` */
export const callsOf = (run: KernelExports): KernelCalls => ({
  ...run,
${long.map(({ name, parameters }) => `  ${name}: (i) => run.${name}(${parameters.map((p) => `i.${p}`).join(', ')}),`).join('\n')}
});
`;
const text = await format(content, { ...(await resolveConfig(OUT)), parser: 'typescript' });
if (!process.argv.includes('--check')) writeFileSync(OUT, text);
else if (readFileSync(OUT, 'utf8') !== text) {
  console.error(`${OUT} is not what the kernels declare: run node scripts/kernel-calls.mjs`);
  process.exitCode = 1;
}
