import type { Options } from 'csv-stringify';
import { harmless } from '@ascenso/core';

/**
 * How every file of ours is written as CSV (RFC 4180): UTF-8 with its mark, by which spreadsheets know it, and no text that
 * a spreadsheet would run as a formula. Read in again, each cell is what it was.
 */
export const CSV: Options = {
  bom: true,
  record_delimiter: 'windows',
  // Half a line end in a cell ends a row for many who read it.
  quoted_match: /[\r\n]/,
  cast: { string: harmless, boolean: (yes) => (yes ? 'yes' : 'no') },
};
