/* Writes the reference pages that are made from the code: docs/errors.md, docs/steps.md, docs/findings.md, docs/review.md and docs/roles.md. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { prepare, root } from './prepare.mjs';

prepare();
const { catalogue, DIAGNOSIS_RULES, REVIEW_RULES, stepKinds } = await import('../packages/core/dist/index.js');
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
const properties = (schema) => {
  const forms = schema.oneOf ?? schema.anyOf ?? [schema];
  return forms.map((form) => {
    const rows = Object.entries(form.properties ?? {}).map(
      ([name, inner]) =>
        `| \`${name}\` | ${form.required?.includes(name) ? 'yes' : 'no'} | ${cell(typeOf(inner))} | ${cell(inner.description ?? '')} |`,
    );
    return `| Field | Needed | Takes | Meaning |\n| --- | --- | --- | --- |\n${rows.join('\n')}`;
  });
};
const kinds = stepKinds().map((kind) => {
  const schema = toJSONSchema(kind.config, { io: 'input', unrepresentable: 'any' });
  const output = Object.entries(kind.output({ do: 'find' })).map(
    ([name, type]) => `\`${name}\` (${typeof type === 'string' ? type : Object.keys(type).join(', ')})`,
  );
  return `## ${kind.name}\n\n${kind.about}\n\n${properties(schema).join('\n\n')}\n\nLeaves: ${output.join(', ') || 'nothing'}.`;
});
write(
  'steps.md',
  `# Step kinds\n\n${MADE}\n\nWhat \`with\` takes for each kind, and what \`steps.NAME\` holds after it.\n\n${kinds.join('\n\n')}`,
);

const rules = DIAGNOSIS_RULES.map((rule) => `| \`${rule.code}\` | ${cell(rule.about)} |`);
write(
  'findings.md',
  `# Findings\n\n${MADE}\n\nWhat the diagnosis of a run looks for, tried in this order.\n\n| Code | What it looks for |\n| --- | --- |\n${rules.join('\n')}\n| \`interrupted\` | The service stopped while the run was under way. |`,
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
