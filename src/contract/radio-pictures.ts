import { z } from 'zod';

const place = z.number().int().min(0).max(200);
const size = z.number().int().min(1).max(24);

/** A picture of a page and where it stands on a grid of 24 columns. */
const Picture = z.strictObject({
  id: z.string().min(1).max(40),
  /** What it shows, of the pictures that its page knows. */
  shows: z.string().min(1).max(40),
  ...{ x: place, y: place, w: size, h: size },
});
export type Picture = z.infer<typeof Picture>;

export const Pictures = z
  .array(Picture)
  .max(12, 'At most 12 pictures on one page.')
  .refine((all) => new Set(all.map((p) => p.id)).size === all.length, 'Each picture has an id of its own.');

/** Pages whose pictures are arranged, and how each begins. The numbers of a page stand among its pictures. */
export const PICTURED = ['pulses', 'modulation'] as const;
export type Pictured = (typeof PICTURED)[number];
export const NUMBERS_ID = 'numbers';

const at = (id: string, shows: string, x: number, y: number, w: number, h: number): Picture => ({ id, shows, x, y, w, h }); // prettier-ignore
/** Rows of the grid that fill a page. */
export const PICTURE_ROWS = 12;
export const PICTURES_BEGIN: Record<Pictured, readonly Picture[]> = {
  pulses: [
    at('power', 'power', 0, 0, 16, 8),
    at(NUMBERS_ID, NUMBERS_ID, 16, 0, 8, 8),
    at('frequency', 'frequency', 0, 8, 8, 4),
    at('spectrum', 'spectrum', 8, 8, 8, 4),
    at('waterfall', 'waterfall', 16, 8, 8, 4),
  ],
  modulation: [
    at('symbols', 'symbols', 0, 0, 9, 12),
    at('eye', 'eye', 9, 0, 7, 4),
    at('errors', 'errors', 9, 4, 7, 4),
    at('path', 'path', 9, 8, 7, 4),
    at(NUMBERS_ID, NUMBERS_ID, 16, 0, 8, 12),
  ],
};
