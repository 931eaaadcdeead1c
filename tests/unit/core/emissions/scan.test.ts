import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  correctedUnit,
  correctionAt,
  correctionDb,
  DBUV_OF_DBM,
  notCovering,
  type CorrectionTable,
} from '$core/emissions/corrections';
import { limitLevel, lowestLimit, roomTo, type LimitLine } from '$core/emissions/limits';
import { columnsOf, limitCorners, logTicks, tickText } from '$core/emissions/picture';
import { planScan, ScanRecord, type ScanRange } from '$core/emissions/scan';
import { isAmbient, levelNear, suspectsOf } from '$core/emissions/suspects';
import { Gatherer, type GatheredBand } from '$core/radio/gathering';
import { noise, sum, tone } from '../radio/signals';

const table = (
  kind: CorrectionTable['kind'],
  points: [number, number][],
  name: string = kind,
): CorrectionTable => ({
  name,
  kind,
  expanded: 0.5,
  points: points.map(([hz, db]) => ({ hz, db })),
});

describe('corrections', () => {
  test('0 dBm is 106.99 dBµV over 50 Ω', () => expect(DBUV_OF_DBM).toBeCloseTo(106.9897, 4));
  test('by hand: −60 dBm behind 3 dB of cable and a 10 dB attenuator, through 20 dB of amplifier, an antenna of 14 dB/m', () => {
    const chain = [
      table('cable loss', [[1e8, 3]]),
      table('attenuator', [[1e8, 10]]),
      table('amplifier gain', [[1e8, 20]]),
      table('antenna factor', [[1e8, 14]]),
    ];
    expect(-60 + DBUV_OF_DBM + correctionDb(chain, 1e8)).toBeCloseTo(46.99 + 3 + 10 - 20 + 14, 2);
    expect(correctedUnit(chain)).toBe('dBµV/m');
  });
  test('a current probe of 20 dBΩ turns 60 dBµV to 40 dBµA; an antenna and a probe are no chain', () => {
    const probe = table('current probe', [[1e6, 20]], 'probe');
    expect(60 + correctionDb([probe], 1e6)).toBe(40);
    expect(correctedUnit([probe])).toBe('dBµA');
    expect(correctedUnit([])).toBe('dBµV');
    expect(correctedUnit([probe, table('antenna factor', [[1, 1]], 'bow')])).toEqual({
      fault: 'probe and bow cannot both be in one chain.',
    });
  });
  test('between points straight over the logarithm; held beyond; what does not cover is named', () => {
    const t = table('cable loss', [[1e6, 1], [1e8, 3]]); // prettier-ignore
    expect(correctionAt(t.points, 1e7)).toBeCloseTo(2, 12);
    expect(correctionAt(t.points, 1e5)).toBe(1);
    expect(correctionAt(t.points, 1e9)).toBe(3);
    expect(notCovering([t], 1e6, 1e8)).toEqual([]);
    expect(notCovering([t], 1e6, 2e8)).toEqual(['cable loss']);
  });
});

const qp: LimitLine = {
  detector: 'quasi-peak',
  points: [[150e3, 66], [500e3, 56], [5e6, 56], [5e6, 60], [30e6, 60]].map(([hz, level]) => ({ hz, level })), // prettier-ignore
};
const average: LimitLine = {
  detector: 'average',
  points: qp.points.map((p) => ({ ...p, level: p.level - 10 })),
};

describe('limits', () => {
  test('straight in the logarithm, the lower side at a step, nothing beyond', () => {
    expect(limitLevel(qp, 150e3)).toBe(66);
    expect(limitLevel(qp, Math.sqrt(150e3 * 500e3))).toBeCloseTo(61, 9);
    expect(limitLevel(qp, 5e6)).toBe(56);
    expect(limitLevel(qp, 5.001e6)).toBe(60);
    expect(limitLevel(qp, 31e6)).toBeNaN();
    expect(lowestLimit([qp, average], 1e6)).toEqual({ level: 46, detector: 'average' });
    expect(lowestLimit([qp], 40e6)).toBe(null);
  });
  test('room: each reading under its own limit; what was not read is taken as the peak', () => {
    expect(roomTo([qp, average], 1e6, { peak: 58, quasiPeak: 54, average: 40 })).toEqual({
      room: 2,
      level: 56,
      detector: 'quasi-peak',
    });
    expect(roomTo([qp, average], 1e6, { peak: 58, quasiPeak: 50, average: 47 })).toEqual({
      room: -1,
      level: 46,
      detector: 'average',
    });
    expect(roomTo([qp, average], 1e6, { peak: 48, quasiPeak: null, average: null })!.room).toBe(-2);
    expect(roomTo([qp], 40e6, { peak: 48, quasiPeak: 1, average: 1 })).toBe(null);
  });
});

describe('a look through a range', () => {
  const receiver = { sampleRateHz: 4e6, tunes: { fromHz: 1e6, toHz: 6e9 }, centreHz: 868e6 };
  const range = (own: Partial<ScanRange>): ScanRange => ({
    ...{ fromHz: 30e6, toHz: 88e6, bandwidth6Hz: 120e3, dwellS: 0.02, gainDb: null },
    ...own,
  });
  test('steps join without a seam or a gap, beside the receiver’s own DC, within what it reaches', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.15e6, max: 900e6, noNaN: true }),
        fc.double({ min: 0.2e6, max: 60e6, noNaN: true }),
        fc.constantFrom(9e3, 120e3, 1e6),
        fc.constantFrom(1e6, 4e6, 20e6),
        (fromHz, wide, bandwidth6Hz, sampleRateHz) => {
          // What lies too far below the lowest tuning is refused, as the next test has it.
          if (bandwidth6Hz > sampleRateHz / 16 || fromHz < receiver.tunes.fromHz - 0.35 * sampleRateHz)
            return;
          const plan = planScan(range({ fromHz, toHz: fromHz + wide, bandwidth6Hz }), {
            ...receiver,
            sampleRateHz,
          });
          let next = 0;
          for (const { centreHz, task } of plan.steps) {
            if (task.does !== 'band') throw new Error('no band');
            const low = task.request.centreHz - task.request.spanHz / 2;
            const high = task.request.centreHz + task.request.spanHz / 2;
            const first = Math.ceil((low - plan.startHz) / plan.stepHz - 1e-6);
            const last = Math.floor((high - plan.startHz) / plan.stepHz + 1e-6);
            expect(first + 0).toBe(next);
            next = last + 1;
            expect(centreHz).toBeGreaterThanOrEqual(receiver.tunes.fromHz);
            expect(Math.max(Math.abs(low - centreHz), Math.abs(high - centreHz))).toBeLessThanOrEqual(
              0.4 * sampleRateHz,
            );
            // A line lies on the grid of the range: the centre is a whole number of lines away.
            const off = (centreHz - plan.startHz) / plan.stepHz;
            expect(Math.abs(off - Math.round(off))).toBeLessThan(1e-5);
            if (centreHz > receiver.tunes.fromHz + plan.stepHz)
              expect(low > centreHz || high < centreHz).toBe(true);
          }
          expect(next).toBe(plan.lines);
        },
      ),
      { numRuns: 60 },
    );
  });
  test('refuses what cannot be had, with what can', () => {
    expect(() => planScan(range({ fromHz: 9e9, toHz: 10e9 }), receiver)).toThrow('does not reach');
    expect(() => planScan(range({ fromHz: 88e6, toHz: 30e6 }), receiver)).toThrow('end above its begin');
    expect(() =>
      planScan(range({ fromHz: 1e6, toHz: 5.9e9, bandwidth6Hz: 9e3 }), { ...receiver, sampleRateHz: 1e6 }),
    ).toThrow('steps');
    expect(() => planScan(range({ bandwidth6Hz: 1e6 }), { ...receiver, sampleRateHz: 1e6 })).toThrow(
      'wider than',
    );
    // A recording has its own band only.
    expect(() => planScan(range({}), { ...receiver, tunes: null })).toThrow('own band');
    expect(
      planScan(range({ fromHz: 867.2e6, toHz: 868.5e6 }), { ...receiver, tunes: null }).steps[0].centreHz,
    ).toBe(868e6);
  });
  test('a tone reads its level in whatever step it lies, and at −6 dB half a bandwidth away', () => {
    const plan = planScan(range({ fromHz: 30e6, toHz: 34e6 }), receiver);
    const record = new ScanRecord(plan);
    const toneHz = 32.4e6;
    for (const { centreHz, task } of plan.steps) {
      const iq = sum(tone(120_000, 4e6, toneHz - centreHz, -50), noise(120_000, 4e6, -160, 3));
      const got = new Gatherer(task, { centreHz, sampleRateHz: 4e6 }).push(iq, 0, false);
      record.put(got as GatheredBand & { overload: boolean });
    }
    expect(record.rms.some((v) => Number.isNaN(v))).toBe(false);
    const at = (hz: number) => record.rms[Math.round((hz - record.startHz) / record.stepHz)];
    expect(Math.max(...record.rms)).toBeCloseTo(-50, 0);
    expect(at(toneHz) - at(toneHz + 60e3)).toBeGreaterThan(4);
    expect(at(toneHz) - at(toneHz + 60e3)).toBeLessThan(8);
  });
});

describe('suspects', () => {
  const line = (peaks: [number, number][], startHz = 1e6, stepHz = 5e3) => {
    const levels = Float32Array.from({ length: 800 }, (_, l) =>
      peaks.reduce(
        (top, [hz, level]) => Math.max(top, level - ((startHz + l * stepHz - hz) / 6e3) ** 2 * 3),
        20 + Math.sin(l),
      ),
    );
    return { startHz, stepHz, levels, bandwidth6Hz: 9e3 };
  };
  const found = (peaks: [number, number][], margin = 6) => suspectsOf([line(peaks)], [qp], margin);
  test('what passes the limit or comes within the margin, farthest over first; the rest is none', () => {
    const got = found([[2e6, 57], [3e6, 51], [4e6, 49]]); // prettier-ignore
    expect(got.map((f) => Math.round(f.hz / 1e4) / 100)).toEqual([2, 3]);
    expect(got[0].over).toBeCloseTo(1, 0);
    expect(found([[3e6, 51]], 4)).toEqual([]);
  });
  test('two peaks nearer than the bandwidth are one; noise is none; without limits there is none', () => {
    expect(found([[2e6, 57], [2.006e6, 56]])).toHaveLength(1); // prettier-ignore
    expect(suspectsOf([line([])], [{ ...qp, points: [{ hz: 1e5, level: 21 }, { hz: 1e8, level: 21 }] }], 6)).toEqual([]); // prettier-ignore
    expect(suspectsOf([line([[2e6, 90]])], [], 6)).toEqual([]);
  });
  test('of ranges that overlap, the same place is one', () => {
    expect(suspectsOf([line([[2e6, 57]]), line([[2e6, 57]], 1.5e6)], [qp], 6)).toHaveLength(1);
  });
  test('what stands in the ambient is recognised, what is much weaker there is not', () => {
    const ambient = [line([[2.004e6, 53], [3e6, 40]])]; // prettier-ignore
    expect(isAmbient(ambient, { hz: 2e6, level: 57 })).toBe(true);
    expect(isAmbient(ambient, { hz: 3e6, level: 51 })).toBe(false);
    expect(levelNear(ambient, 9e9)).toBe(-Infinity);
  });
});

describe('the picture', () => {
  test('ticks are decades with 2 and 5, and all where few fit', () => {
    const major = (a: number, b: number) => logTicks(a, b, 3).filter((t) => t.major).map((t) => tickText(t.hz)); // prettier-ignore
    expect(major(150e3, 1e9)).toEqual([
      '200 k',
      '500 k',
      '1',
      '2',
      '5',
      '10',
      '20',
      '50',
      '100',
      '200',
      '500',
      '1000',
    ]);
    expect(major(2.5e6, 4.5e6)).toEqual(['3', '4']);
  });
  test('every reading is in some column, and none is lost between them', () => {
    const levels = Float32Array.from({ length: 5000 }, (_, l) => (l === 3333 ? 70 : Math.sin(l)));
    const c = columnsOf({ startHz: 1e6, stepHz: 1e4, levels }, 1e6, 1e8, 300);
    expect(Math.max(...c.filter(Number.isFinite))).toBe(70);
    expect(Math.min(...c.filter(Number.isFinite))).toBeCloseTo(-1, 2);
  });
  test('corners of a limit are cut to the picture', () => {
    expect(limitCorners(qp, 300e3, 10e6).map((p) => Math.round(p.level))).toEqual([60, 56, 56, 60, 60]);
  });
});
