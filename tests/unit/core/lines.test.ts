import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { atPointer, numberOf, proposeSplit, proposeSplits, splitLine } from '$core/lines/split';
import { decodeTeds, encodeTeds, joinPages, type Teds } from '$core/teds/teds';
import { TEMPLATES } from '$core/teds/templates';

describe('lines of text', () => {
  test.each([
    [['12.5, 7, ok', '12.6, 8, ok'], 'by a separator', ['1', '2']],
    [['T=12.5;P=1013', 'T=12.6;P=1014'], 'as key=value', ['T', 'P']],
    [['{"air":{"t":21.5},"n":3}', '{"air":{"t":21.6},"n":4}'], 'as JSON', ['/air/t', '/n']],
    [['$WIND 4.2 180', '$WIND 4.3 182'], 'after a prefix', ['1', '2']],
    [['1,5;2,5;3,5', '1,6;2,6;3,6'], 'by a separator', ['1', '2', '3']],
  ])('the assistant takes %j apart', (lines, how, fields) => {
    const proposal = proposeSplit(lines)!;
    expect(proposal.split.how).toBe(how);
    expect(proposal.fields.map((f) => f.field)).toEqual(fields);
  });
  test('one bad line among good ones does not change the proposal; lines without a number give none', () => {
    expect(proposeSplit(['a=1 b=2', 'boot v1', 'a=2 b=3', 'a=3 b=4'])!.share).toBe(0.75);
    expect(proposeSplit(['hello', 'world'])).toBeNull();
  });
  test('a number with its unit, a comma as decimal sign, none, and absurd ones', () => {
    expect(['23.4 °C', '2,05', '-1e3', 'n/a', '1e999', 'NaN', 'Infinity'].map(numberOf)).toEqual([
      23.4,
      2.05,
      -1000,
      null,
      null,
      null,
      null,
    ]);
  });
  test('whatever arrives is split or passed over, also a megabyte', () => {
    const how = fc.constantFrom(
      'by a separator' as const,
      'as key=value' as const,
      'as JSON' as const,
      'after a prefix' as const,
    );
    fc.assert(
      fc.property(how, fc.string(), fc.string({ maxLength: 2 }), (h, line, separator) => {
        const fields = splitLine({ how: h, separator, prefix: '' }, line);
        expect(fields === null || fields.size > 0).toBe(true);
      }),
    );
    expect(splitLine({ how: 'by a separator', separator: ',', prefix: '' }, 'x,'.repeat(500_000))).toBeNull();
    expect(
      splitLine({ how: 'as JSON', separator: '', prefix: '' }, '['.repeat(30_000) + ']'.repeat(30_000)),
    ).toBeNull();
  });
  test('JSON pointers as in RFC 6901, section 5', () => {
    const doc = { foo: ['bar', 'baz'], '': 0, 'a/b': 1, 'm~n': 8 };
    expect(
      ['', '/foo/0', '/', '/a~1b', '/m~0n', '/nope', 'x', '/foo/length'].map((p) => atPointer(doc, p)),
    ).toEqual([doc, 'bar', 0, 1, 8, undefined, undefined, undefined]);
  });
});

const CHIP: Teds = {
  basic: { maker: 4242, model: 31, versionLetter: 'B', versionNumber: 3, serial: 771 },
  template: { id: 25, title: TEMPLATES[0].title },
  values: {
    sensitivity: 0.0102,
    polarity: 'negative',
    direction: 'z',
    calibratedOn: '2026-03-14',
    calibratedBy: 'QHB',
    calibrationDays: 365,
    location: 7,
  },
  table: [],
};

describe('a smart sensor’s chip', () => {
  test('the basic part: 14 + 15 + 5 + 6 + 24 bits, lowest bit first', () => {
    // maker 1, model 1, letter A, number 1, serial 1: ones at bits 0, 14, 29, 34 and 40.
    const bytes = new Uint8Array(9);
    for (const bit of [0, 14, 29, 34, 40]) bytes[bit >> 3] |= 1 << (bit & 7);
    bytes[8] = 3; // the end
    expect(decodeTeds(bytes)).toEqual({
      basic: { maker: 1, model: 1, versionLetter: 'A', versionNumber: 1, serial: 1 },
      template: null,
      values: {},
      table: [],
    });
  });
  test('every template gives back what was written, within its resolution', () => {
    for (const template of TEMPLATES) {
      const values = Object.fromEntries(
        template.fields.map((f) => [
          f.key,
          f.code === 'choice'
            ? f.choices[1]
            : f.code === 'letters'
              ? 'ABC'
              : f.code === 'date'
                ? '2025-11-02'
                : f.code === 'ratio'
                  ? f.start * 3
                  : f.code === 'steps'
                    ? f.start + 10 * f.step
                    : f.code === 'single'
                      ? -2.5
                      : 5,
        ]),
      );
      const back = decodeTeds(encodeTeds({ ...CHIP, template: { id: template.id, title: '' }, values }));
      for (const field of template.fields) {
        const [got, put] = [back.values[field.key], values[field.key]];
        if (field.code === 'ratio')
          expect(Math.abs((got as number) / (put as number) - 1)).toBeLessThanOrEqual(field.tolerance * 1.01);
        else expect(got, field.label).toEqual(put);
      }
    }
  });
  test('values that are not given are null; a calibration table follows its template', () => {
    const back = decodeTeds(
      encodeTeds({
        ...CHIP,
        template: { id: 33, title: '' },
        values: {},
        table: [
          { electrical: 0, physical: 0 },
          { electrical: 0.5, physical: 0.49 },
          { electrical: 1, physical: 1 },
        ],
      }),
    );
    expect([back.values.supply, back.values.calibratedOn, back.values.physicalMax]).toEqual([
      null,
      null,
      null,
    ]);
    expect(back.table.map((p) => Number(p.physical.toFixed(3)))).toEqual([0, 0.49, 1]);
  });
  test('blank, cut off, of an unknown template, with a wrong checksum: refused with the place', () => {
    expect(() => decodeTeds(new Uint8Array(32).fill(255))).toThrow(/blank/);
    expect(() => decodeTeds(encodeTeds(CHIP).subarray(0, 14))).toThrow(/ends within “/);
    const unknown = encodeTeds(CHIP);
    unknown[8] = (unknown[8] & 3) | (99 << 2);
    expect(() => decodeTeds(unknown)).toThrow(/template (99|35)/);
    const page = new Uint8Array(32).fill(1);
    expect(() => joinPages(page)).toThrow(/checksum of page 1/);
    page[0] = 256 - 31;
    expect(joinPages(page)).toEqual(new Uint8Array(31).fill(1));
  });
  test('any bits are decoded or refused as damaged', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 80 }), (bytes) => {
        try {
          expect(decodeTeds(bytes).basic.serial).toBeLessThan(2 ** 24);
        } catch (error) {
          expect((error as { code?: string }).code).toBe('damaged');
        }
      }),
    );
  });
});

describe('ways of taking lines apart are told with what they read', () => {
  test('a bare number a line is one field, and no document', () => {
    const [best, ...others] = proposeSplits(['23.4', '23.5', '23.4']);
    expect(best.split.how).toBe('by a separator');
    expect(best.rows).toEqual([[23.4], [23.5], [23.4]]);
    expect(others.every((o) => o.split.how !== 'as JSON')).toBe(true);
  });
  test('“26,6;7” is 26.6 and 7: what leaves half a number behind fits worse', () => {
    const [best] = proposeSplits(['26,6;7', '26,7;8', '26,5;7']);
    expect(best.split.separator).toBe(';');
    expect(best.rows[0]).toEqual([26.6, 7]);
  });
  test('only the last twenty lines count: a device that speaks another way since is read as it speaks now', () => {
    const lines = [
      ...Array.from({ length: 40 }, () => 'T=1 P=2'),
      ...Array.from({ length: 20 }, () => '5;6;7'),
    ];
    expect(proposeSplits(lines)[0].rows[0]).toEqual([5, 6, 7]);
  });
  test('each choice reads something else, and the first is what is proposed', () => {
    const lines = ['a=1,b=2', 'a=3,b=4'];
    const all = proposeSplits(lines);
    expect(new Set(all.map((p) => JSON.stringify(p.rows))).size).toBe(all.length);
    expect(proposeSplit(lines)!.split).toEqual(all[0].split);
    expect(proposeSplits(['no number here'])).toEqual([]);
  });
});
