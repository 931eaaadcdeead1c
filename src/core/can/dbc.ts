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

/** Reads a CAN database in the DBC text format: messages with their signals (layout, scaling, range, unit, multiplexing, float type).
 *  @param file its name, for errors @throws `damaged` naming the line */
export function readDbc(text: string, file = 'database'): BusMessage[] {
  const cursor = new Cursor(words(text, file), file);
  const messages: BusMessage[] = [];
  while (!cursor.done) {
    if (cursor.take('BO_')) messages.push(message(cursor, messages));
    else if (cursor.take('SG_')) {
      if (messages.length === 0) throw cursor.fault('A message (BO_) before the first signal was expected');
      messages[messages.length - 1].signals.push(signal(cursor, messages[messages.length - 1]));
    } else if (cursor.take('SIG_VALTYPE_')) floatType(cursor, messages);
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

function message(cursor: Cursor, others: BusMessage[]): BusMessage {
  const id = cursor.whole('an identifier', 0, 0xffffffff);
  const name = cursor.name('the name of the message');
  cursor.expect(':');
  const length = cursor.whole('a length in bytes', 0, 64);
  const sender = cursor.name('the sender');
  const extended = id >= EXTENDED;
  const plain = extended ? id - EXTENDED : id;
  const same = others.find((m) => m.id === plain && m.extended === extended);
  if (same)
    throw cursor.fault(`Another identifier than ${plain}, which ${same.name} has, was expected for ${name}`);
  return { id: plain, extended, name, length, sender, signals: [] };
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
  };
  if (!fits(found, of.length))
    throw cursor.fault(`Signal ${name} within the ${of.length} bytes of ${of.name} was expected`);
  return found;
}

function floatType(cursor: Cursor, messages: BusMessage[]): void {
  const id = cursor.whole('an identifier', 0, 0xffffffff);
  const name = cursor.name('the name of a signal');
  cursor.take(':');
  const type = cursor.whole('a type', 0, 3);
  cursor.take(';');
  const plain = id >= EXTENDED ? id - EXTENDED : id;
  const found = messages
    .find((m) => m.id === plain && m.extended === id >= EXTENDED)
    ?.signals.find((s) => s.name === name);
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
