import { badInput, damaged } from '../errors';
import { BitReader, BitWriter } from './bits';
import {
  CALIBRATION_TABLE,
  TABLE_COUNT_BITS,
  TABLE_POINT_BITS,
  TEMPLATES,
  type TedsField,
  type TedsTemplate,
} from './templates';

/** The first 64 bits of every smart sensor's chip (IEEE 1451.4-2004, 5.1.1). */
export interface BasicTeds {
  /** Number of the maker in the standard's register; kept as a number. */
  maker: number;
  model: number;
  versionLetter: string;
  versionNumber: number;
  serial: number;
}

export interface Teds {
  basic: BasicTeds;
  template: { id: number; title: string } | null;
  /** Values of the template; null where the chip says “not given”. */
  values: Record<string, number | string | null>;
  /** Points of a calibration table, as shares of the electrical and the physical span. */
  table: { electrical: number; physical: number }[];
}

const DAY_MS = 86_400_000;
const EPOCH = Date.UTC(1998, 0, 1);
const LETTER_BITS = 5;

function decode(field: TedsField, bits: BitReader): number | string | null {
  if (field.code === 'letters') {
    let text = '';
    for (let k = 0; k < field.bits / LETTER_BITS; k++) text += letter(bits.take(LETTER_BITS, field.label));
    return text.trim() || null;
  }
  const raw = bits.take(field.bits, field.label);
  const missing = raw === 2 ** field.bits - 1;
  switch (field.code) {
    case 'whole':
      return raw;
    case 'steps':
      return missing ? null : Number((field.start + field.step * raw).toPrecision(12));
    case 'ratio':
      return missing ? null : field.start * (1 + 2 * field.tolerance) ** raw;
    case 'single': {
      const view = new DataView(new ArrayBuffer(4));
      view.setUint32(0, raw);
      const value = view.getFloat32(0);
      return Number.isFinite(value) ? value : null;
    }
    case 'date':
      return missing ? null : new Date(EPOCH + raw * DAY_MS).toISOString().slice(0, 10);
    case 'choice':
      return field.choices[raw] ?? null;
  }
}
const letter = (n: number) => (n >= 1 && n <= 26 ? String.fromCharCode(64 + n) : ' ');
const letterNumber = (sign: string) => (/^[A-Z]$/.test(sign) ? sign.charCodeAt(0) - 64 : 0);

function encode(field: TedsField, value: number | string | null, bits: BitWriter): void {
  const most = 2 ** field.bits - 1;
  const kept = (n: number) => Math.min(most - 1, Math.max(0, Math.round(n)));
  switch (field.code) {
    case 'letters':
      for (let k = 0; k < field.bits / LETTER_BITS; k++)
        bits.put(letterNumber(String(value ?? '')[k] ?? ''), LETTER_BITS);
      return;
    case 'whole':
      return bits.put(Math.min(most, Math.max(0, Math.round(Number(value ?? 0)))), field.bits);
    case 'steps':
      return bits.put(value === null ? most : kept((Number(value) - field.start) / field.step), field.bits);
    case 'ratio':
      return bits.put(
        value === null
          ? most
          : kept(Math.log(Number(value) / field.start) / Math.log(1 + 2 * field.tolerance)),
        field.bits,
      );
    case 'single': {
      const view = new DataView(new ArrayBuffer(4));
      view.setFloat32(0, value === null ? NaN : Number(value));
      return bits.put(view.getUint32(0), field.bits);
    }
    case 'date':
      return bits.put(value === null ? most : kept((Date.parse(String(value)) - EPOCH) / DAY_MS), field.bits);
    case 'choice': {
      const at = field.choices.indexOf(String(value));
      return bits.put(at < 0 ? most : at, field.bits);
    }
  }
}

/** Decodes a smart sensor's chip: the basic part and, where a standard template follows, its values.
 *  A selector of 2 bits follows the basic part: 0 announces a standard template (8 bits), 3 the end.
 *  @param bytes memory of the chip, checksums taken out @throws `damaged` naming the entry at which the data ends or makes no sense */
export function decodeTeds(bytes: Uint8Array): Teds {
  if (bytes.every((b) => b === 0xff) || bytes.every((b) => b === 0))
    throw damaged(
      'sensor chip',
      'Its memory is blank.',
      'Enter the sheet by hand; the chip was never written.',
    );
  const bits = new BitReader(bytes);
  const basic: BasicTeds = {
    maker: bits.take(14, 'maker'),
    model: bits.take(15, 'model'),
    versionLetter: letter(bits.take(5, 'version letter')).trim(),
    versionNumber: bits.take(6, 'version number'),
    serial: bits.take(24, 'serial number'),
  };
  const teds: Teds = { basic, template: null, values: {}, table: [] };
  while (bits.left >= 10 && bits.take(2, 'selector') === 0) {
    const id = bits.take(8, 'template');
    if (id === CALIBRATION_TABLE && teds.template) readTable(bits, teds);
    else {
      const template = TEMPLATES.find((t) => t.id === id);
      if (!template) {
        if (teds.template) break;
        throw damaged(
          'sensor chip',
          `It uses template ${id}, which is not read here.`,
          `Enter the sheet by hand; read are ${TEMPLATES.map((t) => t.id).join(', ')}.`,
        );
      }
      if (teds.template) break;
      teds.template = { id, title: template.title };
      for (const field of template.fields) teds.values[field.key] = decode(field, bits);
    }
  }
  return teds;
}

function readTable(bits: BitReader, teds: Teds): void {
  const count = bits.take(TABLE_COUNT_BITS, 'points of the calibration table');
  const share = 2 ** TABLE_POINT_BITS - 1;
  for (let k = 0; k < count; k++)
    teds.table.push({
      electrical: bits.take(TABLE_POINT_BITS, `table point ${k + 1}`) / share,
      physical: bits.take(TABLE_POINT_BITS, `table point ${k + 1}`) / share,
    });
  if (teds.table.some((p, k) => k > 0 && p.electrical <= teds.table[k - 1].electrical))
    throw damaged(
      'sensor chip',
      'The points of its calibration table do not rise.',
      'Enter the sheet by hand.',
    );
}

/** The memory of a chip that decodeTeds() reads back. @throws `bad_input` for an unknown template */
export function encodeTeds(teds: Teds): Uint8Array {
  const bits = new BitWriter();
  const { basic } = teds;
  bits.put(basic.maker, 14);
  bits.put(basic.model, 15);
  bits.put(letterNumber(basic.versionLetter), 5);
  bits.put(basic.versionNumber, 6);
  bits.put(basic.serial, 24);
  if (teds.template) {
    const template: TedsTemplate | undefined = TEMPLATES.find((t) => t.id === teds.template!.id);
    if (!template)
      throw badInput('template', teds.template.id, `Choose one of ${TEMPLATES.map((t) => t.id).join(', ')}.`);
    bits.put(0, 2);
    bits.put(template.id, 8);
    for (const field of template.fields) encode(field, teds.values[field.key] ?? null, bits);
    if (teds.table.length) {
      bits.put(0, 2);
      bits.put(CALIBRATION_TABLE, 8);
      bits.put(teds.table.length, TABLE_COUNT_BITS);
      for (const { electrical, physical } of teds.table) {
        bits.put(Math.round(electrical * (2 ** TABLE_POINT_BITS - 1)), TABLE_POINT_BITS);
        bits.put(Math.round(physical * (2 ** TABLE_POINT_BITS - 1)), TABLE_POINT_BITS);
      }
    }
  }
  bits.put(3, 2);
  return bits.bytes();
}

/** Takes the checksum out of each page of 32 bytes: the sum of a page is 0 modulo 256. @throws `damaged` naming the page */
export function joinPages(memory: Uint8Array): Uint8Array {
  const out: number[] = [];
  for (let at = 0; at < memory.length; at += 32) {
    const page = memory.subarray(at, at + 32);
    if (page.reduce((sum, b) => (sum + b) & 0xff, 0) !== 0)
      throw damaged(
        'sensor chip',
        `The checksum of page ${at / 32 + 1} is wrong.`,
        'Look at the connector and read it again.',
      );
    out.push(...page.subarray(1));
  }
  return Uint8Array.from(out);
}
