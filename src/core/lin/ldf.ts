import { damaged } from '../errors';
import { Cursor, words } from '../text/cursor';
import { fits, type BusMessage, type BusSignal } from '../can/signal';

/** Physical meaning of a range of raw values (LIN 2.1, 9.2.6.1). */
interface Encoding {
  factor: number;
  offset: number;
  min: number;
  max: number;
  unit: string;
}

/** Reads a LIN description file (LDF, LIN 2.1 section 9): frames with their signals, scaled by their encoding.
 *  @param file its name, for errors @throws `damaged` naming the line */
export function readLdf(text: string, file = 'description'): BusMessage[] {
  const cursor = new Cursor(words(text, file), file);
  const lengths = new Map<string, { bits: number; initial: number | null }>();
  const encodings = new Map<string, Encoding>();
  const used = new Map<string, string>();
  const frames: {
    name: string;
    id: number;
    sender: string;
    length: number;
    signals: { name: string; start: number }[];
  }[] = [];
  if (cursor.peek()?.text !== 'LIN_description_file')
    throw damaged(
      file,
      'It does not begin with “LIN_description_file”.',
      'Choose a LIN description file (LDF).',
    );
  while (!cursor.done) {
    const section = cursor.next().text;
    if (!cursor.take('{')) {
      while (!cursor.done && !cursor.take(';')) cursor.next();
      continue;
    }
    if (section === 'Signals') readSignals(cursor, lengths);
    else if (section === 'Frames') readFrames(cursor, frames);
    else if (section === 'Signal_encoding_types') readEncodings(cursor, encodings);
    else if (section === 'Signal_representation') readRepresentation(cursor, used);
    else
      for (let depth = 1; depth > 0;)
        depth += cursor.take('{') ? 1 : cursor.take('}') ? -1 : (cursor.next(), 0);
  }
  if (frames.length === 0) throw damaged(file, 'No frame is in it.', 'It needs a section “Frames”.');
  return frames.map((frame) => ({
    id: frame.id,
    extended: false,
    name: frame.name,
    length: frame.length,
    sender: frame.sender,
    signals: frame.signals.map(({ name, start }): BusSignal => {
      const known = lengths.get(name);
      if (known === undefined)
        throw damaged(
          file,
          `Frame ${frame.name} carries “${name}”, which is no signal of the file.`,
          'Add it to “Signals”.',
        );
      const { bits: length, initial } = known;
      const encoding = encodings.get(used.get(name) ?? '') ?? {
        factor: 1,
        offset: 0,
        min: 0,
        max: 2 ** length - 1,
        unit: '',
      };
      const signal = {
        name,
        start,
        length,
        bigEndian: false,
        signed: false,
        float: false,
        ...encoding,
        multiplexed: null,
        multiplexor: false,
        initial,
      };
      if (!fits(signal, frame.length))
        throw damaged(
          file,
          `“${name}” does not fit into the ${frame.length} bytes of ${frame.name}.`,
          'Correct its place in the frame.',
        );
      return signal;
    }),
  }));
}

function readSignals(cursor: Cursor, lengths: Map<string, { bits: number; initial: number | null }>): void {
  while (!cursor.take('}')) {
    const name = cursor.name('the name of a signal');
    cursor.expect(':');
    const bits = cursor.whole('a length in bits', 1, 64);
    const said = cursor.take(',') && cursor.peek()?.kind === 'number' ? cursor.number('a first value') : null;
    lengths.set(name, { bits, initial: said });
    while (!cursor.take(';')) cursor.next();
  }
}

function readFrames(
  cursor: Cursor,
  frames: {
    name: string;
    id: number;
    sender: string;
    length: number;
    signals: { name: string; start: number }[];
  }[],
): void {
  while (!cursor.take('}')) {
    const name = cursor.name('the name of a frame');
    cursor.expect(':');
    const id = cursor.whole('an identifier', 0, 63);
    cursor.expect(',');
    const sender = cursor.name('its publisher');
    const length = cursor.take(',') ? cursor.whole('a length in bytes', 1, 8) : id < 32 ? 2 : id < 48 ? 4 : 8;
    cursor.expect('{');
    const signals: { name: string; start: number }[] = [];
    while (!cursor.take('}')) {
      const signal = cursor.name('the name of a signal');
      cursor.expect(',');
      signals.push({ name: signal, start: cursor.whole('a start bit', 0, 63) });
      cursor.expect(';');
    }
    frames.push({ name, id, sender, length, signals });
  }
}

function readEncodings(cursor: Cursor, encodings: Map<string, Encoding>): void {
  while (!cursor.take('}')) {
    const name = cursor.name('the name of an encoding');
    cursor.expect('{');
    while (!cursor.take('}')) {
      if (cursor.take('physical_value')) {
        cursor.expect(',');
        const low = cursor.number('a lowest raw value');
        cursor.expect(',');
        const high = cursor.number('a highest raw value');
        cursor.expect(',');
        const factor = cursor.number('a factor');
        cursor.expect(',');
        const offset = cursor.number('an offset');
        const unit = cursor.take(',') ? cursor.string('a unit') : '';
        encodings.set(name, {
          factor,
          offset,
          min: low * factor + offset,
          max: high * factor + offset,
          unit,
        });
      }
      while (!cursor.take(';')) cursor.next();
    }
  }
}

function readRepresentation(cursor: Cursor, used: Map<string, string>): void {
  while (!cursor.take('}')) {
    const encoding = cursor.name('the name of an encoding');
    cursor.expect(':');
    do used.set(cursor.name('the name of a signal'), encoding);
    while (cursor.take(','));
    cursor.expect(';');
  }
}
