import { PindroError } from '../errors/errors.js';
import { isObject, type Json, type JsonObject, type JsonSchema, pointerParts, valueAt } from '../json/json.js';

/** Chains of references are followed so far. */
const HOPS = 12;
/** Schemas are written out so deep, the deepest that does not come out too large; what is deeper is "anything". */
const DEPTHS = [12, 6, 3, 1];
/** The most objects of a schema that is written out: a few that refer to one another make millions. */
const LARGEST = 1000;

/**
 * The references of an OpenAPI document. Only those within it are followed: none makes the service read a file or ask
 * another machine. By hand, because a schema that refers to itself, or out of which a few hundred characters make
 * millions of objects, has to come out as something that a flow can keep.
 */
export class References {
  constructor(private readonly document: JsonObject) {}

  /** What a reference leads to; anything else as it is. @throws document_unreadable */
  follow(value: Json): Json {
    for (let hops = 0; isObject(value) && typeof value.$ref === 'string'; hops++) {
      const target = value.$ref.startsWith('#') ? valueAt(this.document, pointerParts(value.$ref.slice(1))) : undefined;
      if (target === undefined || hops > HOPS)
        throw new PindroError('document_unreadable', {
          why: `the reference ${value.$ref} cannot be resolved within the document`,
        });
      value = target as Json;
    }
    return value;
  }

  /** A schema with its references written out. @throws document_unreadable */
  writeOut(schema: Json): JsonSchema {
    for (const depth of DEPTHS) {
      const room = { left: LARGEST };
      const written = this.#expand(schema, depth, room);
      if (room.left >= 0) return written;
    }
    return {};
  }

  #expand(value: Json, depth: number, room: { left: number }): JsonSchema {
    if (--room.left < 0 || depth < 0) return {};
    const walk = (inner: Json): Json => {
      if (Array.isArray(inner)) return inner.map(walk);
      return isObject(inner) ? this.#expand(inner, depth - 1, room) : inner;
    };
    const here = this.follow(value);
    return isObject(here) ? Object.fromEntries(Object.entries(here).map(([name, inner]) => [name, walk(inner)])) : {};
  }
}
