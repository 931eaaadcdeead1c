import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { candumpLine, readCandump } from '$core/can/candump';
import { readDbc } from '$core/can/dbc';
import { decodeFrame, fits, rawOf, valueOf, writeSignal, type BusSignal } from '$core/can/signal';
import { readLdf } from '$core/lin/ldf';
import {
  REGISTER_TYPES,
  WORD_ORDERS,
  decodeRegisters,
  encodeRegisters,
  registersOf,
} from '$core/registers/registers';

const PITCH = `VERSION "1"
NS_ :
	CM_
	BA_DEF_
BS_:
BU_: Pitch Bench
BO_ 416 PitchState: 8 Pitch
 SG_ Angle : 0|16@1- (0.01,-5) [-5|95] "deg" Bench
 SG_ Current : 23|12@0+ (0.1,0) [0|400] "A"  Bench,Logger
 SG_ Page M : 32|4@1+ (1,0) [0|15] "" Bench
 SG_ Oil m0 : 40|8@1+ (1,-40) [-40|215] "degC" Bench
 SG_ Supply m1 : 40|16@1+ (0.001,0) [0|60] "V" Bench
BO_ 2566834432 Wide: 8 Pitch
 SG_ Torque : 0|32@1- (1,0) [0|0] "N m" Vector__XXX
CM_ SG_ 416 Angle "blade angle; BO_ is no section in here";
SIG_VALTYPE_ 2566834432 Torque : 1;
`;
const signal = (part: Partial<BusSignal>): BusSignal => ({
  name: 's',
  start: 0,
  length: 8,
  bigEndian: false,
  signed: false,
  float: false,
  factor: 1,
  offset: 0,
  min: 0,
  max: 0,
  unit: '',
  multiplexed: null,
  multiplexor: false,
  initial: null,
  ...part,
});

test('a CAN database: layout, scaling, multiplexing, wide identifiers, float types', () => {
  const [state, wide] = readDbc(PITCH);
  expect(state).toMatchObject({ id: 416, extended: false, name: 'PitchState', length: 8, sender: 'Pitch' });
  expect(
    state.signals.map((s) => [s.name, s.start, s.length, s.bigEndian, s.signed, s.multiplexed, s.unit]),
  ).toEqual([
    ['Angle', 0, 16, false, true, null, 'deg'],
    ['Current', 23, 12, true, false, null, 'A'],
    ['Page', 32, 4, false, false, null, ''],
    ['Oil', 40, 8, false, false, 0, 'degC'],
    ['Supply', 40, 16, false, false, 1, 'V'],
  ]);
  expect(wide).toMatchObject({ id: 2566834432 - 2 ** 31, extended: true });
  expect(wide.signals[0].float).toBe(true);
});

test('numbers out of frames: both byte orders, signs and floats, by hand-computed bytes', () => {
  const [state] = readDbc(PITCH);
  const data = Uint8Array.from([0xe8, 0x03, 0x12, 0x30, 0x01, 0x10, 0x27, 0]);
  const got = Object.fromEntries(
    decodeFrame(state, data).map(({ signal: s, raw }) => [s.name, raw * s.factor + s.offset]),
  );
  expect(got).toEqual({ Angle: 5, Current: 0x123 * 0.1, Page: 1, Supply: 10000 * 0.001 }); // Oil is on the other page
  expect(rawOf(signal({ start: 4, length: 8 }), [0xf0, 0x0a])).toBe(0xaf);
  expect(rawOf(signal({ start: 7, length: 16, bigEndian: true, signed: true }), [0xff, 0xfe])).toBe(-2);
  expect(rawOf(signal({ length: 32, float: true }), [0, 0, 0x80, 0x3f])).toBe(1);
  expect(rawOf(signal({ start: 8 }), [1])).toBeNaN();
});

test('whatever is written into a frame is read from it, and no other bit is touched', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 63 }),
      fc.integer({ min: 1, max: 48 }),
      fc.boolean(),
      fc.boolean(),
      fc.nat(),
      fc.uint8Array({ minLength: 8, maxLength: 8 }),
      (start, length, bigEndian, signed, seed, before) => {
        const s = signal({ start, length, bigEndian, signed, factor: 0.5, offset: -3 });
        fc.pre(fits(s, 8));
        const raw = (signed ? -(2 ** (length - 1)) : 0) + (seed % 2 ** Math.min(31, length));
        const data = before.slice();
        writeSignal(s, data, raw * 0.5 - 3);
        expect(valueOf(s, data)).toBe(raw * 0.5 - 3);
        const back = data.slice();
        writeSignal(s, back, valueOf(s, before));
        expect(back).toEqual(before);
      },
    ),
    { numRuns: 300 },
  );
});

describe('a damaged database is refused with its line', () => {
  test.each([
    [PITCH.replace('(0.01,-5)', '(0.01 -5)'), /line 8: “,” was expected/],
    [PITCH.replace('0|16@1-', '60|16@1-'), /line \d+: Signal Angle within the 8 bytes/],
    [PITCH.replace('Angle : 0|16', 'Angle : 0|99'), /a length in bits from 1 to 64/],
    [PITCH.replaceAll('2566834432', '416'), /Another identifier than 416, which PitchState has/],
    [PITCH.slice(0, PITCH.indexOf('|95]')), /but the file ends|expected/],
    ['hello', /No message/],
  ])('%#', (text, reason) => expect(() => readDbc(text)).toThrow(reason));
  test('whatever is cut or changed, it is read or refused, and never hangs', () => {
    fc.assert(
      fc.property(
        fc.nat(PITCH.length),
        fc.nat(PITCH.length),
        fc.string({ maxLength: 6 }),
        (from, to, put) => {
          try {
            readDbc(PITCH.slice(0, from) + put + PITCH.slice(to));
          } catch (error) {
            expect((error as { code?: string }).code).toBe('damaged');
          }
        },
      ),
      { numRuns: 300 },
    );
  });
});

test('a LIN description: frames, places, scaling by encoding', () => {
  const text = `LIN_description_file;
LIN_protocol_version = "2.1";
LIN_speed = 19.2 kbps;
Nodes { Master: Bench, 5 ms, 0.1 ms; Slaves: Seal; }
Signals { SealTemp: 10, 0, Seal, Bench; Leak: 1, 0, Seal, Bench; }
Frames { SealState: 0x12, Seal, 2 { SealTemp, 0; Leak, 10; } }
Schedule_tables { Normal { SealState delay 10 ms; } }
Signal_encoding_types { Temp { physical_value, 0, 1023, 0.25, -40, "degC"; logical_value, 1023, "bad"; } }
Signal_representation { Temp: SealTemp; }`;
  const [frame] = readLdf(text);
  expect(frame).toMatchObject({ id: 0x12, name: 'SealState', length: 2, sender: 'Seal' });
  expect(decodeFrame(frame, [0x20, 0x05]).map(({ signal: s, raw }) => raw * s.factor + s.offset)).toEqual([
    32, 1,
  ]);
  expect(() => readLdf(text.replace('Leak, 10', 'Leak, 16'))).toThrow(
    /“Leak” does not fit into the 2 bytes of SealState/,
  );
  expect(() => readLdf(text.replace('SealTemp, 0', 'SealTempo, 0'))).toThrow(
    /which is no signal of the file/,
  );
  expect(() => readLdf('BO_ 1')).toThrow(/does not begin with/);
  fc.assert(
    fc.property(fc.nat(text.length), (cut) => {
      try {
        readLdf(text.slice(0, cut));
      } catch (error) {
        expect((error as { code?: string }).code).toBe('damaged');
      }
    }),
  );
});

test('candump logs: what is written is read back; a wrong line is named', () => {
  fc.assert(
    fc.property(
      fc.nat(0x7ff),
      fc.uint8Array({ maxLength: 8 }),
      fc.boolean(),
      fc.bigInt(0n, 2_000_000_000_000_000n),
      (id, data, extended, micros) => {
        const frame = { timeNs: micros * 1000n, bus: 'can0', id, extended, data };
        expect(readCandump(`\n${candumpLine(frame)}\n`)).toEqual([frame]);
      },
    ),
  );
  expect(candumpLine(readCandump('(1436509052.249713) vcan0 044#2A366C2BBA')[0])).toBe(
    '(1436509052.249713) vcan0 044#2A366C2BBA',
  );
  expect(() => readCandump('(1.000000) can0 044#00\n(1.000000) can0 44#0')).toThrow(
    /line 2: “\(1\.000000\) can0 44#0” is no frame/,
  );
});

test('registers: every type in both word orders comes back, by known bytes for one', () => {
  expect(decodeRegisters([0x41c8, 0x0000], 'float32', 'high word first')).toBe(25);
  expect(decodeRegisters([0x0000, 0x41c8], 'float32', 'low word first')).toBe(25);
  expect(decodeRegisters([0xfffe], 'int16', 'high word first')).toBe(-2);
  fc.assert(
    fc.property(
      fc.constantFrom(...REGISTER_TYPES),
      fc.constantFrom(...WORD_ORDERS),
      fc.integer({ min: -100_000, max: 100_000 }),
      (type, order, value) => {
        const words = encodeRegisters(value, type, order);
        expect(words).toHaveLength(registersOf(type));
        const back = decodeRegisters(words, type, order);
        const [low, high] =
          type === 'bit'
            ? [0, 1]
            : type === 'int16'
              ? [-32768, 32767]
              : type === 'uint16'
                ? [0, 65535]
                : type === 'uint32'
                  ? [0, 2 ** 32]
                  : [-1e9, 1e9];
        expect(back).toBe(Math.min(high, Math.max(low, value)));
      },
    ),
  );
});
