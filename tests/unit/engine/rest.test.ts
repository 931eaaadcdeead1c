import ModbusRTU, { type ServerTCP } from 'modbus-serial';
import { afterEach, describe, expect, test } from 'vitest';
import { when } from '$core/condition/condition';
import type { KnownUnit } from '$contract/engine';
import { findUnitKind } from '$contract/units/kinds';
import { EMPTY_RULE, newDeed } from '$contract/rule';
import { openBus } from '$engine/units/bus/driver';
import { readDbc } from '$core/can/dbc';
import { UNIT_DRIVERS } from '$engine/units/registry';
import { START_NS, UNIT, bench, channel } from '../rig';

const closing: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close();
});

const wait = (ms: number) => new Promise((done) => setTimeout(done, ms));
async function until(look: () => boolean): Promise<void> {
  for (const end = Date.now() + 15_000; !look(); await wait(10))
    if (Date.now() > end) throw new Error('it did not come true within 15 s');
}
/** The clock of the pipeline, which the unit's messages carry, too. */
let nowNs = START_NS;
/** Turns a pipeline at its beat until something is true. */
async function turning(b: ReturnType<typeof bench>, look: () => boolean): Promise<void> {
  for (const end = Date.now() + 20_000; !look(); await wait(10)) {
    b.run(0.05);
    nowNs += 50_000_000n;
    if (Date.now() > end) throw new Error('it did not come true within 20 s');
  }
}

// The library's server hangs on its default export.
const { ServerTCP: Slave } = ModbusRTU as unknown as { ServerTCP: typeof ServerTCP };

/** A slave of its own process's port that answers after some time, with a register that can be read back and one that refuses. */
async function slave(port = 0, answerMs = 0) {
  const registers = new Map<number, number>([[7, 500]]);
  const server = new Slave(
    {
      getHoldingRegister: (address: number) => registers.get(address) ?? 0,
      setRegister: async (address: number, value: number) => {
        await wait(answerMs);
        if (address === 9) throw Object.assign(new Error('no'), { modbusErrorCode: 3 });
        registers.set(address, value);
      },
    } as never,
    { host: '127.0.0.1', port, unitID: 1 },
  );
  await new Promise<void>((listening) => server.on('initialized', () => listening()));
  const close = () => new Promise<void>((done) => server.close(() => done()));
  closing.push(close);
  const at = (server as unknown as { _server: { address(): { port: number } } })._server.address().port;
  return { registers, port: at, close };
}

const row = (id: string, register: number) => ({
  id, name: id, table: 'holding registers', register, type: 'uint16', order: 'high word first', slope: 1, offset: 0, unit: '', use: 'write', timeout: 2,
}); // prettier-ignore

function rig(port: number, rules: Parameters<typeof bench>[2] = []) {
  nowNs = START_NS;
  const kind = 'Modbus TCP';
  const unit: KnownUnit = {
    serial: UNIT,
    kind,
    name: 'dosing pump',
    config: {
      settings: { ...findUnitKind(kind)!.defaults, host: '127.0.0.1', tcpPort: port, pollEvery: 0.05 },
      sources: [row('speed', 7), row('stubborn', 9)],
      database: null,
    },
  };
  const open = UNIT_DRIVERS.find((d) => d.kind === kind)!.open(unit, () => nowNs);
  closing.push(() => open.close());
  const channels = [
    channel('Speed', 'driven value', 'R/speed', { rest: 20, range: { min: 0, max: 1000 }, rateHz: 20 }),
  ];
  const b = bench(open, channels, rules);
  return { b, unit, channels, open };
}

describe('outputs that are written by message come to rest before the connection is closed', () => {
  test('what is written is the number itself, not half of it as for an amplifier', async () => {
    const { registers, port } = await slave();
    const { b } = rig(port);
    await turning(b, () => b.acquisition.status.units[0].answering && b.acquisition.channelIds.length > 0);
    b.acquisition.setOutput('speed', 640);
    await until(() => registers.get(7) === 640);
  });

  test('when the engine is stopped, though the device answers slowly', async () => {
    const { registers, port } = await slave(0, 300);
    const { b } = rig(port);
    await turning(b, () => b.acquisition.status.units[0].answering);
    b.acquisition.setOutput('speed', 800);
    await until(() => registers.get(7) === 800);
    await b.acquisition.shutDown();
    expect(registers.get(7)).toBe(20);
    expect(b.notes.map((n) => n.says)).toContain('Speed is at rest.');
  });

  test('when its channel is removed or its unit taken off the list; and that is said once it is so', async () => {
    const { registers, port } = await slave();
    const { b, unit } = rig(port);
    await turning(b, () => b.acquisition.status.units[0].answering);
    b.acquisition.setOutput('speed', 800);
    await until(() => registers.get(7) === 800);
    await b.acquisition.letGo({ units: [unit], channels: [], rules: [] });
    expect(registers.get(7)).toBe(20);
    expect(b.acquisition.status.outputs).toEqual({});
  });

  test('when the rule that holds it is removed', async () => {
    const { registers, port } = await slave();
    const { b, unit, channels } = rig(port, [
      {
        id: 'r',
        says: 'rule',
        rule: {
          ...EMPTY_RULE,
          when: when('speed', 'is above', -1),
          deeds: [newDeed({ do: 'set', output: 'speed', value: 700, after: 'return it to rest' })],
        },
      },
    ]);
    await turning(b, () => registers.get(7) === 700);
    b.configure({ units: [unit], channels, rules: [] });
    await until(() => registers.get(7) === 20);
  });

  test('a unit that answers again is commanded to rest', async () => {
    const first = await slave();
    const { b } = rig(first.port);
    await turning(b, () => b.acquisition.status.units[0].answering);
    b.acquisition.setOutput('speed', 800);
    await until(() => first.registers.get(7) === 800);
    await first.close();
    await turning(b, () => !b.acquisition.status.units[0].answering);
    const again = await slave(first.port);
    again.registers.set(7, 800); // it kept what it was told last
    await turning(b, () => again.registers.get(7) === 20);
  });

  test('a value that the device refuses is not shown as set, and the refusal is said with its reason', async () => {
    const { port } = await slave();
    const { b, unit } = rig(port);
    await turning(b, () => b.acquisition.status.units[0].answering);
    const stubborn = channel('Stubborn', 'driven value', 'R/stubborn', {
      rest: 0,
      range: { min: 0, max: 9 },
    });
    b.configure({ units: [unit], channels: [stubborn], rules: [] });
    b.acquisition.setOutput('stubborn', 5);
    await turning(b, () =>
      b.notes.some((n) => n.kind === 'trouble' && /Stubborn was not set to 5/.test(n.says)),
    );
    expect(b.acquisition.status.outputs.stubborn).toBeUndefined();
    await b.acquisition.toRest();
    expect(b.notes.at(-1)!.says).toMatch(/Stubborn could not be brought to rest: .*does not take this value/);
  });
});

describe('a message of a bus is sent whole', () => {
  const database = (start: string) =>
    `BO_ 1 Cmd: 8 Bench\n SG_ Target : 0|16@1- (1,0) [0|1000] "" X\n SG_ Enable : 16|1@1+ (1,0) [0|1] "" X\n${start}`;
  const bus = (start: string) => {
    const sent: string[] = [];
    const unit = openBus(
      { serial: UNIT, kind: 'CAN bus', name: 'bus', config: { settings: { listenOnly: 'listen and send' }, sources: [], database: { name: 'd', text: database(start) } } },
      START_NS,
      readDbc,
      database(start),
      'can0',
    ); // prettier-ignore
    return { unit, last: () => unit.heard!().at(-1)?.says ?? '', sent };
  };

  test('writing one signal never sets another unasked: where nobody said what that is, it is refused and named', () => {
    const { unit, last } = bus('');
    expect(() => unit.setOutput('Cmd/Target', 7)).toThrow(/nobody has said what Enable is/);
    unit.send!('001#0000000000000000');
    unit.setOutput('Cmd/Target', 7);
    expect(last()).toMatch(/Target 7.*Enable 0/);
  });
  test('what the description says it begins with is what goes along', () => {
    const { unit, last } = bus('BA_ "GenSigStartValue" SG_ 1 Enable 1;\n');
    unit.setOutput('Cmd/Target', 7);
    expect(last()).toMatch(/Target 7.*Enable 1/);
  });
});
