import { z } from 'zod';
import { badInput } from '../../errors';
import { isUnit, readUnit } from '../../quantities/quantities';
import { field } from '../../sentence/sentence';
import type { Finding, StudyKind } from '../study';

const MOST = 200;

const schema = z.strictObject({
  findings: field(z.string().trim().min(1, 'Write at least one finding.').max(20_000), {
    label: 'Findings',
    editor: 'text',
    help: 'Such as “Load at slip = 41.2 ± 0.4 kN; Slip = 0.3 mm”.',
  }),
  method: field(z.string().trim().max(2000), {
    label: 'Method',
    editor: 'text',
    none: 'not said',
    help: 'How and with what they were found: it stands in the report.',
  }),
});

/** What was found outside: by a program that read the take, or by hand at the specimen. Values, uncertainties and units are taken as they are written. */
export const elsewhere: StudyKind<typeof schema> = {
  kind: 'elsewhere',
  title: 'Findings from elsewhere',
  purpose: 'What a program or a gauge beside the rig found, kept with the take.',
  method: [
    {
      says: 'The values are those that were given; nothing is computed. ± is what was written beside them.',
      source: 'whoever gave them, as the sentence says',
    },
  ],
  asks: 'How large is it?',
  sketch: { points: [[0.2, 0.3], [0.45, 0.62], [0.7, 0.5], [0.85, 0.8]] }, // prettier-ignore
  sentence: { schema, template: () => 'Found elsewhere: {findings}. Method: {method}.' },
  defaults: { findings: 'Value = 0', method: '' },
  roles: [],
  run: (_takes, { findings }) => {
    const all = readFindings(findings);
    return {
      findings: all,
      figures: [],
      tables: [
        {
          title: 'Findings',
          columns: [
            { label: 'Finding', numeric: false },
            { label: 'Value', numeric: true },
            { label: 'Unit', numeric: false },
            { label: 'Beside it', numeric: false },
          ],
          rows: all.map(({ label, value, unit, note }) => [
            label,
            value,
            unit === '1' ? '' : unit,
            note ?? '',
          ]),
        },
      ],
    };
  },
};

const ONE =
  /^(.+?)\s*=\s*([-+−]?\d[\d.]*(?:e[-+]?\d+)?)\s*(?:(?:±|\+-)\s*(\d[\d.]*(?:e[-+]?\d+)?))?\s*(.*)$/i;

/** “Load at slip = 41.2 ± 0.4 kN; Slip = 0.3 mm” one by one. @throws `bad_input` naming the one that cannot be read */
export function readFindings(text: string): Finding[] {
  const parts = text.split(/[;\n]/).map((p) => p.trim()).filter(Boolean); // prettier-ignore
  if (parts.length > MOST) throw badInput('findings', parts.length, `Up to ${MOST} are kept.`);
  return parts.map((part) => {
    const found = ONE.exec(part);
    const value = Number(found?.[2].replace('−', '-'));
    if (!found || !Number.isFinite(value))
      throw badInput('findings', part, 'Write each as “Name = value unit”.');
    const [, label, , spread, written] = found;
    if (written !== '' && !isUnit(written))
      throw badInput('findings', part, `“${written}” is no unit that is known.`);
    const unit = written === '' ? '1' : readUnit(written);
    return { label, value, unit, ...(spread && { note: `± ${spread}${unit === '1' ? '' : ` ${unit}`}` }) };
  });
}
