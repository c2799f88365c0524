import {
  isObject,
  type Json,
  type JsonObject,
  type JsonSchema,
  type LookedUp,
  ownOf,
  type PindroError,
} from '@pindro/core';
import { escapeHtml } from './page.js';

export interface Choice {
  items: LookedUp[];
  /** Whether the values depend on other inputs. */
  depends: boolean;
}
/** The values that a form offers, by the names of its inputs. */
export type Choices = ReadonlyMap<string, Choice>;

/** The query parameter with which a form is sent to load choices, not to run its flow. */
export const LOAD_CHOICES = 'choices';

/** Returns the inputs that a schema declares. */
export const properties = (schema: JsonSchema): [string, JsonSchema][] =>
  Object.entries(isObject(schema.properties) ? schema.properties : {}).map(([name, one]) => [
    name,
    isObject(one) ? one : {},
  ]);

/** Draws a labelled control for each input. @param choices the values that some of them offer, by name */
export function fields(
  schema: JsonSchema,
  given: JsonObject,
  problem: PindroError | null,
  choices: Choices = new Map(),
): string {
  const required = Array.isArray(schema.required) ? schema.required.map(String) : [];
  const wrong = new Set(problem?.mistakes?.map((mistake) => mistake.at.split('/')[1]));
  return properties(schema)
    .map(([name, property]) =>
      field(name, property, {
        ...{ value: ownOf(given, name), needed: required.includes(name), wrong: wrong.has(name) },
        choice: choices.get(name),
      }),
    )
    .join('');
}

const labelOf = (name: string, property: JsonSchema) =>
  typeof property.title === 'string'
    ? property.title
    : name.replaceAll('_', ' ').replace(/^./, (letter) => letter.toUpperCase());

interface FieldState {
  value: Json | undefined;
  needed: boolean;
  wrong: boolean;
  choice: Choice | undefined;
}

function field(name: string, property: JsonSchema, { value, needed, wrong, choice }: FieldState): string {
  const id = `f-${escapeHtml(name)}`;
  const about = typeof property.description === 'string' ? property.description : '';
  const attributes = [
    `id="${id}"`,
    `name="${escapeHtml(name)}"`,
    needed && property.type !== 'boolean' ? 'required' : '',
    about ? `aria-describedby="${id}-about"` : '',
    wrong ? 'aria-invalid="true"' : '',
  ]
    .filter(Boolean)
    .join(' ');
  const label = escapeHtml(labelOf(name, property));
  const hint = about ? `<p class="about" id="${id}-about">${escapeHtml(about)}</p>` : '';
  if (property.type === 'boolean')
    return `<div class="box"><input type="checkbox" ${attributes} value="true"${value === true ? ' checked' : ''}><label for="${id}">${label}</label>${hint}</div>`;
  const optional = needed ? '' : ' <span class="optional">(optional)</span>';
  return `<div><label for="${id}">${label}${optional}</label>${hint}${choice?.items.length ? select(choice.items, attributes, value) : control(property, attributes, value)}${choice?.depends ? loadButton(label) : ''}</div>`;
}

function control(property: JsonSchema, attributes: string, value: Json | undefined): string {
  const text = value === undefined ? '' : asText(value);
  if (Array.isArray(property.enum)) {
    const items = property.enum.map((one) => ({ value: one as Json, label: '' }));
    return select(items, attributes, value);
  }
  const bounds = [
    ['minimum', 'min'],
    ['maximum', 'max'],
    ['maxLength', 'maxlength'],
  ].flatMap(([keyword, attribute]) =>
    typeof property[keyword!] === 'number' ? [`${attribute}="${property[keyword!]}"`] : [],
  );
  const long = Number(property.maxLength ?? 0) > 200 || property.type === 'object' || property.type === 'array';
  if (long) return `<textarea ${attributes} rows="5">${escapeHtml(text)}</textarea>`;
  return `<input type="${inputType(property)}" ${attributes} ${bounds.join(' ')} value="${property.writeOnly === true ? '' : escapeHtml(text)}">`;
}

/** A value that was sent and is not listed stays one of the options. */
function select(items: readonly LookedUp[], attributes: string, value: Json | undefined): string {
  const isListed = value === undefined || items.some((one) => one.value === value);
  const options = [...items, ...(isListed ? [] : [{ value, label: '' }])].map((one) => {
    const word = escapeHtml(asText(one.value));
    const words = one.label ? `${escapeHtml(one.label)} (${word})` : word;
    return `<option value="${word}"${one.value === value ? ' selected' : ''}>${words}</option>`;
  });
  return `<select ${attributes}><option value="">Choose …</option>${options.join('')}</select>`;
}

const loadButton = (label: string) =>
  `<button class="plain load" formnovalidate formaction="?${LOAD_CHOICES}">Load choices for ${label}</button>`;

const asText = (value: Json) => (typeof value === 'string' ? value : JSON.stringify(value));

function inputType(property: JsonSchema): string {
  if (property.type === 'integer') return 'number';
  if (property.type === 'number') return 'number" step="any';
  if (property.writeOnly === true || property.format === 'password') return 'password';
  const known: Record<string, string> = { date: 'date', email: 'email', uri: 'url', time: 'time' };
  return known[String(property.format)] ?? 'text';
}
