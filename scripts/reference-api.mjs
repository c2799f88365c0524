/* Writes docs/api.md: every route of the API with its parameters, from the contract. */
import { toJSONSchema } from 'zod';

const cell = (text) =>
  String(text ?? '')
    .replaceAll('|', '\\|')
    .replaceAll('\n', ' ')
    .replaceAll('<', '&lt;');
const typeOf = (schema) =>
  schema.enum?.join(', ') ??
  (schema.type === 'array'
    ? `array of ${typeOf(schema.items ?? {})}`
    : Array.isArray(schema.type)
      ? schema.type.join(' or ')
      : schema.type) ??
  schema.const ??
  ((schema.anyOf ?? schema.oneOf)?.map(typeOf).join(' or ') || 'any JSON');

function fieldRows(type, io) {
  if (!type) return '';
  const schema = toJSONSchema(type, { io, unrepresentable: 'any' });
  const fields = Object.entries(schema.properties ?? {});
  if (fields.length === 0) return '';
  return fields
    .map(
      ([name, inner]) =>
        `| \`${name}\` | ${schema.required?.includes(name) ? 'yes' : 'no'} | ${cell(typeOf(inner))} | ${cell(inner.description)} |`,
    )
    .join('\n');
}
const table = (title, rows) =>
  rows ? `\n\n${title}\n\n| Name | Required | Type | Description |\n| --- | --- | --- | --- |\n${rows}` : '';

/** @param write writes a page by its name @param made the note about generated pages @param routes of the contract */
export function writeApi(write, made, routes) {
  const groups = new Map();
  for (const [name, route] of Object.entries(routes)) {
    const group = route.path.split('/')[1];
    groups.set(group, [...(groups.get(group) ?? []), [name, route]]);
  }
  const sections = [...groups].map(([group, list]) => {
    const one = list.map(
      ([name, route]) =>
        `### ${name}\n\n${route.about}\n\n\`${route.method} /api/v1${route.path}\`, role ${route.role}${table('Query', fieldRows(route.query, 'input'))}${table('Body', fieldRows(route.body, 'input'))}`,
    );
    return `## ${group}\n\n${one.join('\n\n')}`;
  });
  write(
    'api.md',
    `# API\n\n${made}\n\nThe base address is \`/api/v1\`. Send an access key issued with \`--manage\` as \`Authorization: Bearer KEY\`. \`/api/v1/openapi.json\` describes requests and responses in full. Errors are problem details (RFC 9457) with a \`code\` of [errors.md](errors.md). Former paths and field names of version 0.1 still work in this version; responses at former paths have the header \`Deprecation\` (RFC 9745).\n\n${sections.join('\n\n')}`,
  );
}
