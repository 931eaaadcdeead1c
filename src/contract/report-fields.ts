import { z } from 'zod';
import { field, type Sentence } from '$core/sentence/sentence';

/** What can stand on a page: its settings as a sentence, and how large it is as it comes, mm. What it draws is in `service/report/blocks`. */
export interface BlockKind<S extends z.ZodObject = z.ZodObject> {
  kind: string;
  title: string;
  /** One line for the list of what can be put on a page. */
  says: string;
  sentence: Sentence<S>;
  defaults: z.infer<S>;
  size: readonly [w: number, h: number];
  /** Its words are written in a field of their own. */
  words?: boolean;
}

export const channels = field(z.array(z.string().max(40)).max(12), {
  label: 'Channels',
  editor: 'channels',
  counted: { beyond: 3, as: 'channels' },
  none: 'the first three channels',
  help: 'None chosen means the first three that are measured, one of each group.',
});
export const seconds = (label: string, none?: string) =>
  field(none ? z.number().min(0).max(1e9).nullable() : z.number().min(0).max(1e9), { label, editor: 'number', unit: 's', none }) as z.ZodType; // prettier-ignore
export const caption = field(z.string().trim().max(200), { label: 'Caption', editor: 'text', none: 'none' });
/** By name: each take that the report is run over has its own of it. */
export const study = field(z.string().trim().max(120), {
  label: 'Study',
  editor: 'choice',
  options: { ask: 'study', free: true },
  none: 'the first study',
  help: 'By its name: of each take that the report is run over its own study of that name.',
});
export const most = field(z.number().int().min(1).max(500), { label: 'At most', editor: 'number' });

export const SHOWN = ['shown', 'left out'] as const;

export const kind = <S extends z.ZodObject>(of: BlockKind<S>): BlockKind<S> => of;
