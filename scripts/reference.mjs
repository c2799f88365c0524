/* Writes the reference pages in docs/ that are generated from the code. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { prepare, root } from './prepare.mjs';
import { writeApi } from './reference-api.mjs';
import { writeCommands } from './reference-cli.mjs';
import { writeCodeReference } from './reference-code.mjs';

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
const MADE = '_Generated from the code by `npm run reference`. Do not edit._';

const errors = Object.entries(catalogue).map(
  ([code, { message, hint, http }]) => `| \`${code}\` | ${http} | ${cell(message)} | ${cell(hint)} |`,
);
write(
  'errors.md',
  `# Errors\n\n${MADE}\n\nEvery error has a code, a message and a hint. HTTP responses contain them as problem details (RFC 9457), tool calls as text for the model. The command line prints them to standard error or, with \`--json\`, to standard output.\n\n| Code | HTTP | Message | Hint |\n| --- | --- | --- | --- |\n${errors.join('\n')}`,
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
      `| Field | Required | Type | Default | Description |\n| --- | --- | --- | --- | --- |\n${rowsOf(form).join('\n')}`,
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
    ? `Output: ${told({})}.`
    : listed.map((mode) => `- \`do: ${mode}\`: ${told({ do: mode })}`).join('\n');
};
const kinds = stepKinds().map((kind) => {
  const schema = toJSONSchema(kind.config, { io: 'input', unrepresentable: 'any' });
  const branches = kind
    .branches({ unless: {}, when: {} })
    .map(({ name, aside }) => `\`${name}\`${aside ? ' (optional)' : ''}`);
  const ways = branches.length > 0 ? `\n\nBranches: ${branches.join(', ')}.` : '';
  return `## ${kind.name}\n\n${kind.about}\n\n${properties(schema).join('\n\n')}\n\n${leaves(kind, schema)}${ways}`;
});
write(
  'steps.md',
  `# Step kinds\n\n${MADE}\n\nSettings under \`with\` of each kind, and the output in \`steps.NAME\`.\n\n${kinds.join('\n\n')}`,
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
  `# Flow documents

${MADE}

A flow is a YAML or JSON document. Its JSON Schema is \`/api/v1/schemas/flow.json\`. An editor with a YAML language server uses it after a first line such as \`# yaml-language-server: $schema=http://127.0.0.1:7377/api/v1/schemas/flow.json\`. See [steps.md](steps.md) for the settings of each step kind.

## Top level

${fields(flowSchema)}

### Inputs with a list of values

\`x-values\` on a property of \`input\` names the source of its values: a tool of a server, a flow, or a table. Forms in the console, public form pages and \`pindro flow run NAME --set hut=?\` offer them. Public form pages show the values to everybody, with only the columns \`value\` and \`label\`.

\`\`\`yaml
input:
  type: object
  properties:
    hut: { type: string, x-values: { table: huts, value: name } }
    room: { type: string, x-values: { flow: rooms, with: [hut], value: id, label: title } }
\`\`\`

${fields(lookupSchema)}

## Steps

${fields(stepSchema)}

### Order and branches

- \`after: [a]\` runs after \`a\`. Independent steps run in parallel.
- \`after: [a.yes]\` follows one branch of \`a\`. Branches of the same step are alternatives; different steps are all required.
- A step is skipped if all of its predecessors were skipped or took another branch. Its outputs are then empty: \`has(steps.a.text)\` is false.
- \`join: any\` starts a step after the first of its predecessors.
- An optional branch (\`refused\`, \`error\`) is followed only by steps that name it; a plain \`after\` follows the default branch.
- \`on_error: stop\` ends the run, \`continue\` sets \`steps.NAME.error\` and continues, \`branch\` follows \`NAME.error\`.
- \`retry\` repeats attempts that certainly had no effect; with \`repeat: true\` also those that may have. \`timeout\` applies to each attempt and to the tool it calls.
- Durations have a unit: \`300ms\`, \`10s\`, \`5m\`, \`2h\`, \`7d\`.

## Expressions

A string can contain \`\${ expression }\`. A string that is one expression keeps the type of its value. \`$\${\` is a literal \`\${\`. Results are data and are not evaluated again. A missing value omits an optional field and fails a required one.

Expressions use CEL, the Common Expression Language, with these variables:

| Name | Value |
| --- | --- |
| \`input\` | input of the flow, with defaults |
| \`steps.NAME\` | output of an earlier step |
| \`caller\` | \`id\`, and the attributes of the key |
| \`session\` | \`id\`, \`client\`, \`endpoint\` |
| \`run\` | \`id\`, \`flow\`, \`stage\` |
| \`clock\` | \`now\`, \`today\`, \`zone\` |
| \`item\`, \`index\` | in loops |
| \`row\` | in \`set\` and \`when\` of a table step that updates rows: the present row |

Integers and other numbers can be mixed: \`input.party > 2 ? 1 : 0.5\`, \`input.rate in [1, 2]\`. Two integer literals use integer division: \`5 / 2\` is 2.

### Functions

| Name | Signatures |
| --- | --- |
${[...functions].map(([name, signatures]) => `| \`${name}\` | ${signatures.map((one) => `\`${cell(one)}\``).join('<br>')} |`).join('\n')}

Timestamps (\`clock.now\`, \`timestamp("2027-02-14T06:00:00Z")\`) have \`getFullYear()\`, \`getMonth()\`, \`getDate()\`, \`getDayOfWeek()\`, \`getHours()\` and similar functions, with an optional time zone. \`+ - * / %\`, \`== != < <= > >=\`, \`&& || !\`, \`in\` and \`a ? b : c\` are operators.

## Table conditions

\`where\` lists columns with conditions that must all match; \`any\` lists additional alternatives. A plain value means equality.

| Operator | Matches |
| --- | --- |
${operators.join('\n')}`,
);

const rules = DIAGNOSIS_RULES.map((rule) => `| \`${rule.code}\` | ${cell(rule.about)} | ${cell(rule.todo)} |`);
write(
  'findings.md',
  `# Findings\n\n${MADE}\n\nThe diagnosis of a run evaluates these rules, specific ones first. A finding is a failure (it made the run fail), a doubt (the run is done, but not as it claims) or a warning (the run handled it). It says how to fix it and where, quotes the other side, and proposes a fix if that can be applied automatically.\n\n| Code | Description | Fix |\n| --- | --- | --- |\n${rules.join('\n')}`,
);

const reviewRules = REVIEW_RULES.map((rule) => `| \`${rule.code}\` | ${cell(rule.about)} |`);
write(
  'review.md',
  `# Review of a tool list\n\n${MADE}\n\nThe review checks the tools of an endpoint or a toolbox from the perspective of a model. It uses no model, so the same list always has the same findings. Each finding says where, why it matters and what to write instead.\n\n| Code | Description |\n| --- | --- |\n${reviewRules.join('\n')}`,
);

const { ROLES, ROLE_WORDS, mayUse, routes } = await import('../packages/contract/dist/index.js');
const allowed = Object.values(routes).map((route) => {
  const needed = route.role;
  return `| ${cell(route.about)} | \`${route.method} ${route.path}\` | ${ROLES.map((role) => (mayUse(role, needed) ? 'yes' : '–')).join(' | ')} |`;
});
write(
  'roles.md',
  `# Roles\n\n${MADE}\n\nPermissions of people in the console. An access key with \`--manage\` has the permissions of an owner.\n\n${ROLES.map((role) => `- **${role}** ${ROLE_WORDS[role]}`).join('\n')}\n\n| Operation | Route | ${ROLES.join(' | ')} |\n| --- | --- | ${ROLES.map(() => '---').join(' | ')} |\n${allowed.join('\n')}`,
);

await writeCommands(write, MADE);
writeApi(write, MADE, routes);
writeCodeReference();
