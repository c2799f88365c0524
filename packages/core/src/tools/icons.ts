import { z } from 'zod';
import type { JsonObject } from '../json/json.js';

/** An icon goes out with every list of tools, so that it has to be small, in characters of its address. */
const LONGEST = 32 * 1024;
const DATA = /^data:(image\/(?:png|jpeg|webp|svg\+xml));base64,[A-Za-z0-9+/]+={0,2}$/;

/** Picture of a tool or endpoint: an https address or a data URI. */
export const icon = z
  .string()
  .max(LONGEST, `must be at most ${LONGEST / 1024} KiB; clients receive it with every list`)
  .refine((src) => DATA.test(src) || /^https:\/\/[^\s]+$/.test(src), {
    message: 'must be an https address, or a PNG, JPEG, WebP or SVG as a data URI',
  });

/**
 * Returns icons in the format of MCP (2025-11-25, basic: Icon).
 * @param src address of the picture, or a `data:` URL
 * @returns a list of one icon
 */
export const iconsOf = (src: string): JsonObject[] => {
  const mimeType = DATA.exec(src)?.[1];
  return [{ src, ...(mimeType !== undefined && { mimeType }) }];
};
