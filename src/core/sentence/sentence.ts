import type { z } from 'zod';
import { dayText } from '../readings';

/** How a value is edited where it stands. */
export type Editor =
  | 'number'
  | 'choice'
  | 'several'
  | 'text'
  | 'secret'
  | 'channel'
  | 'channels'
  | 'range'
  | 'names'
  | 'formula'
  | 'day';

/** What a value of a sentence is, beside its schema: enough to show, edit, explain and tabulate it. */
export interface FieldInfo {
  label: string;
  editor: Editor;
  /** Fixed unit of a number. */
  unit?: string;
  /** Key of the field that holds the unit, or of a channel field whose channel's unit counts. */
  unitFrom?: string;
  /** Choices of an editor of kind “choice”; a name asks the page for them (such as the rates of a module), `free` takes others, too. */
  options?: readonly string[] | readonly number[] | { ask: string; free?: boolean };
  /** The words for no value, for a field that may be empty. */
  none?: string;
  /** Whether an editor with choices offers none of them, too. */
  empties?: true;
  /** Of several: more than this many are counted instead of named, by this word. */
  counted?: { beyond: number; as: string };
  /** Why it matters and what goes wrong when it is wrong. */
  help?: string;
}

const FIELD = 'farrierField';

/** Gives a schema its label, editor, unit and help. Call it last: a schema changed afterwards loses them. */
export const field = <T extends z.ZodType>(schema: T, info: FieldInfo): T =>
  schema.meta({ [FIELD]: info }) as T;

export type SentenceValue = Record<string, unknown>;

/** A setting schema and the sentence that says it; `{key}` stands for the value of a field. */
export interface Sentence<S extends z.ZodObject = z.ZodObject> {
  schema: S;
  template: (value: z.infer<S>) => string;
}

/** Names that only the job knows. */
export interface Names {
  channel(id: string): { name: string; unit: string } | undefined;
}
export const NO_NAMES: Names = { channel: () => undefined };

export interface SentenceField {
  key: string;
  info: FieldInfo;
}
export type SentencePart = { text: string } | { field: SentenceField; text: string };

/** The fields of a schema in their order; keys without field() are internal and left out. */
export function sentenceFields(schema: z.ZodObject): SentenceField[] {
  return Object.entries(schema.shape).flatMap(([key, part]) => {
    const info = (part as z.ZodType).meta()?.[FIELD] as FieldInfo | undefined;
    return info ? [{ key, info }] : [];
  });
}

/** The sentence as words and values, in reading order. @throws Error when the template names an unknown field */
export function sentenceParts<S extends z.ZodObject>(
  sentence: Sentence<S>,
  value: z.infer<S>,
  names: Names = NO_NAMES,
): SentencePart[] {
  const fields = new Map(sentenceFields(sentence.schema).map((f) => [f.key, f]));
  return sentence
    .template(value)
    .split(/(\{\w+\})/)
    .filter((part) => part !== '')
    .map((part) => {
      if (!/^\{\w+\}$/.test(part)) return { text: part };
      const found = fields.get(part.slice(1, -1));
      if (!found) throw new Error(`sentence names ${part}, which is no field of its schema`);
      return { field: found, text: fieldText(found, value, names) };
    });
}

/** The sentence as plain text, for reports and the logbook. */
export const sentenceText = <S extends z.ZodObject>(
  sentence: Sentence<S>,
  value: z.infer<S>,
  names: Names = NO_NAMES,
) =>
  sentenceParts(sentence, value, names)
    .map((part) => part.text)
    .join('');

/** The unit that goes with a field's number, by the other values; '' where there is none. */
export function fieldUnit(info: FieldInfo, value: SentenceValue, names: Names): string {
  if (info.unit) return info.unit;
  if (!info.unitFrom) return '';
  const held = value[info.unitFrom];
  if (typeof held !== 'string') return '';
  return names.channel(held)?.unit ?? (info.unitFrom.toLowerCase().endsWith('unit') ? held : '');
}

/** A value as it stands in the sentence, with its unit. */
export function fieldText({ key, info }: SentenceField, value: SentenceValue, names: Names): string {
  const held = value[key];
  if (held === null || held === undefined || held === '') return info.none ?? '…';
  const unit = fieldUnit(info, value, names);
  const withUnit = (text: string) => (unit && unit !== 'yes/no' && unit !== '1' ? `${text} ${unit}` : text);
  switch (info.editor) {
    case 'range': {
      const { min, max } = held as { min: number; max: number };
      return withUnit(min === -max ? `±${numberText(max)}` : `${numberText(min)} to ${numberText(max)}`);
    }
    case 'day':
      return dayText(held as string);
    case 'secret':
      return '••••';
    case 'channel':
      return names.channel(held as string)?.name ?? 'a channel that was removed';
    case 'channels': {
      const ids = held as string[];
      if (info.counted && ids.length)
        return listed(
          ids.map((id) => names.channel(id)?.name ?? id),
          info,
        );
      if (ids.length === 1) return names.channel(ids[0])?.name ?? '1 channel';
      return ids.length === 0 ? (info.none ?? 'all channels') : `${ids.length} channels`;
    }
    case 'several':
      if (info.counted) return listed(held as string[], info);
    // falls through
    case 'names':
      return (held as string[]).join(', ') || (info.none ?? 'nothing');
    case 'text':
      if (typeof held === 'string' && held.trim() === '') return held === '\t' ? 'tab' : 'blank';
    // falls through
    default:
      return typeof held === 'number' ? withUnit(grouped(numberText(held))) : String(held);
  }
}

/** Long whole numbers in groups of three: 2 000 000. */
const grouped = (text: string) =>
  /^−?\d{6,}$/.test(text) ? text.replace(/\B(?=(\d{3})+$)/g, '\u2009') : text;

/** Names joined as they are spoken, or their number where there are many. */
function listed(names: readonly string[], { counted, none }: FieldInfo): string {
  if (names.length === 0) return none ?? 'nothing';
  if (names.length > counted!.beyond) return `${names.length} ${counted!.as}`;
  return names.length === 1 ? names[0] : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
}

/** What a place of an input is called on the page: the label of its field, or its key as words. @param path as an issue of the schema names it */
export function placeName(schema: z.ZodType, path: readonly PropertyKey[]): string {
  let at: unknown = schema;
  let name = '';
  let row = '';
  for (const step of path) {
    const { def, shape } = inner(at);
    if (typeof step === 'number') {
      row = ` of no. ${step + 1}`;
      at = def?.element;
      continue;
    }
    const part = shape?.[String(step)];
    name = (part?.meta()?.[FIELD] as FieldInfo | undefined)?.label ?? words(String(step));
    at = part;
  }
  // A whole row is meant where the path ends with one.
  return typeof path.at(-1) === 'number' ? `${name}${row.replace(' of', '')}`.trim() : name + row;
}
const words = (key: string) => key.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`);
interface Inside {
  def?: { innerType?: unknown; out?: unknown; element?: unknown };
  shape?: Record<string, z.ZodType>;
}
/** A schema without what stands around it: optional, with a default, piped. */
function inner(schema: unknown): Inside {
  let at = schema as Inside | undefined;
  while (at?.def && (at.def.innerType ?? at.def.out)) at = (at.def.innerType ?? at.def.out) as Inside;
  return at ?? {};
}

/** A number as it was typed: no rounding, a real minus sign. */
export const numberText = (value: number) => String(value).replace('-', '−');
