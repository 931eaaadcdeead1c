import { z } from 'zod';
import { Correction } from '../radio-kept';
import { NOISE_STATES, NoiseSettings, NoiseSource, type NoiseResult, type NoiseView } from '../radio-noise';
import { endpoints, nothing, told } from './endpoint';

const Views = told<NoiseView[]>('The benches of all receivers, as they are now.');
const Sources = told<NoiseSource[]>('All noise sources.');
const Corrections = told<Correction[]>('All tables of correction.');

/** Noise figure and gain, and what is kept for it. */
export const radioNoisePart = endpoints({
  'GET /api/radio/noise': {
    says: 'How noise figures are measured, and what was measured.',
    need: 'look',
    answer: Views,
  },
  'PUT /api/radio/[unit]/noise': {
    says: 'Measures noise figures otherwise.',
    need: 'take part',
    body: NoiseSettings.partial(),
    answer: Views,
  },
  'PUT /api/radio/[unit]/noise/device': {
    says: 'Another device is measured.',
    need: 'take part',
    body: z.strictObject({ device: z.string().max(60) }),
    answer: Views,
  },
  'PUT /api/radio/[unit]/noise/now': {
    says: 'A table of the source that holds for this time only; null: the one that is kept.',
    need: 'take part',
    body: z.strictObject({ points: NoiseSource.shape.points.nullable() }),
    answer: Views,
  },
  'POST /api/radio/[unit]/noise/measure': {
    says: 'Measures with the source on or off, without or with the device; a driven source is switched.',
    need: 'controls',
    body: z.strictObject({ states: z.array(z.enum(NOISE_STATES)).min(1).max(4) }),
    answer: Views,
  },
  'POST /api/radio/[unit]/noise/stop': {
    says: 'Ends measuring; what was measured stays.',
    need: 'take part',
    answer: nothing,
  },
  'GET /api/radio/noise/results': {
    says: 'Noise figures of this job’s devices.',
    need: 'look',
    answer: told<NoiseResult[]>('Oldest first.'),
  },
  'DELETE /api/radio/noise/results/[id]': {
    says: 'Takes a result away.',
    need: 'take part',
    answer: nothing,
  },
  'GET /api/radio/sources': { says: 'Noise sources that are kept.', need: 'look', answer: Sources },
  'PUT /api/radio/sources': {
    says: 'Keeps a noise source by its serial number.',
    need: 'take part',
    body: NoiseSource,
    answer: Sources,
  },
  'DELETE /api/radio/sources/[serial]': {
    says: 'Takes a noise source away; results that stood on it keep its table.',
    need: 'take part',
    answer: Sources,
  },
  'GET /api/radio/corrections': {
    says: 'Tables of correction that are kept: cables, antennas, networks.',
    need: 'look',
    answer: Corrections,
  },
  'PUT /api/radio/corrections': {
    says: 'Keeps a table of correction by its name.',
    need: 'take part',
    body: Correction,
    answer: Corrections,
  },
  'DELETE /api/radio/corrections/[name]': {
    says: 'Takes a table of correction away.',
    need: 'take part',
    answer: Corrections,
  },
});
