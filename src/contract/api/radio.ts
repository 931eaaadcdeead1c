import { z } from 'zod';
import { LineWishes, Listening, type RadioView } from '../radio';
import { Catching } from '../radio-catching';
import { Measuring } from '../radio-measuring';
import { Modulation } from '../radio-modulation';
import { Pictures, PICTURED } from '../radio-pictures';
import { endpoints, nothing, told } from './endpoint';

const Views = told<RadioView[]>('All receivers, as they are now.');

/** Receivers and how they are listened to. */
export const radioPart = endpoints({
  'GET /api/radio': { says: 'All receivers, and how each is listened to.', need: 'look', answer: Views },
  'PUT /api/radio/[unit]/listening': {
    says: 'Listens to a band otherwise; one outside what is received is tuned to.',
    need: 'take part',
    body: Listening.partial(),
    answer: Views,
  },
  'PUT /api/radio/[unit]/lines': {
    says: 'Other lines over a band.',
    need: 'take part',
    body: z.strictObject({ lines: LineWishes }),
    answer: Views,
  },
  'PUT /api/radio/[unit]/measuring': {
    says: 'Measures something else of a band: pins, peaks, widths, powers, limits.',
    need: 'take part',
    body: Measuring.partial(),
    answer: Views,
  },
  'PUT /api/radio/[unit]/catching': {
    says: 'Catches pictures over time otherwise; a channel outside what is received is tuned to.',
    need: 'take part',
    body: Catching.partial(),
    answer: Views,
  },
  'PUT /api/radio/[unit]/modulation': {
    says: 'Reads modulation otherwise; a channel outside what is received is tuned to.',
    need: 'take part',
    body: Modulation.partial(),
    answer: Views,
  },
  'PUT /api/radio/[unit]/pictures': {
    says: 'Arranges the pictures of a page otherwise; none at all for those that it begins with.',
    need: 'take part',
    body: z.strictObject({ page: z.enum(PICTURED), pictures: Pictures }),
    answer: Views,
  },
  'PUT /api/radio/[unit]/playing': {
    says: 'Goes to a place of a recorded band, or plays it at a speed; 0 stands still.',
    need: 'look',
    asks: true,
    body: z.strictObject({ atS: z.number().min(0).optional(), speed: z.number().min(0).max(1).optional() }),
    answer: Views,
  },
  'POST /api/radio/[unit]/clear': {
    says: 'Some lines over a band begin anew; all of them where none is named.',
    need: 'take part',
    body: z.strictObject({ ids: z.array(z.string().max(40)).max(6) }),
    answer: nothing,
  },
});
