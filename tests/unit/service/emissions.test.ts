import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import Papa from 'papaparse';
import { decodeLines, encodeLines, EMISSION_DEFAULTS, EMISSIONS, RANGE } from '$contract/radio-emissions';
import { sentenceText } from '$core/sentence/sentence';
import { emissionCsv, emissionPdf } from '$service/radio/emission-pdf';
import { corrections, limitSets } from '$service/radio/shelf';
import { RX, RadioBench, soon } from './radio-bench';

const CONDUCTED = { from: 0.15, to: 1, resolving: 9, detector: 'peak' as const, dwell: 20, gain: null, through: [] as string[] }; // prettier-ignore
const FIELD = { ...CONDUCTED, from: 94, to: 103, resolving: 120, through: ['pier cable', 'bow antenna'] };
const limit = (rows: [number, number][]) => rows.map(([mhz, level]) => ({ hz: mhz * 1e6, level }));

let bench: RadioBench;
beforeEach(() => {
  bench = new RadioBench(4, 20);
  const { app } = bench;
  bench.hand('input', 3);
  corrections(app).put({ name: 'pier cable', kind: 'cable loss', expanded: 0.3, points: [{ hz: 1e8, db: 1 }] }, 'x'); // prettier-ignore
  corrections(app).put({ name: 'bow antenna', kind: 'antenna factor', expanded: 1.6, points: [{ hz: 1e8, db: 14 }] }, 'x'); // prettier-ignore
  limitSets(app).put(
    {
      name: 'cabinet',
      lines: [
        { detector: 'quasi-peak', points: limit([[0.15, 66], [0.5, 56], [30, 56]]) }, // prettier-ignore
        { detector: 'average', points: limit([[0.15, 56], [0.5, 46], [30, 46]]) }, // prettier-ignore
        { detector: 'quasi-peak', points: limit([[30, 40], [1000, 40]]) }, // prettier-ignore
      ],
    },
    'x',
  );
  emissions().change(RX, {
    device: 'the pitch drive',
    limits: 'cabinet',
    ranges: [CONDUCTED, FIELD],
    seeking: 0.2,
  });
});
afterEach(() => bench.close());

const emissions = () => bench.desk.emissions;
const view = () => emissions().views()[0];
const idle = async () => {
  while (view().running) await soon();
};
const look = async (ambient = false) => {
  emissions().look(RX, ambient, 'tester');
  await idle();
  return emissions().runs().at(-1)!;
};
const near = (mhz: number) => (s: { hz: number }) => Math.abs(s.hz - mhz * 1e6) < 0.1e6;

describe('a look', () => {
  test('from nothing to suspects that are measured: levels as the cabinet gives them, through its tables', async () => {
    bench.hand('drive', 0);
    const ambient = await look(true);
    expect(ambient).toMatchObject({ ambient: true, number: 1, partly: false, unit: ['dBµV', 'dBµV/m'] });
    bench.hand('drive', 1);
    const run = await look();
    expect(run.number).toBe(2);
    // 57.5 dBµV at 178 kHz against 54.5 for the average there; 28 dBµV, 1 dB of cable and 14 dB/m at 96 MHz.
    const supply = run.suspects.find(near(0.178))!;
    const clock = run.suspects.find(near(96))!;
    expect(supply.level).toBeGreaterThan(57);
    expect(supply.level).toBeLessThan(59);
    expect(supply).toMatchObject({ limitOf: 'average', ambient: false });
    expect(clock.level).toBeGreaterThan(42.5);
    expect(clock.level).toBeLessThan(44.5);
    // What was there without the drive stays in the list and is marked.
    expect(run.suspects.find(near(101.34))).toMatchObject({ ambient: true });
    expect(run.suspects.filter((s) => !s.ambient)).toHaveLength(2);

    emissions().measure(run.id, RX, []);
    await idle();
    const after = emissions().runs().at(-1)!;
    expect(after.suspects.every((s) => s.measured !== null)).toBe(true);
    const steady = after.suspects.find(near(0.178))!;
    for (const key of ['peak', 'quasiPeak', 'average'] as const)
      expect(Math.abs(steady.measured![key]! - 57.75)).toBeLessThan(1.2);
    expect(steady.measured!.hz).toBeCloseTo(178e3, -4);
    expect(steady.room).toBeCloseTo(steady.limit - steady.measured!.average, 6);
    const keyed = after.suspects.find(near(96))!.measured!;
    expect(Math.abs(keyed.peak - 43.25)).toBeLessThan(1.2);
    expect(keyed.quasiPeak!).toBeLessThan(keyed.peak);
    // On for 0.4 of the time and at 0.12 of its height for the rest.
    expect(keyed.average - keyed.peak).toBeGreaterThan(20 * Math.log10(0.4 + 0.6 * 0.12) - 1.6);
    expect(keyed.average - keyed.peak).toBeLessThan(20 * Math.log10(0.4 + 0.6 * 0.12) + 0.6);
    // The receiver is back where it was tuned.
    expect(bench.unit.describe().receiver!.centreHz).toBe(868e6);
  });

  test('± has the receiver and the tables, and a table that is corrected later leaves what was read', async () => {
    const run = await look();
    const [conducted, field] = run.expanded;
    expect(conducted).toBeCloseTo((2 * Math.hypot(0.5, 0.4)) / Math.sqrt(3), 1);
    expect(field).toBeCloseTo(Math.hypot(conducted, 0.3, 1.6), 6);
    const before = decodeLines(emissions().lines(run.id));
    corrections(bench.app).put(
      { name: 'pier cable', kind: 'cable loss', points: [{ hz: 1e8, db: 40 }] },
      'x',
    );
    expect(decodeLines(emissions().lines(run.id))).toEqual(before);
    expect(before.map((l) => l.range)).toEqual([0, 1]);
    expect(before[1].levels.every(Number.isFinite)).toBe(true);
  });

  test('stopped, what was looked at stays and is said to be no whole look', async () => {
    emissions().change(RX, { ranges: [{ ...FIELD, from: 30, to: 230 }] });
    emissions().look(RX, false, 'tester');
    expect(() => emissions().look(RX, false, 'tester')).toThrow('being measured');
    expect(() => emissions().change(RX, { margin: 3 })).toThrow('being measured');
    while (view().running!.share < 0.1) await soon();
    // A page that opens now sees what there is.
    const half = decodeLines(emissions().lines(view().running!.runId));
    expect(half[0].levels.some(Number.isFinite) && half[0].levels.some(Number.isNaN)).toBe(true);
    emissions().stop(RX);
    await idle();
    expect(view().says).toBe('Stopped: what was looked at stays.');
    expect(emissions().runs()).toMatchObject([{ partly: true }]);
  });

  test('notes, what is ambient, pictures, and taking away', async () => {
    const run = await look();
    const { id } = run.suspects[0];
    emissions().note(run.id, id, { note: 'gone with the door closed', ambient: true });
    expect(emissions().runs()[0].suspects[0]).toMatchObject({
      note: 'gone with the door closed',
      ambient: true,
    });
    expect(() => emissions().note(run.id, 999, {})).toThrow();
    const png = Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==', 'base64'); // prettier-ignore
    expect(() => emissions().addPicture(run.id, Buffer.from('no picture'))).toThrow('PNG');
    expect(emissions().addPicture(run.id, png).pictures).toHaveLength(1);
    const pdf = await emissionPdf(bench.app, run.id);
    expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
    expect(emissions().dropPicture(run.id, 0).pictures).toEqual([]);
    emissions().drop(run.id, 'tester');
    expect(emissions().runs()).toEqual([]);
    expect(() => emissions().lines(run.id)).toThrow();
  });

  test('readings go to a sheet as they were read; a note is no formula', async () => {
    const run = await look();
    emissions().measure(run.id, RX, [run.suspects[0].id]);
    await idle();
    emissions().note(run.id, run.suspects[0].id, { note: '=1+1' });
    const { data } = Papa.parse<Record<string, string>>(emissionCsv(bench.app, run.id).trim(), {
      header: true,
    });
    const [first] = emissions().runs()[0].suspects;
    expect(data).toHaveLength(run.suspects.length);
    expect(Number(data[0]['quasi-peak'])).toBeCloseTo(first.measured!.quasiPeak!, 2);
    expect(Number(data[0]['room (dB)'])).toBeCloseTo(first.room, 2);
    expect(data[0].note).toBe("'=1+1");
    expect(data[1].average).toBe('');
  });

  test('what cannot be looked at says so before it begins', async () => {
    const fault = (ranges: object[]) => {
      emissions().change(RX, { ranges: ranges as never });
      return view().fault;
    };
    expect(fault([{ ...FIELD, from: 6100, to: 6900 }])).toContain('does not reach');
    expect(fault([{ ...FIELD, through: ['a cable that is gone'] }])).toContain('not kept any more');
    corrections(bench.app).put({ name: 'probe', kind: 'current probe', points: [{ hz: 1e6, db: 0 }] }, 'x');
    expect(fault([{ ...FIELD, through: ['probe', 'bow antenna'] }])).toContain('cannot both');
    expect(() => emissions().look(RX, false, 'x')).toThrow('cannot both');
    expect(fault([{ ...FIELD, from: 103, to: 94 }])).toContain('end above its begin');
    expect(fault([FIELD])).toBe('');
    emissions().change(RX, { limits: null });
    expect((await look()).suspects).toEqual([]);
  });

  test('gain of a range is set for it and taken back', async () => {
    emissions().change(RX, { ranges: [{ ...FIELD, gain: 0 }] });
    emissions().look(RX, false, 'tester');
    await soon();
    expect(bench.unit.describe().receiver!.gainDb).toBe(0);
    await idle();
    expect(bench.unit.describe().receiver!.gainDb).toBe(30);
    // Below 0 dB it is an attenuation, and what is read stays what it is.
    emissions().change(RX, { ranges: [{ ...FIELD, gain: -10 }] });
    expect(sentenceText(RANGE, { ...FIELD, gain: -10 })).toContain('attenuated by a gain of −10 dB');
    expect(() => emissions().change(RX, { ranges: [{ ...FIELD, gain: -41 }] })).toThrow(/−40 dB/);
    emissions().look(RX, false, 'tester');
    await soon();
    expect(bench.unit.describe().receiver!.gainDb).toBe(-10);
    await idle();
    expect(bench.unit.describe().receiver!.gainDb).toBe(30);
  });
});

describe('what is said and sent', () => {
  test('sentences', () => {
    expect(sentenceText(EMISSIONS, EMISSION_DEFAULTS)).toBe(
      'Look in 7 ranges against no limits; suspects within 6 dB of the limit are sought for 0.5 s up to 1 times the bandwidth away, then measured with peak, quasi-peak and average for 1 s each.',
    );
    expect(sentenceText(RANGE, FIELD)).toBe(
      '94 MHz to 103 MHz resolving 120 kHz, peak, 20 ms a step, gain as it stands, through pier cable, bow antenna.',
    );
  });
  test('lines come back as they were', () => {
    const lines = [
      { range: 0, startHz: 1, stepHz: 2, levels: Float32Array.of(1, NaN, 3) },
      { range: 1, startHz: 4, stepHz: 5, levels: new Float32Array(0) },
    ];
    expect(decodeLines(encodeLines(lines))).toEqual(lines);
  });
});
