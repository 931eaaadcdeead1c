import { z } from 'zod';
import { field } from '../../sentence/sentence';
import { tableFields } from '../csv/read';
import type { FormatKind } from '../format';

const reading = z.strictObject({
  sheet: field(z.string().trim().max(100).nullable(), {
    label: 'Sheet',
    editor: 'text',
    none: 'the first with numbers',
    help: 'The name on its tab.',
  }),
  ...tableFields,
});

let work: typeof import('./read') | null = null;

/** Office Open XML workbook (ISO/IEC 29500): one sheet is read as a table, as one of text is. Formulas give the values that were last kept with them, none is run. */
export const xlsx: FormatKind<z.ZodObject, typeof reading> = {
  kind: 'xlsx',
  title: 'Spreadsheet (XLSX)',
  extensions: ['xlsx', 'xlsm'],
  mediaType: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  cannotCarry: 'Written by what is kept under Spreadsheets.',
  prepare: async () => (work ??= await import('./read')),
  reading: {
    sentence: {
      schema: reading,
      template: ({ times }) =>
        `From the sheet {sheet}. Names in the row {namesRow}, units in the row {unitsRow}. Times {times}${times === 'none' ? '' : ' in column {timeColumn}'}, sampled at {rateHz}.`,
    },
    defaults: {
      sheet: null,
      rateHz: null,
      times: 'found by itself',
      timeColumn: null,
      namesRow: null,
      unitsRow: null,
    },
    recognises: (source) => {
      const head = source.read(0, 4);
      return head[0] === 0x50 && head[1] === 0x4b && head[2] === 3 && head[3] === 4 && /\.xls[xm]$/i.test(source.name); // prettier-ignore
    },
    read: (source, options) => work!.readWorkbook(source, options),
  },
};
