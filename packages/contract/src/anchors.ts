/**
 * Returns the anchor of a heading, as Markdown hosts derive it: lower case, hyphens for spaces, no punctuation.
 * @param heading the text of the heading, possibly with Markdown
 * @returns the anchor without `#`
 */
export const anchorOf = (heading: string): string =>
  heading
    .toLowerCase()
    .replaceAll(/[^\p{L}\p{N}\s_-]/gu, '')
    .trim()
    .replaceAll(/\s/g, '-');
