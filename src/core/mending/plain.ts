import { z } from 'zod';
import { isUnit, unitConversion } from '../quantities/quantities';
import { badInput } from '../errors';
import { field } from '../sentence/sentence';
import type { MendingKind } from './mending';

const offsetSchema = z.strictObject({
  value: field(z.number().min(-1e12).max(1e12), {
    label: 'Offset',
    editor: 'number',
    unitFrom: 'unit',
    help: 'What it reads where it should read zero.',
  }),
});
/** An offset taken off. */
export const offset: MendingKind<typeof offsetSchema> = {
  kind: 'offset',
  title: 'take an offset out',
  sentence: { schema: offsetSchema, template: () => 'It read too high by {value} all along.' },
  defaults: { value: 0 },
  mend: ({ value }) => ({ line: { factor: 1, offset: -value } }),
};

const noSettings = z.strictObject({});
/** Polarity turned. */
export const polarity: MendingKind<typeof noSettings> = {
  kind: 'polarity',
  title: 'turn the polarity',
  sentence: {
    schema: noSettings,
    template: () => 'Its wires were the wrong way round: every value changes its sign.',
  },
  defaults: {},
  mend: () => ({ line: { factor: -1, offset: 0 } }),
};

const renameSchema = z.strictObject({
  name: field(z.string().trim().min(1, 'Give a name.').max(80, 'At most 80 characters.'), {
    label: 'Name',
    editor: 'text',
    none: 'a name',
  }),
});
/** Another name. */
export const rename: MendingKind<typeof renameSchema> = {
  kind: 'rename',
  title: 'call it by another name',
  sentence: { schema: renameSchema, template: () => 'It is called {name}.' },
  defaults: { name: '' },
  mend: ({ name }) => ({ name }),
};

const HOW = ['converted into it', 'as they are: the unit was wrong'] as const;
const unitSchema = z.strictObject({
  to: field(z.string().trim().min(1, 'Give a unit.').max(40), {
    label: 'Unit',
    editor: 'text',
    none: 'a unit',
  }),
  how: field(z.enum(HOW), { label: 'Values', editor: 'choice', options: HOW }),
});
/** Another unit: its values follow, or its unit was written wrongly. */
export const unit: MendingKind<typeof unitSchema> = {
  kind: 'unit',
  title: 'give it another unit',
  sentence: { schema: unitSchema, template: () => 'Its unit is {to}; its values are {how}.' },
  defaults: { to: '', how: HOW[0] },
  mend({ to, how }, channel) {
    if (!isUnit(to)) throw badInput('Unit', to, 'Write it like kN, m/s² or L/min.');
    if (how === HOW[1]) return { unit: to };
    return { unit: to, line: unitConversion(channel.unit, to) };
  },
};

const swapSchema = z.strictObject({
  with: field(z.string().max(200), { label: 'Changed places with', editor: 'channel' }),
});
/** Two channels whose sensors were wired to each other’s terminals. */
export const swap: MendingKind<typeof swapSchema> = {
  kind: 'swap',
  title: 'change places with another channel',
  sentence: {
    schema: swapSchema,
    template: () => 'It was wired crosswise with {with}: each is what the other one read.',
  },
  defaults: { with: '' },
  mend: (settings) => ({ swappedWith: settings.with }),
};
