/*
 * Puts all mutants of a file into its code, each behind a switch: `a < b` becomes `(__m(7) ? a <= b : a < b)`. One build
 * then serves for all of them, and whether a test reaches a mutant is seen in passing.
 */
import { parse } from 'acorn';
import MagicString from 'magic-string';

const BOUNDARY = { '<': '<=', '<=': '<', '>': '>=', '>=': '>' };
const ARITHMETIC = { '+': '-', '-': '+', '*': '/', '/': '*', '%': '*' };
const EQUALITY = { '===': '!==', '!==': '===', '==': '!=', '!=': '==' };
/** Longer lists are words and tables, of which each entry would be a mutant of its own. */
const LONGEST_LIST = 40;

const isText = (node) => node.type === 'TemplateLiteral' || (node.type === 'Literal' && typeof node.value === 'string');
const isTest = (node, parent) =>
  (parent.test === node && parent.type !== 'ForStatement') || (parent.type === 'UnaryExpression' && parent.inTest);

/** The mutants of one node: what stands in its place, and what was done. `raw` gives the original code of a node. */
function* mutantsOf(node, parent, raw) {
  if (parent && isTest(node, parent) && node.type !== 'Literal') {
    yield { put: 'true', what: 'condition is always true' };
    if (parent.type !== 'WhileStatement' && parent.type !== 'DoWhileStatement')
      yield { put: 'false', what: 'condition is always false' };
  }
  if (node.type === 'BinaryExpression') {
    const { operator, left, right } = node;
    const swapped = (other) => ({ put: `${raw(left)} ${other} ${raw(right)}`, what: `${operator} becomes ${other}` });
    if (BOUNDARY[operator]) yield swapped(BOUNDARY[operator]);
    if (EQUALITY[operator] && !isTest(node, parent)) yield swapped(EQUALITY[operator]);
    if (ARITHMETIC[operator] && !(operator === '+' && (isText(left) || isText(right))))
      yield swapped(ARITHMETIC[operator]);
  }
  if (node.type === 'LogicalExpression') {
    const { operator, left, right } = node;
    if (operator === '??') yield { put: raw(left), what: 'nothing instead of the default' };
    else {
      const other = operator === '&&' ? '||' : '&&';
      yield { put: `(${raw(left)}) ${other} (${raw(right)})`, what: `${operator} becomes ${other}` };
    }
  }
  if (node.type === 'UnaryExpression' && node.operator === '!' && !isTest(node, parent))
    yield { put: `!!(${raw(node.argument)})`, what: '! is gone' };
  if (node.type === 'Literal' && typeof node.value === 'boolean')
    yield { put: String(!node.value), what: `${node.raw} becomes ${!node.value}` };
  if (node.type === 'Literal' && typeof node.value === 'number')
    yield { put: String(node.value + 1), what: `${node.raw} becomes ${node.value + 1}` };
  if (node.type === 'CallExpression' && node.callee.type === 'MemberExpression' && node.callee.object.name === 'Math') {
    const { name } = node.callee.property;
    if (name === 'min' || name === 'max') {
      const other = name === 'min' ? 'max' : 'min';
      yield { put: `Math.${other}(${node.arguments.map(raw).join(', ')})`, what: `${name} becomes ${other}` };
    }
  }
}

/** Positions in which an expression cannot stand in the place of a node. */
function isFixed(parent, key) {
  if (!parent) return true;
  if (parent.type === 'Property' && key === 'key') return true;
  if ((parent.type === 'PropertyDefinition' || parent.type === 'MethodDefinition') && key === 'key') return true;
  return parent.type.startsWith('Import') || parent.type.startsWith('Export');
}

/**
 * @param code JavaScript of one module
 * @param first number of its first mutant
 * @returns the code with all mutants in it, and what each of them is: `{ id, line, what }`
 */
export function mutate(code, first = 0) {
  const tree = parse(code, { ecmaVersion: 'latest', sourceType: 'module', locations: true, allowHashBang: true });
  const changed = new MagicString(code);
  const mutants = [];
  const raw = (node) => code.slice(node.start, node.end);
  const add = (node, what) => {
    const id = first + mutants.length;
    mutants.push({
      id,
      line: node.loc.start.line,
      column: node.loc.start.column,
      what,
      code: raw(node).split('\n')[0].slice(0, 100),
    });
    return id;
  };
  const visit = (node, parent, key) => {
    if (node.type === 'UnaryExpression' && node.operator === '!') node.inTest = parent?.test === node;
    for (const [name, child] of Object.entries(node)) {
      if (Array.isArray(child)) for (const one of child) one?.type && visit(one, node, name);
      else if (child?.type && name !== 'loc') visit(child, node, name);
    }
    if (node.type === 'ArrayExpression' && node.elements.length > 1 && node.elements.length <= LONGEST_LIST)
      for (const one of node.elements) {
        if (!one) continue;
        const id = add(one, 'element is gone');
        changed.prependRight(one.start, `...(__m(${id}) ? [] : [`);
        changed.appendLeft(one.end, '])');
      }
    if (
      node.type === 'ExpressionStatement' &&
      !node.directive &&
      /^(?:Call|Assignment|Await)Expression$/.test(node.expression.type)
    ) {
      const call = node.expression;
      if (call.callee?.type === 'Super') return;
      const id = add(node, 'statement is gone');
      changed.prependRight(node.start, `{ if (!__m(${id})) { `);
      changed.appendLeft(node.end, ' } }');
      return;
    }
    if (isFixed(parent, key)) return;
    const found = [...mutantsOf(node, parent, raw)];
    if (found.length === 0) return;
    const switches = found.map(({ put, what }) => `__m(${add(node, what)}) ? ${put} : `).join('');
    changed.prependRight(node.start, `(${switches}`);
    changed.appendLeft(node.end, ')');
  };
  visit(tree, null, '');
  return { code: changed.toString(), mutants };
}
