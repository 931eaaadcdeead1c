import { damaged } from '../errors';

/** One frame on a bus. */
export interface BusFrame {
  timeNs: bigint;
  bus: string;
  id: number;
  extended: boolean;
  data: Uint8Array;
}

const LINE =
  /^\((\d{1,12})\.(\d{6,9})\)\s+(\S+)\s+([0-9A-Fa-f]{3}|[0-9A-Fa-f]{8})#(#[0-9A-Fa-f])?((?:[0-9A-Fa-f]{2})*)(?:\s+[RT])?$/;

/** One line of a plain candump log, such as “(1436509052.249713) can0 044#2A366C2BBA”. @returns null for an empty line
 *  @throws `damaged` naming the line */
export function readCandumpLine(text: string, line = 1): BusFrame | null {
  const plain = text.trim();
  if (plain === '' || plain.startsWith('#')) return null;
  const match = LINE.exec(plain);
  if (!match || match[6].length > 128)
    throw damaged(
      `line ${line}`,
      `“${plain.slice(0, 60)}” is no frame.`,
      'A line looks like “(1436509052.249713) can0 044#2A366C2BBA”.',
    );
  const [, seconds, fraction, bus, id, , hex] = match;
  return {
    timeNs: BigInt(seconds) * 1_000_000_000n + BigInt(fraction.padEnd(9, '0')),
    bus,
    id: parseInt(id, 16),
    extended: id.length === 8,
    data: Uint8Array.from({ length: hex.length / 2 }, (_, k) => parseInt(hex.slice(2 * k, 2 * k + 2), 16)),
  };
}

/** All frames of a log. @throws `damaged` naming the line */
export const readCandump = (text: string): BusFrame[] =>
  text.split('\n').flatMap((line, k) => readCandumpLine(line, k + 1) ?? []);

/** A frame as a line of a candump log. */
export function candumpLine({ timeNs, bus, id, extended, data }: BusFrame): string {
  const hex = (value: number, digits: number) => value.toString(16).toUpperCase().padStart(digits, '0');
  const micros = String((timeNs % 1_000_000_000n) / 1000n).padStart(6, '0');
  return `(${timeNs / 1_000_000_000n}.${micros}) ${bus} ${hex(id, extended ? 8 : 3)}#${data.length > 8 ? '#0' : ''}${[...data].map((b) => hex(b, 2)).join('')}`;
}
