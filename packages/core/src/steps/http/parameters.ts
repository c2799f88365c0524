import { z } from 'zod';
import { isObject, type Json, type JsonObject } from '../../json/json.js';
import { json } from '../document.js';

/*
 * How lists and objects are written into an address, a header, a cookie or a form: the styles of OpenAPI 3
 * (https://spec.openapis.org/oas/v3.1.1.html#style-values), which are those of RFC 6570.
 */

export const scalar = z.union([z.string(), z.number(), z.boolean()]).meta({ title: 'A value' });
const value = z.union([
  scalar,
  z.array(scalar).meta({ title: 'A list' }),
  z.record(z.string(), json).meta({ title: 'Fields' }),
]);
export const parameterValues = z.record(z.string(), value);

const STYLES = ['form', 'spaceDelimited', 'pipeDelimited', 'deepObject', 'simple', 'label', 'matrix', 'json'] as const;
const PLACES = ['path', 'query', 'headers', 'cookies', 'form'] as const;
type Place = (typeof PLACES)[number];
const style = z.strictObject({
  style: z
    .enum(STYLES)
    .optional()
    .meta({ title: 'Style', description: 'A style of OpenAPI, or json for its JSON text' }),
  explode: z.boolean().optional().meta({ title: 'Explode', description: 'Whether each item is written separately' }),
});
type Style = z.infer<typeof style>;
const TITLES: Record<Place, string> = {
  path: 'Path',
  query: 'Query',
  headers: 'Headers',
  cookies: 'Cookies',
  form: 'Form',
};
const byName = (place: Place) =>
  z.record(z.string(), style).optional().meta({ title: TITLES[place], description: 'By the name of the parameter' });

/** By place and name of the parameter. */
export const stylesConfig = z
  .strictObject(
    Object.fromEntries(PLACES.map((place) => [place, byName(place)])) as Record<Place, ReturnType<typeof byName>>,
  )
  .default({})
  .meta({
    title: 'Serialization',
    description:
      'How lists and objects are written: by default, query lists repeat their name, and path and header lists use commas',
  });
export type Styles = Partial<Record<Place, Record<string, Style> | undefined>>;

const DEFAULTS: Record<Place, Required<Style>> = {
  path: { style: 'simple', explode: false },
  query: { style: 'form', explode: true },
  headers: { style: 'simple', explode: false },
  cookies: { style: 'form', explode: true },
  form: { style: 'form', explode: true },
};
const DELIMITERS: Partial<Record<(typeof STYLES)[number], string>> = { spaceDelimited: '%20', pipeDelimited: '%7C' };

type Encode = (text: string) => string;
type Pair = [name: string, text: string];

const textOf = (one: Json): string => (isObject(one) || Array.isArray(one) ? JSON.stringify(one) : String(one));
const flat = (fields: JsonObject): Json[] => Object.entries(fields).flat();
const fieldsOf = (fields: JsonObject, encode: Encode): string[] =>
  Object.entries(fields).map(([key, one]) => `${encode(key)}=${encode(textOf(one))}`);

/** Returns what a parameter becomes, as encoded pairs of name and text. An empty list becomes nothing. */
function pairsOf(name: string, given: Json, { style, explode }: Required<Style>, encode: Encode): Pair[] {
  const key = encode(name);
  if (style === 'json') return [[key, encode(JSON.stringify(given))]];
  if (Array.isArray(given)) {
    if (given.length === 0) return [];
    const texts = given.map((one) => encode(textOf(one)));
    return explode ? texts.map((text): Pair => [key, text]) : [[key, texts.join(DELIMITERS[style] ?? ',')]];
  }
  if (!isObject(given)) return [[key, encode(textOf(given))]];
  if (style === 'deepObject') return deep(name, given, encode);
  if (explode) return Object.entries(given).map(([one, inner]): Pair => [encode(one), encode(textOf(inner))]);
  const texts = flat(given).map((one) => encode(textOf(one)));
  return texts.length === 0 ? [] : [[key, texts.join(DELIMITERS[style] ?? ',')]];
}

const deep = (name: string, given: JsonObject, encode: Encode): Pair[] =>
  Object.entries(given).flatMap(([field, inner]): Pair[] => {
    const at = `${name}[${field}]`;
    if (isObject(inner)) return deep(at, inner, encode);
    const items = Array.isArray(inner) ? inner : [inner];
    return items.map((one): Pair => [encode(at), encode(textOf(one))]);
  });

const styleOf = (place: Place, name: string, styles: Styles): Required<Style> => ({
  ...DEFAULTS[place],
  // The default of `explode` is true for the style "form" only.
  ...(styles[place]?.[name]?.style !== undefined &&
    styles[place]?.[name]?.style !== 'form' && { explode: styles[place]?.[name]?.style === 'deepObject' }),
  ...Object.fromEntries(Object.entries(styles[place]?.[name] ?? {}).filter(([, one]) => one !== undefined)),
});

/** As forms and queries are encoded by the URL standard: a space is a plus. */
const encodeForm: Encode = (text) => encodeURIComponent(text).replaceAll('%20', '+');

/** Returns the encoded text of a query or a form (application/x-www-form-urlencoded). */
export const encodePairs = (values: JsonObject, place: 'query' | 'form', styles: Styles): string =>
  Object.entries(values)
    .flatMap(([name, one]) => pairsOf(name, one, styleOf(place, name, styles), encodeForm))
    .map(([name, text]) => `${name}=${text}`)
    .join('&');

/** Returns the header `Cookie`, or empty. */
export const cookieHeader = (values: JsonObject, styles: Styles): string =>
  Object.entries(values)
    .flatMap(([name, one]) => pairsOf(name, one, styleOf('cookies', name, styles), encodeURIComponent))
    .map(([name, text]) => `${name}=${text}`)
    .join('; ');

/** Returns the text of a header. */
export function headerText(name: string, given: Json, styles: Styles): string {
  const { style, explode } = styleOf('headers', name, styles);
  if (style === 'json') return JSON.stringify(given);
  if (Array.isArray(given)) return given.map(textOf).join(',');
  if (!isObject(given)) return textOf(given);
  return explode ? fieldsOf(given, (text) => text).join(',') : flat(given).map(textOf).join(',');
}

/** Returns an address with its `{names}` filled in. A name without a value stays as it is. */
export function fillPath(url: string, values: JsonObject, styles: Styles): string {
  return url.replaceAll(/\{([^{}]+)\}|%7B([^{}%]+)%7D/gi, (whole, plain?: string, encoded?: string) => {
    const name = plain ?? encoded!;
    const given = Object.hasOwn(values, name) ? values[name] : undefined;
    return given === undefined ? whole : pathText(name, given, styleOf('path', name, styles));
  });
}

function pathText(name: string, given: Json, { style, explode }: Required<Style>): string {
  const encode = encodeURIComponent;
  const start = style === 'label' ? '.' : style === 'matrix' ? ';' : '';
  const label = style === 'matrix' ? `${encode(name)}=` : '';
  if (style === 'json') return encode(JSON.stringify(given));
  if (!isObject(given) && !Array.isArray(given)) return `${start}${label}${encode(textOf(given))}`;
  const between = explode && start !== '' ? start : ',';
  if (Array.isArray(given)) {
    const texts = given.map((one) => encode(textOf(one)));
    return explode ? `${start}${texts.map((text) => label + text).join(between)}` : `${start}${label}${texts.join()}`;
  }
  if (explode) return `${start}${fieldsOf(given, encode).join(between)}`;
  return `${start}${label}${flat(given)
    .map((one) => encode(textOf(one)))
    .join()}`;
}
