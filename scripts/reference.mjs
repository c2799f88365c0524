/* Writes the reference pages that are made from the code: docs/flow.md, docs/errors.md, docs/steps.md, docs/findings.md, docs/review.md and docs/roles.md. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { prepare, root } from './prepare.mjs';

prepare();
const {
  baseEnvironment,
  catalogue,
  DIAGNOSIS_RULES,
  flowSchema,
  lookupSchema,
  REVIEW_RULES,
  stepKinds,
  stepSchema,
  tableWhere,
} = await import('../packages/core/dist/index.js');
const { toJSONSchema } = await import('zod');
const write = (name, text) => writeFileSync(join(root, 'docs', name), `${text.trimEnd()}\n`);
const cell = (text) => String(text).replaceAll('|', '\\|').replaceAll('\n', ' ');
const MADE = '_Made from the code by `npm run reference`; do not edit._';

const errors = Object.entries(catalogue).map(
  ([code, { message, hint, http }]) => `| \`${code}\` | ${http} | ${cell(message)} | ${cell(hint)} |`,
);
write(
  'errors.md',
  `# Errors\n\n${MADE}\n\nEvery error has a code, a message and a hint. HTTP answers carry them as problem details (RFC 9457), tool calls as text that a model can read, the command line on standard error or, with \`--json\`, on standard output.\n\n| Code | HTTP | Message | Hint |\n| --- | --- | --- | --- |\n${errors.join('\n')}`,
);

const typeOf = (schema) =>
  schema.enum?.join(', ') ??
  schema.const ??
  schema.type ??
  (schema.anyOf ?? schema.oneOf)?.map(typeOf).join(' or ') ??
  'any JSON';
const MOST_DEPTH = 4;
/** Rows of every field, those inside of others too: `memory.turns`, `toolbox[].use`, `toolbox[].tools.NAME.when`. */
const rowsOf = (form, path = '', depth = 0, seen = new Set()) =>
  Object.entries(form.properties ?? {}).flatMap(([name, inner]) => {
    const at = `${path}${name}`;
    if (seen.has(at)) return [];
    seen.add(at);
    const preset =
      inner.default === undefined || typeof inner.default === 'object' ? '' : `\`${JSON.stringify(inner.default)}\``;
    const row = `| \`${at}\` | ${form.required?.includes(name) && inner.default === undefined ? 'yes' : 'no'} | ${cell(typeOf(inner))} | ${cell(preset)} | ${cell(inner.description ?? '')} |`;
    return [row, ...(depth < MOST_DEPTH ? insideOf(inner, at, depth, seen) : [])];
  });
const insideOf = (schema, at, depth, seen) => {
  if (schema.items) return insideOf(schema.items, `${at}[]`, depth, seen);
  const ways = [schema, ...(schema.anyOf ?? schema.oneOf ?? [])];
  return ways.flatMap((way) => [
    ...(way.properties ? rowsOf(way, `${at}.`, depth + 1, seen) : []),
    ...(way !== schema && way.items ? insideOf(way.items, `${at}[]`, depth, seen) : []),
    ...(way.additionalProperties?.properties ? rowsOf(way.additionalProperties, `${at}.NAME.`, depth + 1, seen) : []),
  ]);
};
const properties = (schema) => {
  const forms = schema.oneOf ?? schema.anyOf ?? [schema];
  return forms.map(
    (form) =>
      `| Field | Required | Takes | Default | Meaning |\n| --- | --- | --- | --- | --- |\n${rowsOf(form).join('\n')}`,
  );
};
/** What a kind leaves behind, for each of its modes where it has some. */
const leaves = (kind, schema) => {
  const modes = (schema.oneOf ?? schema.anyOf ?? [schema]).map((form) => form.properties?.do?.const).filter(Boolean);
  const told = (given) =>
    Object.entries(kind.output(given))
      .map(([name, type]) => `\`${name}\` (${typeof type === 'string' ? type : Object.keys(type).join(', ')})`)
      .join(', ') || 'nothing';
  const listed = schema.properties?.do?.enum ?? modes;
  return listed.length === 0
    ? `Leaves: ${told({})}.`
    : listed.map((mode) => `- \`do: ${mode}\` leaves ${told({ do: mode })}`).join('\n');
};
const kinds = stepKinds().map((kind) => {
  const schema = toJSONSchema(kind.config, { io: 'input', unrepresentable: 'any' });
  const branches = kind
    .branches({ unless: {}, when: {} })
    .map(({ name, aside }) => `\`${name}\`${aside ? ' (aside)' : ''}`);
  const ways = branches.length > 0 ? `\n\nBranches: ${branches.join(', ')}.` : '';
  return `## ${kind.name}\n\n${kind.about}\n\n${properties(schema).join('\n\n')}\n\n${leaves(kind, schema)}${ways}`;
});
write(
  'steps.md',
  `# Step kinds\n\n${MADE}\n\nWhat \`with\` takes for each kind, and what \`steps.NAME\` holds after it.\n\n${kinds.join('\n\n')}`,
);

const operators = toJSONSchema(tableWhere, { io: 'input', unrepresentable: 'any' }).additionalProperties.anyOf.flatMap(
  (form) =>
    Object.entries(form.properties ?? {}).map(
      ([name, inner]) => `| \`{ ${name}: … }\` | ${cell(inner.description ?? '')} |`,
    ),
);
const functions = new Map();
for (const { signature, name } of baseEnvironment().getDefinitions().functions) {
  if (/^type\(|Namespace\.|google\.protobuf/.test(signature) && !/^(timestamp|duration)\(/.test(signature)) continue;
  functions.set(name, [...(functions.get(name) ?? []), signature.replaceAll('<dyn, dyn>', '').replaceAll('<dyn>', '')]);
}
const fields = (type) => properties(toJSONSchema(type, { io: 'input', unrepresentable: 'any' })).join('');
write(
  'flow.md',
  `# The flow document

${MADE}

YAML or JSON, the same document. \`/api/v1/schemas/flow.json\` is its JSON Schema; an editor with a YAML language server completes and marks with it after a first line such as \`# yaml-language-server: $schema=http://127.0.0.1:7377/api/v1/schemas/flow.json\`. [steps.md](steps.md) says what \`with\` takes for each kind.

## The whole

${fields(flowSchema)}

### Inputs with values to choose from

\`x-values\` on a property of \`input\` names the source of its values: a tool of a server, a flow, or a table. Forms in the console, public form pages and \`pindro flow run NAME --set hut=?\` offer them. Public form pages show the values to everybody, with only the columns \`value\` and \`label\`.

\`\`\`yaml
input:
  type: object
  properties:
    hut: { type: string, x-values: { table: huts, value: name } }
    room: { type: string, x-values: { flow: rooms, with: [hut], value: id, label: title } }
\`\`\`

${fields(lookupSchema)}

## A step

${fields(stepSchema)}

### What comes after what

- \`after: [a]\` waits until \`a\` has settled. Steps that wait for nothing run side by side.
- \`after: [a.yes]\` follows one branch of \`a\`. Branches of one step are alternatives, different steps are all required.
- A skipped step is neutral; when all that a step comes after were skipped or took another branch, it is skipped too. Its outputs are empty then: \`has(steps.a.text)\` says no.
- \`join: any\` begins a step at the first of what it comes after.
- A branch that is an aside (\`refused\`, \`error\`) is followed only by who names it; a plain \`after\` follows the ordinary way.
- \`on_error: stop\` ends the run, \`continue\` goes on with \`steps.NAME.error\`, \`branch\` follows \`NAME.error\`.
- \`retry\` tries again what certainly did not happen; with \`repeat: true\` also what may have. \`timeout\` is for each attempt, and for the tool it calls.
- A text as duration carries its unit: \`300ms\`, \`10s\`, \`5m\`, \`2h\`, \`7d\`.

## Values with expressions

A text holds words and \`\${ expression }\`. Alone, an expression keeps the type of its value. \`$\${\` stands for a literal \`\${\`. What comes out is data and never read again. A value that is not there leaves an optional field out and fails a needed one.

Expressions are CEL, the Common Expression Language. They see:

| Name | What it holds |
| --- | --- |
| \`input\` | what the caller supplied, with defaults filled in |
| \`steps.NAME\` | what a step before this one left |
| \`caller\` | \`id\`, and what stands on the key |
| \`session\` | \`id\`, \`client\`, \`endpoint\` |
| \`run\` | \`id\`, \`flow\`, \`stage\` |
| \`clock\` | \`now\`, \`today\`, \`zone\` |
| \`item\`, \`index\` | inside of a loop |
| \`row\` | in \`set\` and \`when\` of a table step that changes rows: the row as it is |

Whole numbers and others go together: \`input.party > 2 ? 1 : 0.5\`, \`input.rate in [1, 2]\`. Two literals divide as whole numbers: \`5 / 2\` is 2.

### Functions

| Name | Takes and gives |
| --- | --- |
${[...functions].map(([name, signatures]) => `| \`${name}\` | ${signatures.map((one) => `\`${cell(one)}\``).join('<br>')} |`).join('\n')}

Of moments (\`clock.now\`, \`timestamp("2027-02-14T06:00:00Z")\`) there are \`getFullYear()\`, \`getMonth()\`, \`getDate()\`, \`getDayOfWeek()\`, \`getHours()\` and the like, each with a time zone if one is given. \`+ - * / %\`, \`== != < <= > >=\`, \`&& || !\`, \`in\` and \`a ? b : c\` are operators.

## Conditions of a table

\`where\` holds columns and what they must be, all of them together; \`any\` holds alternatives on top. A plain value means equal.

| Operator | Holds for |
| --- | --- |
${operators.join('\n')}`,
);

const rules = DIAGNOSIS_RULES.map((rule) => `| \`${rule.code}\` | ${cell(rule.about)} | ${cell(rule.todo)} |`);
write(
  'findings.md',
  `# Findings\n\n${MADE}\n\nWhat the diagnosis of a run looks for, the special before the general. A finding is a failure (it made the run fail), a doubt (the run is done and is not what it seems) or a warning (it was dealt with). It says where to change what, quotes the other side, and proposes the change where that can be made for you.\n\n| Code | What it finds | What is done about it |\n| --- | --- | --- |\n${rules.join('\n')}`,
);

const remarks = REVIEW_RULES.map((rule) => `| \`${rule.code}\` | ${cell(rule.about)} |`);
write(
  'review.md',
  `# Review of a tool list\n\n${MADE}\n\nWhat the review looks for in the tools of an endpoint or a toolbox, as a model reads them. It asks no model: the same list gives the same remarks. Each remark says where, why it hurts and what to write instead.\n\n| Code | What it looks for |\n| --- | --- |\n${remarks.join('\n')}`,
);

const { ROLES, ROLE_WORDS, mayUse, routes } = await import('../packages/contract/dist/index.js');
const allowed = Object.values(routes).map((route) => {
  const needed = route.role;
  return `| ${cell(route.about)} | \`${route.method} ${route.path}\` | ${ROLES.map((role) => (mayUse(role, needed) ? 'yes' : '–')).join(' | ')} |`;
});
write(
  'roles.md',
  `# Roles\n\n${MADE}\n\nWhat the people of the console may do. An access key with the scope \`manage\` may do what an owner may.\n\n${ROLES.map((role) => `- **${role}** ${ROLE_WORDS[role]}`).join('\n')}\n\n| What | Address | ${ROLES.join(' | ')} |\n| --- | --- | ${ROLES.map(() => '---').join(' | ')} |\n${allowed.join('\n')}`,
);
