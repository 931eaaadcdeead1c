import { FarrierError } from '$core/errors';
import { field, numberText, type Sentence } from '$core/sentence/sentence';
import { z } from 'zod';

const KINDS = ['text', 'number', 'choice', 'yes/no', 'serial', 'channel'] as const;
const end = (label: string) =>
  field(z.number('Give a number.').min(-1e12).max(1e12).nullable(), {
    label,
    editor: 'number',
    unitFrom: 'factUnit',
    none: 'anything',
  });

/** Something that is asked before a take and kept in it. */
export const Fact = z.strictObject({
  name: field(z.string().trim().min(1, 'Give it a name.').max(40, 'At most 40 characters.'), {
    label: 'Fact',
    editor: 'text',
  }),
  kind: field(z.enum(KINDS), {
    label: 'Kind',
    editor: 'choice',
    options: KINDS,
    help: '“serial” offers the serial numbers of the sensors’ drawer, “channel” is read from one at arming.',
  }),
  factUnit: field(z.string().trim().max(20), { label: 'Unit', editor: 'text', none: 'no unit' }),
  min: end('From'),
  max: end('To'),
  options: field(z.array(z.string().trim().min(1).max(80)).max(40), {
    label: 'Choices',
    editor: 'names',
    none: 'no choices yet',
    help: 'Separate them by commas.',
  }),
  channel: field(z.string().nullable(), { label: 'Read from', editor: 'channel', none: 'a channel' }),
  required: field(z.enum(['has to be given', 'may be left out']), {
    label: 'Required',
    editor: 'choice',
    options: ['has to be given', 'may be left out'],
  }),
  offer: field(z.enum(['last value offered', 'asked afresh']), {
    label: 'Offered',
    editor: 'choice',
    options: ['last value offered', 'asked afresh'],
  }),
});
export type Fact = z.infer<typeof Fact>;

export const factSentence: Sentence<typeof Fact> = {
  schema: Fact,
  template: (f) => {
    const range = f.kind === 'number' ? ' in {factUnit}, from {min} to {max}' : '';
    const choices = f.kind === 'choice' ? ' of {options}' : '';
    if (f.kind === 'channel') return '{name}: {kind}, from {channel}';
    return `{name}: {kind}${range}${choices}, {required}, {offer}`;
  },
};

export const newFact = (name: string): Fact => ({
  name,
  kind: 'text',
  factUnit: '',
  min: null,
  max: null,
  options: [],
  channel: null,
  required: 'has to be given',
  offer: 'last value offered',
});

/** Facts as they were written once: a name alone is a text that has to be given. */
export const readFact = (fact: unknown): unknown => (typeof fact === 'string' ? newFact(fact) : fact);

/** What was answered, as it is kept: trimmed, numbers with their unit.
 *  @returns '' where nothing was given that need not be @throws `bad_input` naming the fact and the reason */
export function checkFact(fact: Fact, answer: string | undefined): string {
  const given = (answer ?? '').trim();
  const refuse = (what: string, next: string) =>
    new FarrierError('bad_input', { what, where: fact.name, next });
  if (!given) {
    if (fact.required === 'may be left out') return '';
    throw refuse(
      `“${fact.name}” is not given.`,
      'The plan asks for it, so that the data keep their context.',
    );
  }
  if (given.length > 200) throw refuse(`“${fact.name}” is too long.`, 'At most 200 characters.');
  switch (fact.kind) {
    case 'number': {
      const bare =
        fact.factUnit && given.endsWith(fact.factUnit) ? given.slice(0, -fact.factUnit.length) : given;
      const plain = bare.trim().replace('−', '-').replace(',', '.');
      const number = plain === '' ? NaN : Number(plain);
      if (!Number.isFinite(number))
        throw refuse(
          `“${given}” is no number.`,
          `Give a value${fact.factUnit ? ` in ${fact.factUnit}` : ''}.`,
        );
      const { min, max } = fact;
      if ((min !== null && number < min) || (max !== null && number > max))
        throw refuse(
          `${numberText(number)} is outside ${min === null ? '…' : numberText(min)} to ${max === null ? '…' : numberText(max)}${fact.factUnit ? ` ${fact.factUnit}` : ''}.`,
          'Give a value in this range.',
        );
      return `${numberText(number)}${fact.factUnit ? ` ${fact.factUnit}` : ''}`;
    }
    case 'choice':
      if (!fact.options.includes(given))
        throw refuse(`“${given}” is none of the choices.`, `Choose one of ${fact.options.join(', ')}.`);
      return given;
    case 'yes/no':
      if (given !== 'yes' && given !== 'no')
        throw refuse(`“${given}” is neither yes nor no.`, 'Choose one of the two.');
      return given;
    default:
      return given;
  }
}
