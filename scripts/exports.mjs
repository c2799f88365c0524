/*
 * What the code interfaces of packages export, with what their comments say. `npm run lint:docs` fails where an exported
 * function lacks a sentence, a `@param` for one of its parameters, or `@returns`; `scripts/reference.mjs` writes the pages.
 */
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import ts from 'typescript';
import { root } from './prepare.mjs';

/** Packages that others use from code. */
export const PACKAGES = ['core', 'contract'];

/** Follows an export to where it is declared. */
const original = (checker, symbol) => (symbol.flags & ts.SymbolFlags.Alias ? checker.getAliasedSymbol(symbol) : symbol);

const textOf = (parts) => ts.displayPartsToString(parts).replace(/\s+/g, ' ').trim();

/** The function that a declaration is, or undefined. */
function functionOf(declaration) {
  if (ts.isFunctionDeclaration(declaration)) return declaration;
  if (!ts.isVariableDeclaration(declaration)) return undefined;
  const { initializer } = declaration;
  return initializer && (ts.isArrowFunction(initializer) || ts.isFunctionExpression(initializer))
    ? initializer
    : undefined;
}

/** @returns the exports of a package's entry, in the order of their names */
export function exportsOf(name) {
  const entry = join(root, `packages/${name}/src/index.ts`);
  const config = ts.readConfigFile(join(root, `packages/${name}/tsconfig.json`), ts.sys.readFile).config;
  const { options } = ts.parseJsonConfigFileContent(config, ts.sys, join(root, `packages/${name}`));
  const program = ts.createProgram([entry], { ...options, noEmit: true, composite: false, incremental: false });
  const checker = program.getTypeChecker();
  const module = checker.getSymbolAtLocation(program.getSourceFile(entry));
  return checker
    .getExportsOfModule(module)
    .map((exported) => {
      const symbol = original(checker, exported);
      const declaration = symbol.declarations?.[0];
      const work = declaration && functionOf(declaration);
      const tags = symbol.getJsDocTags(checker).map((tag) => ({ name: tag.name, text: textOf(tag.text ?? []) }));
      return {
        name: exported.name,
        file: declaration?.getSourceFile().fileName.slice(root.length),
        about: textOf(symbol.getDocumentationComment(checker)),
        isFunction: work !== undefined,
        parameters: (work?.parameters ?? []).map((one) => (ts.isIdentifier(one.name) ? one.name.text : null)),
        returnsNothing: work !== undefined && isVoid(checker, work),
        tags,
        symbol,
        declaration,
      };
    })
    .filter(({ file }) => file?.startsWith('packages/'))
    .sort((a, b) => a.name.localeCompare(b.name));
}

/** What the comment of a function lacks, as sentences. */
function lacking({ name, file, about, isFunction, parameters, returnsNothing, tags }) {
  if (!isFunction) return [];
  const described = new Set(tags.filter((tag) => tag.name === 'param').map(({ text }) => text.split(/\s+/)[0]));
  const undescribed = parameters.filter((one) => one !== null && !described.has(one)).map((one) => `@param ${one}`);
  // A parameter that is taken apart has the name that its comment gives it.
  const isShort = described.size < parameters.length && undescribed.length === 0;
  return [
    ...(about ? [] : ['a sentence']),
    ...undescribed,
    ...(isShort ? ['a @param for each parameter'] : []),
    ...(returnsNothing || tags.some((tag) => tag.name === 'returns') ? [] : ['@returns']),
  ].map((what) => `${file}: ${name} needs ${what}`);
}

function isVoid(checker, work) {
  const signature = checker.getSignatureFromDeclaration(work);
  return /^(?:void|Promise<void>)$/.test(checker.typeToString(signature.getReturnType()));
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const lacks = PACKAGES.flatMap((name) => exportsOf(name).flatMap(lacking));
  for (const one of lacks) process.stderr.write(`${one}\n`);
  if (lacks.length > 0) process.exit(1);
}
