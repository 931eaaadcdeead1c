import { damaged } from '../errors';
import { Cursor, words } from '../text/cursor';
import { fits, type BusMessage, type BusSignal } from './signal';

/** Sections whose content is not needed here; each ends with its semicolon. */
const SKIPPED = new Set([
  'VERSION',
  'NS_',
  'BS_',
  'BU_',
  'VAL_TABLE_',
  'BO_TX_BU_',
  'EV_',
  'BA_',
  'BA_DEF_',
  'BA_DEF_DEF_',
  'CM_',
  'VAL_',
  'SIG_GROUP_',
  'SG_MUL_VAL_',
]);
const EXTENDED = 0x80000000;
/** More than any bus can carry. */
const MOST_SIGNALS = 100_000;
/** The attribute of a signal that holds its value before anybody sent one, as a raw number. */
const START_VALUE = 'GenSigStartValue';

/** Reads a CAN database in the DBC text format: messages with their signals (layout, scaling, range, unit, multiplexing, float type).
 *  @param file its name, for errors @throws `damaged` naming the line */
export function readDbc(text: string, file = 'database'): BusMessage[] {
  const cursor = new Cursor(words(text, file), file);
  const messages: BusMessage[] = [];
  const byId = new Map<number, BusMessage>();
  let signals = 0;
  while (!cursor.done) {
    if (cursor.take('BO_')) messages.push(message(cursor, byId));
    else if (cursor.take('SG_')) {
      const of = messages[messages.length - 1];
      if (!of) throw cursor.fault('A message (BO_) before the first signal was expected');
      if (++signals > MOST_SIGNALS) throw cursor.fault(`At most ${MOST_SIGNALS} signals were expected`);
      of.signals.push(signal(cursor, of));
    } else if (cursor.take('SIG_VALTYPE_')) floatType(cursor, byId);
    else if (cursor.peek()?.text === 'BA_' && cursor.peek(1)?.text === START_VALUE) startValue(cursor, byId);
    else skip(cursor);
  }
  if (messages.length === 0)
    throw damaged(file, 'No message (BO_) is in it.', 'Choose a CAN database in the DBC text format.');
  for (const m of messages) {
    const names = new Set(m.signals.map((s) => s.name));
    if (names.size < m.signals.length)
      throw damaged(file, `Two signals of ${m.name} have the same name.`, 'Rename one of them.');
  }
  return messages;
}

function message(cursor: Cursor, others: Map<number, BusMessage>): BusMessage {
  const id = cursor.whole('an identifier', 0, 0xffffffff);
  const name = cursor.name('the name of the message');
  cursor.expect(':');
  const length = cursor.whole('a length in bytes', 0, 64);
  const sender = cursor.name('the sender');
  const extended = id >= EXTENDED;
  const plain = extended ? id - EXTENDED : id;
  const same = others.get(id);
  if (same)
    throw cursor.fault(`Another identifier than ${plain}, which ${same.name} has, was expected for ${name}`);
  const found = { id: plain, extended, name, length, sender, signals: [] };
  others.set(id, found);
  return found;
}

/** The value of a signal before anybody sent one. */
function startValue(cursor: Cursor, byId: Map<number, BusMessage>): void {
  cursor.at += 2;
  if (!cursor.take('SG_')) return skip(cursor);
  const id = cursor.whole('an identifier', 0, 0xffffffff);
  const name = cursor.name('the name of a signal');
  const value = cursor.number('a value');
  cursor.take(';');
  const found = byId.get(id)?.signals.find((s) => s.name === name);
  if (found) found.initial = value;
}

function signal(cursor: Cursor, of: BusMessage): BusSignal {
  const name = cursor.name('the name of the signal');
  let multiplexed: number | null = null;
  let multiplexor = false;
  const mark = cursor.peek();
  if (mark?.kind === 'word') {
    const match = /^(M)$|^m(\d+)(M?)$/.exec(mark.text);
    if (!match) throw cursor.fault('“M”, “m” with a number, or “:” was expected');
    multiplexor = match[1] === 'M' || match[3] === 'M';
    multiplexed = match[2] === undefined ? null : Number(match[2]);
    cursor.next();
  }
  cursor.expect(':');
  const start = cursor.whole('a start bit', 0, 511);
  cursor.expect('|');
  const length = cursor.whole('a length in bits', 1, 64);
  cursor.expect('@');
  // Byte order and sign stand together, as in “1+”.
  const order = cursor.next().text + (cursor.peek()?.kind === 'sign' ? cursor.next().text : '');
  if (!/^[01][+-]$/.test(order)) {
    cursor.at--;
    throw cursor.fault('A byte order and sign such as “1+” were expected');
  }
  cursor.expect('(');
  const factor = cursor.number('a factor');
  cursor.expect(',');
  const offset = cursor.number('an offset');
  cursor.expect(')');
  cursor.expect('[');
  const min = cursor.number('a minimum');
  cursor.expect('|');
  const max = cursor.number('a maximum');
  cursor.expect(']');
  const unit = cursor.string('a unit');
  // Receivers: names with commas between, up to the next section.
  while (
    cursor.peek()?.kind === 'word' &&
    (cursor.peek()!.text === 'Vector__XXX' || !/_$/.test(cursor.peek()!.text))
  ) {
    cursor.next();
    cursor.take(',');
  }
  const found: BusSignal = {
    name,
    start,
    length,
    bigEndian: order[0] === '0',
    signed: order[1] === '-',
    float: false,
    factor: factor || 1,
    offset,
    min,
    max,
    unit,
    multiplexed,
    multiplexor,
    initial: null,
  };
  if (!fits(found, of.length))
    throw cursor.fault(`Signal ${name} within the ${of.length} bytes of ${of.name} was expected`);
  return found;
}

function floatType(cursor: Cursor, byId: Map<number, BusMessage>): void {
  const id = cursor.whole('an identifier', 0, 0xffffffff);
  const name = cursor.name('the name of a signal');
  cursor.take(':');
  const type = cursor.whole('a type', 0, 3);
  cursor.take(';');
  const found = byId.get(id)?.signals.find((s) => s.name === name);
  if (!found) throw cursor.fault(`A signal “${name}” of message ${id} was expected to be known`);
  if (type > 0 && found.length !== (type === 1 ? 32 : 64))
    throw cursor.fault(`${type === 1 ? 32 : 64} bits for the float signal ${name} were expected`);
  found.float = type > 0;
}

/** Goes on to the next section that is read. */
function skip(cursor: Cursor): void {
  const first = cursor.next();
  if (first.kind !== 'word' || !SKIPPED.has(first.text)) return;
  for (;;) {
    const word = cursor.peek();
    if (
      !word ||
      (word.kind === 'word' &&
        (word.text === 'BO_' || word.text === 'SIG_VALTYPE_') &&
        first.text !== 'NS_' &&
        first.text !== 'CM_' &&
        first.text !== 'BA_' &&
        first.text !== 'BA_DEF_')
    )
      return;
    if (first.text === 'NS_' && word.text === 'BS_') return;
    cursor.next();
    if (word.kind === 'sign' && word.text === ';') return;
  }
}
