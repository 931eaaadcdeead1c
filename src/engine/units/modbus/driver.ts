import ModbusRTU from 'modbus-serial';
import { FarrierError, asFarrierError, badInput } from '$core/errors';
import {
  decodeRegisters,
  encodeRegisters,
  registersOf,
  type RegisterType,
  type WordOrder,
} from '$core/registers/registers';
import type { KnownUnit } from '$contract/engine';
import type { REGISTER_TABLES } from '$contract/units/network';
import { described, type Clock, type OpenUnit, type UnitDriver } from '../driver';
import { Link } from '../link';
import { HELD_RATES, Hearing, MessageValues, heldInputs } from '../message-values';

interface Row {
  id: string;
  name: string;
  table: (typeof REGISTER_TABLES)[number];
  register: number;
  type: RegisterType;
  order: WordOrder;
  slope: number;
  offset: number;
  unit: string;
  use: 'read' | 'write';
}

const ANSWER_MS = 1500;
const placeOf = (row: Row) => `R/${row.id}`;

function openRegisters(
  unit: KnownUnit,
  clock: Clock,
  where: string,
  connect: (client: ModbusRTU) => Promise<void>,
): OpenUnit {
  const { station, pollEvery } = unit.config.settings as { station: number; pollEvery: number };
  const rows = unit.config.sources as unknown as Row[];
  const values = new MessageValues();
  const hearing = new Hearing();
  const faults = new Map<string, string>();
  const written = new Map<string, number>();
  let client: ModbusRTU | null = null;
  let closed = false;
  /** Requests go one after the other: a line has one talker. */
  let queue: Promise<unknown> = Promise.resolve();
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const next = queue.then(work, work);
    queue = next.catch(() => undefined);
    return next;
  };

  const say = (text: string, says: string, ok: boolean) =>
    hearing.add({ timeMs: Number(clock() / 1_000_000n), text, says, ok });
  const place = (row: Row) => `${row.name}: ${row.table} ${row.register}`;

  const link = new Link(where, () => {
    const fresh = new ModbusRTU();
    client = fresh;
    const lost = (why: string) => {
      if (client !== fresh) return;
      client = null;
      fresh.close(() => undefined);
      link.down(why);
    };
    fresh.on('error', (error: unknown) => lost((error as Error).message ?? String(error)));
    fresh.on('close', () => lost('The connection was closed.'));
    connect(fresh).then(
      () => {
        if (closed || client !== fresh) return fresh.close(() => undefined);
        fresh.setID(station);
        fresh.setTimeout(ANSWER_MS);
        link.up();
        void ask(fresh);
      },
      (error: Error) => lost(error.message),
    );
  });

  async function read(from: ModbusRTU, row: Row): Promise<number> {
    const count = registersOf(row.type);
    const answer = await inTurn<{ data: (number | boolean)[] }>(() =>
      row.table === 'holding registers'
        ? from.readHoldingRegisters(row.register, count)
        : row.table === 'input registers'
          ? from.readInputRegisters(row.register, count)
          : row.table === 'coils'
            ? from.readCoils(row.register, 1)
            : from.readDiscreteInputs(row.register, 1),
    );
    const bits = row.table === 'coils' || row.table === 'discrete inputs';
    return decodeRegisters(answer.data.map(Number), bits ? 'bit' : row.type, row.order);
  }

  /** Asks for all rows, over and over, as long as this connection is the one in use. */
  async function ask(from: ModbusRTU): Promise<void> {
    while (client === from && !closed) {
      const began = Date.now();
      let silent = rows.length > 0;
      for (const row of rows) {
        if (client !== from || closed) return;
        try {
          const raw = await read(from, row);
          // What can be written is a setting: it counts in its own unit, as it is written.
          values.arrive(placeOf(row), row.use === 'write' ? raw * row.slope + row.offset : raw, clock());
          if (faults.delete(row.id) || hearing.good < 200) say(place(row), `${raw}`, true);
          else hearing.good++;
          silent = false;
        } catch (error) {
          const why = reason(error);
          if ((error as { modbusCode?: number }).modbusCode !== undefined) silent = false; // it answers, though with a refusal
          if (faults.get(row.id) !== why) say(place(row), why, false);
          faults.set(row.id, why);
        }
      }
      if (silent && client === from) {
        client = null;
        from.close(() => undefined);
        return link.down(faults.values().next().value ?? 'Nothing came back.');
      }
      await new Promise((done) => setTimeout(done, Math.max(10, pollEvery * 1000 - (Date.now() - began))));
    }
  }

  const inputs = heldInputs(link, values, 'It has not answered yet.');
  return {
    describe: () =>
      described(unit, {
        modules: [
          {
            id: 'R',
            title: 'registers',
            terminals: rows.map((r) => ({
              id: placeOf(r),
              kind: r.use === 'write' ? ('setting' as const) : ('value' as const),
              label: r.name,
              sheet: {
                ...(r.use === 'read' && { slope: r.slope, offset: r.offset }),
                ...(r.unit && { unit: r.unit }),
              },
            })),
            ratesHz: HELD_RATES,
            bandwidthShare: 0,
          },
        ],
        abilities: ['monitor', 'reset'],
        counts: [
          { what: 'answers', count: hearing.good },
          { what: 'registers with a fault', count: faults.size },
        ],
      }),
    ...inputs,
    setOutput(terminal, value) {
      const row = rows.find((r) => placeOf(r) === terminal);
      if (!Number.isFinite(value)) throw badInput('value', value, 'Only numbers can be written.');
      if (!row || row.use !== 'write' || row.table.endsWith('inputs') || row.table === 'input registers')
        throw badInput(
          'register',
          terminal,
          'Choose a holding register or coil that is marked to be written.',
        );
      link.check();
      const to = client!;
      return inTurn<unknown>(() =>
        row.table === 'coils'
          ? to.writeCoil(row.register, value > 0.5)
          : to.writeRegisters(
              row.register,
              encodeRegisters((value - row.offset) / row.slope, row.type, row.order),
            ),
      ).then(
        () => {
          written.set(terminal, value);
          say(place(row), `written: ${value}`, true);
        },
        (error) => {
          faults.set(row.id, reason(error));
          say(place(row), `not written: ${reason(error)}`, false);
          throw new FarrierError('unavailable', {
            what: `${value} was not taken.`,
            where: row.name,
            why: `${where}: ${reason(error)}.`,
            next: 'Look at the device, then set it again.',
          });
        },
      );
    },
    probe(terminal) {
      const seen = inputs.probe(terminal, null);
      const fault = faults.get(terminal.slice(2));
      return {
        ...seen,
        ...(fault && { mean: NaN, trouble: 'silent' as const, remark: fault }),
        ...(written.has(terminal) && { output: written.get(terminal) }),
      };
    },
    heard: () => hearing.last,
    reset: () => client?.close(() => undefined),
    close() {
      closed = true;
      link.close();
      client?.close(() => undefined);
      client = null;
    },
  };
}

/** What a device or the line says of a failed request (exception codes: Modbus application protocol V1.1b3, 7). */
function reason(error: unknown): string {
  const { modbusCode, name, message } = error as { modbusCode?: number; name?: string; message?: string };
  const known: Record<number, string> = {
    1: 'the device does not know this function',
    2: 'the device has no such register',
    3: 'the device does not take this value',
    4: 'the device failed',
    6: 'the device is busy',
  };
  if (modbusCode !== undefined) return known[modbusCode] ?? `the device refused with exception ${modbusCode}`;
  return name === 'TransactionTimedOutError'
    ? `no answer within ${ANSWER_MS / 1000} s`
    : (message ?? asFarrierError(error, '').message);
}

export const modbusTcp: UnitDriver = {
  kind: 'Modbus TCP',
  open(unit, clock) {
    const { host, tcpPort } = unit.config.settings as { host: string; tcpPort: number };
    return openRegisters(unit, clock, host ? `${host}:${tcpPort}` : 'Modbus TCP', (client) =>
      host
        ? client.connectTCP(host, { port: tcpPort })
        : Promise.reject(badInput('host', 'not given', 'Give the host on the unit’s page.')),
    );
  },
};

export const modbusRtu: UnitDriver = {
  kind: 'Modbus RTU',
  open(unit, clock) {
    const { port, baud, parity } = unit.config.settings as {
      port: string;
      baud: number;
      parity: 'even' | 'odd' | 'none';
    };
    return openRegisters(unit, clock, port || 'Modbus RTU', (client) =>
      port
        ? client.connectRTUBuffered(port, { baudRate: baud, parity })
        : Promise.reject(badInput('port', 'not chosen', 'Choose the port on the unit’s page.')),
    );
  },
};
