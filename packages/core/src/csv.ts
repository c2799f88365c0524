/*
 * How tables are read and written as CSV, alike in the console and at the command line. The words are those of the
 * csv-parse and csv-stringify libraries, which those two bring along.
 */

/** Lines may end in any way, also in several in one file; spaces around what is not quoted are nobody's. */
export const CSV_READING = {
  bom: true,
  skip_empty_lines: true,
  trim: true,
  record_delimiter: ['\r\n', '\n', '\r'],
};
/** What begins or ends with a space is quoted, so that it is read again as it was. */
export const CSV_WRITING = { quoted_match: /^\s|\s$/ };
