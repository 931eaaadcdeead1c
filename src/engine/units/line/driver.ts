import { existsSync } from 'node:fs';
import { connect, type Socket } from 'node:net';
import { SerialPort } from 'serialport';
import { badInput } from '$core/errors';
import { LONGEST_LINE, numberOf, splitLine, type Split } from '$core/lines/split';
import { LINE_ENDS } from '$contract/units/lines';
import type { KnownUnit } from '$contract/engine';
import { described, type Clock, type OpenUnit, type UnitDriver } from '../driver';
import { Link } from '../link';
import { HELD_RATES, Hearing, MessageValues, heldInputs } from '../message-values';

/** How often a serial port's path is looked at, ms. */
const PATH_LOOK_MS = 500;

interface LineSettings extends Split {
  lineEnd: keyof typeof LINE_ENDS;
}
interface Field {
  id: string;
  name: string;
  field: string;
  timeout: number;
}

/** Collects bytes into lines; what is longer than a line of values can be is thrown away up to its end, and said. */
export class LineCutter {
  private rest = '';
  private tooLong = false;

  constructor(
    private readonly end: string,
    private readonly line: (text: string) => void,
    private readonly lost: (length: number) => void,
  ) {}

  push(text: string): void {
    const parts = (this.rest + text).split(this.end);
    this.rest = parts.pop()!;
    for (const part of parts) {
      if (!this.tooLong) this.line(part);
      this.tooLong = false;
    }
    if (this.rest.length <= LONGEST_LINE) return;
    if (!this.tooLong) this.lost(this.rest.length);
    this.tooLong = true;
    this.rest = '';
  }
}

/** Opens whatever carries the lines. @returns how to write to it and how to close it */
type Carrier = (on: { up(): void; down(why: string): void; text(data: string): void }) => {
  write(text: string): void;
  close(): void;
};

function openLines(unit: KnownUnit, clock: Clock, where: string, carrier: Carrier): OpenUnit {
  const settings = unit.config.settings as unknown as LineSettings;
  const fields = unit.config.sources as unknown as Field[];
  const values = new MessageValues();
  const hearing = new Hearing();
  let carried: ReturnType<Carrier> | null = null;

  const heard = (text: string) => {
    const atNs = clock();
    const timeMs = Number(atNs / 1_000_000n);
    if (text.trim() === '') return;
    const parts = splitLine(settings, text);
    const missing: string[] = [];
    for (const { id, name, field } of fields) {
      const value = numberOf(parts?.get(field) ?? '');
      if (value === null) missing.push(name);
      else values.arrive(`L/${id}`, value, atNs);
    }
    const ok = parts !== null && missing.length === 0;
    const says = !parts
      ? `not taken apart ${settings.how}`
      : missing.length
        ? `no number for ${missing.join(', ')}`
        : fields.length
          ? ''
          : `${parts.size} fields`;
    hearing.add({ timeMs, text, says, ok });
  };
  const cutter = () =>
    new LineCutter(LINE_ENDS[settings.lineEnd] ?? '\n', heard, (length) =>
      hearing.add({
        timeMs: Number(clock() / 1_000_000n),
        text: '…',
        says: `a line of more than ${length} characters was thrown away`,
        ok: false,
      }),
    );
  const link = new Link(where, () => {
    const cut = cutter();
    carried = carrier({
      up: () => link.up(),
      down: (why) => {
        carried = null;
        link.down(why);
      },
      text: (data) => cut.push(data),
    });
  });

  return {
    describe: () =>
      described(unit, {
        modules: [
          {
            id: 'L',
            title: 'fields of a line',
            terminals: fields.map((f) => ({ id: `L/${f.id}`, kind: 'value' as const, label: f.name })),
            ratesHz: HELD_RATES,
            bandwidthShare: 0,
          },
        ],
        abilities: ['monitor', 'send', 'reset'],
        counts: [
          { what: 'lines', count: hearing.good },
          { what: 'lines not understood', count: hearing.bad },
        ],
      }),
    ...heldInputs(link, values, 'Nothing has arrived for it yet: look at the lines below.'),
    setOutput: () => {
      throw badInput('output', where, 'A line has no outputs.');
    },
    heard: () => hearing.last,
    send: (text) => {
      link.check();
      carried?.write(text + (LINE_ENDS[settings.lineEnd] ?? '\n'));
    },
    reset: () => carried?.close(),
    close() {
      link.close();
      carried?.close();
    },
  };
}

/** Lines on a serial port. */
export const serialLine: UnitDriver = {
  kind: 'serial line',
  open(unit, clock) {
    const { port, baud, frame } = unit.config.settings as { port: string; baud: number; frame: string };
    const [data, parity, stop] = [...frame];
    return openLines(unit, clock, port || 'serial line', (on) => {
      if (!port) throw badInput('port', 'not chosen', 'Choose the port on the unit’s page.');
      const serial = new SerialPort({
        path: port,
        baudRate: baud,
        dataBits: Number(data) as 7 | 8,
        parity: parity === 'E' ? 'even' : parity === 'O' ? 'odd' : 'none',
        stopBits: Number(stop) as 1 | 2,
        autoOpen: false,
      });
      let why = 'The port was closed.';
      let ended = false;
      const down = () => {
        if (ended) return;
        ended = true;
        clearInterval(watch);
        on.down(why);
      };
      // A line that hangs up can read as "nothing yet" for ever; that its path is gone (where ports have paths) says it surely.
      const watch = setInterval(() => {
        if (!serial.isOpen || !port.startsWith('/') || existsSync(port)) return;
        why = 'It was unplugged.';
        serial.close(() => undefined);
      }, PATH_LOOK_MS);
      serial.on('data', (bytes: Buffer) => on.text(bytes.toString('latin1')));
      serial.on('error', (error) => (why = error.message));
      serial.on('close', (error?: Error | null) => {
        if (error) why = 'It was unplugged.';
        down();
      });
      serial.open((error) => {
        if (!error) return on.up();
        why = error.message;
        down();
      });
      return {
        write: (text) => void serial.write(text),
        close: () => (serial.isOpen ? serial.close() : undefined),
      };
    });
  },
};

/** Lines on a TCP connection. */
export const networkLine: UnitDriver = {
  kind: 'network line',
  open(unit, clock) {
    const { host, tcpPort } = unit.config.settings as { host: string; tcpPort: number };
    return openLines(unit, clock, host ? `${host}:${tcpPort}` : 'network line', (on) => {
      if (!host) throw badInput('host', 'not given', 'Give the host on the unit’s page.');
      const socket: Socket = connect({ host, port: tcpPort, keepAlive: true });
      let why = 'The other side closed the connection.';
      socket.setTimeout(
        5000,
        () => socket.connecting && socket.destroy(new Error('It did not answer within 5 s.')),
      );
      socket.setEncoding('utf8');
      socket.on('connect', () => on.up());
      socket.on('data', (text: string) => on.text(text));
      socket.on('error', (error) => (why = error.message));
      socket.on('close', () => on.down(why));
      return { write: (text) => void socket.write(text), close: () => void socket.destroy() };
    });
  },
};

/** Serial ports of this computer. */
export const serialPorts = async () =>
  (await SerialPort.list().catch(() => [])).map((p) => ({
    path: p.path,
    says: [p.manufacturer, p.serialNumber && `serial ${p.serialNumber}`].filter(Boolean).join(', '),
  }));
