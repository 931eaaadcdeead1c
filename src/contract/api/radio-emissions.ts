import { z } from 'zod';
import { EmissionSettings, type EmissionRun, type EmissionView } from '../radio-emissions';
import { LimitSet } from '../radio-kept';
import { endpoints, nothing, told } from './endpoint';

const Views = told<EmissionView[]>('The benches of all receivers, as they are now.');
const Run = told<EmissionRun>('The look as it is now.');
const Limits = told<LimitSet[]>('All sets of limits.');

/** Emissions: looks over ranges, suspects, and what is kept for them. */
export const radioEmissionsPart = endpoints({
  'GET /api/radio/emissions': { says: 'How emissions are looked for.', need: 'look', answer: Views },
  'PUT /api/radio/[unit]/emissions': {
    says: 'Looks for emissions otherwise.',
    need: 'take part',
    body: EmissionSettings.partial(),
    answer: Views,
  },
  'POST /api/radio/[unit]/emissions/look': {
    says: 'Begins a look over all ranges; an ambient one is taken without the device.',
    need: 'take part',
    body: z.strictObject({ ambient: z.boolean().default(false) }),
    answer: Views,
  },
  'POST /api/radio/[unit]/emissions/stop': {
    says: 'Ends what is measured; what was measured stays.',
    need: 'take part',
    answer: nothing,
  },
  'GET /api/radio/emissions/runs': {
    says: 'Looks of this job, with their suspects.',
    need: 'look',
    answer: told<EmissionRun[]>('Oldest first.'),
  },
  'GET /api/radio/emissions/runs/[id]': {
    says: 'The line of a look, corrected.',
    need: 'look',
    answer: { bytes: 'application/octet-stream' },
  },
  'DELETE /api/radio/emissions/runs/[id]': { says: 'Takes a look away.', need: 'take part', answer: nothing },
  'POST /api/radio/emissions/runs/[id]/measure': {
    says: 'Measures suspects with peak, quasi-peak and average; all of them where none is named.',
    need: 'take part',
    body: z.strictObject({ unit: z.string().max(60), suspects: z.array(z.number().int()).max(200) }),
    answer: Views,
  },
  'PUT /api/radio/emissions/runs/[id]/suspects/[suspect]': {
    says: 'A note on a suspect, and whether it is ambient.',
    need: 'take part',
    body: z.strictObject({ note: z.string().max(500).optional(), ambient: z.boolean().optional() }),
    answer: Run,
  },
  'POST /api/radio/emissions/runs/[id]/pictures': {
    says: 'A picture of the arrangement: PNG or JPEG.',
    need: 'take part',
    sends: 'file',
    answer: Run,
  },
  'DELETE /api/radio/emissions/runs/[id]/pictures/[picture]': {
    says: 'Takes a picture away.',
    need: 'take part',
    answer: Run,
  },
  'GET /api/radio/emissions/runs/[id]/csv': {
    says: 'Readings of the suspects as CSV.',
    need: 'look',
    answer: { file: 'text/csv' },
  },
  'GET /api/radio/emissions/runs/[id]/pdf': {
    says: 'The look as a report.',
    need: 'look',
    answer: { file: 'application/pdf' },
  },
  'GET /api/radio/limits': { says: 'Sets of limits that are kept.', need: 'look', answer: Limits },
  'PUT /api/radio/limits': {
    says: 'Keeps a set of limits by its name.',
    need: 'take part',
    body: LimitSet,
    answer: Limits,
  },
  'DELETE /api/radio/limits/[name]': {
    says: 'Takes a set of limits away; looks that stood on it keep it.',
    need: 'take part',
    answer: Limits,
  },
});
