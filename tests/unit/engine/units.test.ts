import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Aedes } from 'aedes';
import ModbusRTU, { type ServerSerial, type ServerTCP } from 'modbus-serial';
import { SerialPort } from 'serialport';
import wavefile from 'wavefile';
import { afterAll, afterEach, describe, expect, test } from 'vitest';
import { findUnitKind } from '$contract/units/kinds';
import type { UnitConfig } from '$contract/units/unit-kind';
import { LineCutter } from '$engine/units/line/driver';
import { numberInMessage } from '$engine/units/mqtt/driver';
import { UNIT_DRIVERS } from '$engine/units/registry';
import { PITCH_DATABASE, SEAL_DESCRIPTION } from '$contract/units/stand-in-databases';
import type { OpenUnit } from '$engine/units/driver';
import { ptyPair } from '../pty';
import { START_NS, UNIT, bench, channel } from '../rig';

const folder = mkdtempSync(join(tmpdir(), 'farrier-test-'));
afterAll(() => rmSync(folder, { recursive: true }));
const closing: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close();
});

const clock = () => BigInt(Date.now()) * 1_000_000n;
function open(kind: string, config: Partial<UnitConfig>, path?: string, at = clock): OpenUnit {
  const driver = UNIT_DRIVERS.find((d) => d.kind === kind)!;
  const { defaults } = findUnitKind(kind)!;
  const unit = driver.open(
    {
      serial: UNIT,
      kind,
      name: kind,
      path,
      config: { sources: [], database: null, ...config, settings: { ...defaults, ...config.settings } },
    },
    at,
  );
  closing.push(() => unit.close());
  return unit;
}
async function until<T>(look: () => T, ms = 8000): Promise<T> {
  const end = Date.now() + ms;
  for (;;) {
    try {
      const found = look();
      if (found) return found;
    } catch (error) {
      if (Date.now() > end) throw error;
    }
    if (Date.now() > end) throw new Error(`waited ${ms} ms for nothing: ${look.toString().slice(0, 120)}`);
    await new Promise((done) => setTimeout(done, 20));
  }
}
const request = (terminal: string, settings = {}) => ({
  terminal,
  rateHz: 50,
  channelId: 'c',
  kind: 'value',
  settings: { timeout: 2, ...settings },
});
/** The newest sample of the only request. */
function newest(unit: OpenUnit): number {
  const [block] = unit.poll(clock());
  return block ? block.columns[0][block.count - 1] : NaN;
}
const FIELDS = [
  { id: 'a', name: 'Wind', field: '1', timeout: 2 },
  { id: 'b', name: 'From', field: '2', timeout: 2 },
];

test('every kind of the catalogue has its driver, and every driver its kind', () => {
  for (const driver of UNIT_DRIVERS) expect(findUnitKind(driver.kind), driver.kind).toBeDefined();
  expect(new Set(UNIT_DRIVERS.map((d) => d.kind)).size).toBe(UNIT_DRIVERS.length);
});

test('a line on TCP: fields become samples, bad lines are counted and shown, a lost connection comes back', async () => {
  let peer: Socket | undefined;
  const server = createServer((socket) => (peer = socket));
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  closing.push(() => server.close());
  const { port } = server.address() as { port: number };
  const unit = open('network line', { settings: { host: '127.0.0.1', tcpPort: port }, sources: FIELDS });
  expect(() => unit.poll(clock())).toThrow(/does not answer/);
  await until(() => peer);
  const groups = await until(() => unit.start([request('L/a')], clock()));
  expect(groups[0].rate).toEqual({ num: 50, den: 1 });
  peer!.write('4.25, 180\nboot\n4.5,');
  peer!.write(' 181\n');
  await until(() => newest(unit) === 4.5);
  expect(unit.heard!().map((h) => [h.text, h.ok])).toEqual([
    ['4.25, 180', true],
    ['boot', false],
    ['4.5, 181', true],
  ]);
  expect(unit.describe().counts.map((c) => c.count)).toEqual([2, 1]);
  peer!.destroy();
  peer = undefined;
  await until(() => {
    expect(() => unit.poll(clock())).toThrow(/closed the connection/);
    return true;
  });
  await until(() => peer);
  await until(() => unit.start([request('L/a')], clock()));
  peer!.write('7,1\n');
  await until(() => newest(unit) === 7);
});

test('lines come in any pieces; one of a megabyte is thrown away and said, the next is read', () => {
  const lines: string[] = [];
  let lost = 0;
  const cutter = new LineCutter(
    '\r\n',
    (l) => lines.push(l),
    () => lost++,
  );
  for (const sign of 'one\r\ntwo\r\nth') cutter.push(sign);
  cutter.push('ree\r\n' + 'x'.repeat(1_000_000));
  cutter.push('y'.repeat(1_000_000));
  cutter.push('end\r\nfour\r\n');
  expect([lines, lost]).toEqual([['one', 'two', 'three', 'four'], 1]);
});

test('a real serial line: lines arrive, are answered, and its loss is said', async () => {
  const { ours, theirs, process } = await ptyPair(folder, closing);
  const board = new SerialPort({ path: theirs, baudRate: 115_200 });
  board.on('error', () => undefined); // its line is cut at the end
  closing.push(() => new Promise<void>((done) => (board.isOpen ? board.close(() => done()) : done())));
  let got = '';
  board.on('data', (bytes: Buffer) => (got += bytes.toString()));
  const unit = open('serial line', {
    settings: { port: ours, how: 'as key=value', separator: ' ' },
    sources: [{ id: 't', name: 'T', field: 'T', timeout: 2 }],
  });
  await until(() => unit.start([request('L/t')], clock()));
  board.write('T=21.5 P=1013\nT=21.75 P=1013\n');
  await until(() => newest(unit) === 21.75);
  unit.send!('rate 10');
  await until(() => got === 'rate 10\n');
  process.kill();
  await until(() => {
    expect(() => unit.poll(clock())).toThrow(/does not answer/);
    return true;
  });
});

// The library's servers hang on its default export.
const Servers = ModbusRTU as unknown as { ServerTCP: typeof ServerTCP; ServerSerial: typeof ServerSerial };
const holding = new Map<number, number>([
  [0, 0x41c8], // 25.0 as float32, high word first
  [1, 0x0000],
  [10, 0xfffe], // −2
  [20, 100],
]);
const vector = {
  getHoldingRegister: (address: number) => {
    if (!holding.has(address)) throw Object.assign(new Error('no such register'), { modbusErrorCode: 2 });
    return holding.get(address)!;
  },
  getInputRegister: (address: number) => 1000 + address,
  getCoil: (address: number) => address === 3,
  setRegister: (address: number, value: number) => void holding.set(address, value),
};
const ROWS = [
  {
    id: 'f',
    name: 'Float',
    table: 'holding registers',
    register: 0,
    type: 'float32',
    order: 'high word first',
    slope: 1,
    offset: 0,
    unit: '',
    use: 'read',
    timeout: 2,
  },
  {
    id: 'i',
    name: 'Signed',
    table: 'holding registers',
    register: 10,
    type: 'int16',
    order: 'high word first',
    slope: 1,
    offset: 0,
    unit: '',
    use: 'read',
    timeout: 2,
  },
  {
    id: 'c',
    name: 'Coil',
    table: 'coils',
    register: 3,
    type: 'bit',
    order: 'high word first',
    slope: 1,
    offset: 0,
    unit: '',
    use: 'read',
    timeout: 2,
  },
  {
    id: 'x',
    name: 'Missing',
    table: 'holding registers',
    register: 999,
    type: 'uint16',
    order: 'high word first',
    slope: 1,
    offset: 0,
    unit: '',
    use: 'read',
    timeout: 2,
  },
  {
    id: 'w',
    name: 'Set point',
    table: 'holding registers',
    register: 20,
    type: 'int16',
    order: 'high word first',
    slope: 0.1,
    offset: -40,
    unit: '°C',
    use: 'write',
    timeout: 2,
  },
];

test.each(['Modbus TCP', 'Modbus RTU'])(
  '%s: registers by their map, a fault named for its register, a write that arrives',
  async (kind) => {
    let settings: Record<string, unknown>;
    if (kind === 'Modbus TCP') {
      const server = new Servers.ServerTCP(vector as never, { host: '127.0.0.1', port: 0, unitID: 7 });
      closing.push(() => new Promise<void>((done) => server.close(() => done())));
      await new Promise<void>((done) => server.on('initialized', () => done()));
      const { port } = (server as unknown as { _server: { address(): { port: number } } })._server.address();
      settings = { host: '127.0.0.1', tcpPort: port, station: 7, pollEvery: 0.05 };
    } else {
      const { ours, theirs } = await ptyPair(folder, closing);
      const server = new Servers.ServerSerial(
        vector as never,
        { port: theirs, baudRate: 19_200, unitID: 7, openOptions: { parity: 'none' } } as never,
      );
      closing.push(() => new Promise<void>((done) => server.close(() => done())));
      settings = { port: ours, station: 7, pollEvery: 0.05, parity: 'none' };
    }
    const unit = open(kind, { settings, sources: ROWS });
    await until(() => unit.start([request('R/f')], clock()));
    await until(() => newest(unit) === 25);
    await until(() => unit.probe('R/i', null).mean === -2 && unit.probe('R/c', null).mean === 1);
    await until(() => unit.probe('R/x', null).remark === 'the device has no such register');
    expect(unit.probe('R/f', null).trouble).toBe('none');
    await until(() => unit.probe('R/w', null).mean === -30);
    unit.setOutput('R/w', 12.5);
    await until(() => holding.get(20) === 525);
    await until(() => Math.abs(unit.probe('R/w', null).mean - 12.5) < 1e-9);
    expect(() => unit.setOutput('R/f', 1)).toThrow(/marked to be written/);
    holding.set(20, 100);
  },
  20_000,
);

test('MQTT from a real broker: topic and pointer become samples, what is no number is said, a lost broker comes back', async () => {
  const broker = await Aedes.createBroker();
  let server = createServer(broker.handle);
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as { port: number };
  closing.push(() => new Promise<void>((done) => broker.close(() => server.close(() => done()))));
  const unit = open('MQTT topics', {
    settings: { url: `mqtt://127.0.0.1:${port}` },
    sources: [
      { id: 'l', name: 'Level', topic: 'pier/tide', pointer: '/water/level', timeout: 5 },
      { id: 's', name: 'Salt', topic: 'pier/salt', pointer: '', timeout: 5 },
    ],
  });
  await until(() => unit.start([request('T/l')], clock()));
  const publish = (topic: string, payload: string) =>
    broker.publish(
      { topic, payload: Buffer.from(payload), cmd: 'publish', qos: 0, dup: false, retain: false },
      () => undefined,
    );
  await until(() => {
    publish('pier/tide', '{"water":{"level":3.42}}');
    publish('pier/salt', '34.1 PSU');
    return newest(unit) > 3;
  });
  await until(() => unit.probe('T/l', null).mean === 3.42 && unit.probe('T/s', null).mean === 34.1);
  publish('pier/tide', '{"water":{}}');
  await until(() => unit.heard!().some((h) => h.says.includes('no number for Level at /water/level')));
  for (const client of Object.values(
    (broker as unknown as { clients: Record<string, { close(): void }> }).clients,
  ))
    client.close();
  await new Promise<void>((done) => server.close(() => done()));
  await until(() => {
    expect(() => unit.poll(clock())).toThrow(/does not answer/);
    return true;
  });
  server = createServer(broker.handle);
  await new Promise<void>((done) => server.listen(port, '127.0.0.1', done));
  await until(() => unit.start([request('T/l')], clock()));
  expect(numberInMessage('x'.repeat(2_000_000), '')).toBeNull();
  expect([
    numberInMessage('true', ''),
    numberInMessage('{"a":"2,5 m"}', '/a'),
    numberInMessage('{', '/a'),
    numberInMessage('{"a":{}}', '/a'),
  ]).toEqual([1, 2.5, null, null]);
}, 20_000);

describe('the stand-in buses', () => {
  const at = () => START_NS;
  const can = (settings = {}, path?: string) =>
    open('CAN bus', { database: { name: 'pitch.dbc', text: PITCH_DATABASE }, settings }, path, at);
  const value = (name: string, terminal: string, settings = {}) =>
    channel(name, 'value', terminal, { range: { min: -100, max: 1000 }, rateHz: 50, ...settings });

  test('signals arrive scaled, multiplexed ones hold between their pages, a command is followed', () => {
    const b = bench(can(), [
      value('Angle', 'PitchState/Angle', { slope: 0.01, unit: '°' }),
      value('Oil', 'PitchHealth/OilTemperature', { offset: -40, unit: '°C' }),
      channel('Target', 'driven', 'PitchCommand/Target', {
        slope: 1,
        unit: '°',
        range: { min: -5, max: 95 },
        rest: 12,
      }),
    ]);
    b.run(1);
    expect(b.last('Angle')).toBeCloseTo(12, 0);
    expect(b.last('Oil')).toBeCloseTo(41, 0);
    b.acquisition.setOutput('target', 30);
    b.run(1);
    expect(b.last('Angle')).toBeGreaterThan(14);
    b.run(12);
    expect(b.last('Angle')).toBeCloseTo(30, 0);
    expect(b.last('Target')).toBe(30);
    expect(() => b.acquisition.setOutput('target', 100)).toThrow(/outside/);
  });
  test('an unplugged bus is a loss, not an old value; a listener may not send', () => {
    const unit = can({ listenOnly: 'listen only' });
    const b = bench(unit, [value('Angle', 'PitchState/Angle', { slope: 0.01 })]);
    b.run(1);
    expect(unit.describe().modules.find((m) => m.id === 'PitchCommand')!.terminals[0].kind).toBe('value');
    expect(() => unit.send!('2A0#E803')).toThrow(/only listened to/);
    unit.setControl!('plugged', 0);
    b.run(1);
    expect(b.last('Angle')).toBeNaN();
    unit.setControl!('plugged', 1);
    b.run(2);
    expect(b.last('Angle')).toBeCloseTo(12, 0);
    expect(b.notes.map((n) => n.says).join()).toMatch(/was lost.*found again/);
  });
  test('frames of a log are played at their times; a signal that stops coming reads as missing after its timeout', () => {
    const path = join(folder, 'run.log');
    writeFileSync(
      path,
      '(10.000000) can0 1A0#E803000000000000\n(10.100000) can0 1A0#D007000000000000\n(20.000000) can0 7FF#00\n',
    );
    const unit = can({}, path);
    const b = bench(unit, [value('Angle', 'PitchState/Angle', { slope: 0.01, timeout: 1 })]);
    b.run(0.1);
    expect(b.last('Angle')).toBe(10);
    b.run(0.5);
    expect(b.last('Angle')).toBe(20);
    b.run(2);
    expect(b.last('Angle')).toBeNaN();
    expect(unit.recentLog!()).toContain('can0 1A0#D007000000000000');
    b.run(10);
    expect(
      unit.heard!().at(-1)!.text +
        unit.heard!()
          .map((h) => h.says)
          .join(),
    ).toContain('not in the database');
  });
  test('LIN signals come through their description', () => {
    const b = bench(
      open('LIN bus', { database: { name: 'seal.ldf', text: SEAL_DESCRIPTION } }, undefined, at),
      [value('Seal', 'SealState/SealTemperature', { slope: 0.1, offset: -20, unit: '°C' })],
    );
    b.run(1);
    expect(b.last('Seal')).toBeCloseTo(11.4, 0);
  });
});

test('a WAV file plays at its own rate, sample by sample, and from its start again', () => {
  const wav = new wavefile.WaveFile();
  const data = Float64Array.from({ length: 1000 }, (_, i) => i / 1000);
  wav.fromScratch(1, 1000, '32f', data as unknown as number[]);
  const path = join(folder, 'ramp.wav');
  writeFileSync(path, wav.toBuffer());
  const unit = open('replay', {}, path, () => START_NS);
  const b = bench(unit, [
    channel('Ramp', 'value', 'W/1', { rateHz: 1000, unit: '1', range: { min: 0, max: 1 } }),
  ]);
  b.run(0.5);
  expect(b.last('Ramp')).toBeCloseTo(0.499, 6);
  b.run(0.75);
  expect(b.last('Ramp')).toBeCloseTo(0.249, 6);
  writeFileSync(join(folder, 'bad.wav'), 'RIFFnothing');
  expect(() => open('replay', {}, join(folder, 'bad.wav'))).toThrow(/no WAV file/);
});

describe('the bench chassis', () => {
  const chassis = () => open('bench chassis', {}) as Required<OpenUnit>;

  test('lead wires: two of a quarter bridge shift its zero, three do not; a wrong completion is far out of balance', () => {
    const u = chassis();
    const b = bench(u, [
      channel('Three', 'strain bridge', 'B1/1', { zero: 0.021 }),
      channel('Two', 'strain bridge', 'B1/1', {
        zero: 0.021,
        leads: 'two wires',
        range: { min: -9000, max: 9000 },
      }),
      channel('Wrong', 'strain bridge', 'B1/1', { resistance: 120 }),
    ]);
    b.run(0.2);
    expect(b.last('Three')).toBeCloseTo(0, -1);
    // 2 · 0.45 Ω in 350 Ω are 0.64 mV/V: 1236 µε at a gauge factor of 2.08.
    expect(b.last('Two')).toBeCloseTo((((2 * 0.45) / 350) * 1e6) / 2.08, -2);
    expect(b.frames.at(-1)!.state[2]).toBe(4); // over range
    u.setControl('B1/1', 1000);
    b.run(2);
    expect(b.last('Three')).toBeCloseTo(1000 / (1 + 0.45 / 350), -1);
  });
  test('a shunt moves a quarter bridge by the strain that its resistance stands for', () => {
    const u = chassis();
    const gauge = { kind: 'strain bridge', settings: { arrangement: 'quarter', resistance: 350 } };
    const before = u.probe('B1/1', gauge).mean;
    u.tryOut('B1/1', { set: 'shunt', on: true });
    // -R / (4 Rs + 2 R), from the circuit.
    expect(u.probe('B1/1', gauge).mean - before).toBeCloseTo((-1000 * 350) / (400_000 + 700), 3);
  });
  test('a platinum sensor on two wires reads the leads, along with 2.6 K for each ohm on a Pt100', () => {
    const b = bench(chassis(), [
      channel('Two', 'platinum sensor', 'B2/3', { leads: 'two wires' }),
      channel('Corrected', 'platinum sensor', 'B2/3', { leads: 'two wires', leadOhm: 0.9 }),
      channel('Four', 'platinum sensor', 'B2/3'),
      channel('Junction', 'cold junction', 'B2/junction'),
      channel('K', 'thermocouple', 'B2/1', { range: { min: 0, max: 400 } }),
    ]);
    b.run(0.5);
    expect(b.last('Two') - b.last('Four')).toBeCloseTo(0.9 * 2.57, 1);
    expect(b.last('Corrected')).toBeCloseTo(21, 1);
    expect(b.last('Junction')).toBeCloseTo(23.4, 1);
    expect(b.last('K')).toBeCloseTo(21, 1);
  });
  test('lines have a direction, pulses a frequency and a duty; an input is not driven', () => {
    const u = chassis();
    expect(() => u.tryOut('B8/2', { set: 'level', on: true })).toThrow(/Turn the line to an output first/);
    u.tryOut('B8/2', { set: 'direction', direction: 'out' });
    u.tryOut('B8/2', { set: 'pulses', hz: 10, duty: 0.3 });
    const b = bench(u, [
      channel('Line', 'contact', 'B8/2', { rateHz: 1000 }),
      channel('Encoder', 'counter', 'B7/1'),
      channel('Pulses', 'pulses', 'B7/2', { unit: 'Hz', perTurn: 1, range: { min: 0, max: 1000 } }),
    ]);
    b.run(1);
    b.acquisition
      .read(['line'], 1000)
      .then(([r]) => expect(r.values.filter((v) => v > 0.5).length).toBeCloseTo(300, -1));
    b.run(1.1);
    expect(b.last('Encoder')).toBeCloseTo(2 * 2.1 * 360, -2);
    expect(b.last('Pulses')).toBeCloseTo(100, 0);
    expect(u.probe('B7/2', null).line!.edges).toBeCloseTo(210, -1);
    u.tryOut('B7/2', { set: 'count from 0' });
    b.run(0.5);
    expect(u.probe('B7/2', null).line!.edges).toBeCloseTo(50, 0);
    expect(() => u.tryOut('B4/1', { set: 'shunt', on: true })).toThrow(/nothing of that kind/);
  });
  test('an open and a shorted vibration sensor are told apart by their bias; the self-test names the fault', () => {
    const u = chassis();
    const b = bench(u, [channel('Shake', 'vibration', 'B3/1')]);
    b.run(0.2);
    expect(Math.max(...b.frames.slice(-3).map((f) => f.max[0]))).toBeCloseTo(10 * Math.SQRT2, 0);
    expect(u.selfTest().ok).toBe(true);
    u.setFault('B3/1', 'short');
    b.run(0.1);
    expect([b.frames.at(-1)!.state[0], u.probe('B3/1', null).biasV]).toEqual([7, 0.1]);
    u.setFault('B3/1', 'open wire');
    expect(u.probe('B3/1', null).biasV).toBe(24);
    expect(u.selfTest()).toMatchObject({ ok: false });
  });
  test('a rate that the module cannot do becomes the next one above, and is told', () => {
    const b = bench(chassis(), [channel('Load', 'bridge sensor', 'B1/3', { rateHz: 700 })]);
    expect(b.acquisition.status.actualRates).toEqual({ load: 1000 });
  });
  test('an output with a ramp goes to its value no faster, and to rest at once', () => {
    const b = bench(chassis(), [
      channel('Valve', 'driven', 'B9/1', {
        slope: 1,
        unit: 'V',
        ramp: 2,
        rest: 0,
        range: { min: 0, max: 10 },
      }),
    ]);
    b.run(0.1);
    b.acquisition.setOutput('valve', 4);
    b.run(1);
    expect(b.last('Valve')).toBeCloseTo(2, 0);
    b.run(2);
    expect(b.last('Valve')).toBe(4);
    b.acquisition.toRest();
    b.run(0.1);
    expect(b.last('Valve')).toBe(0);
  });
});
