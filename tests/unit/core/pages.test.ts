import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Figure } from '$core/figures/figure';
import { paintAxes } from '$core/figures/paper-axes';
import { Sheet, svgOf, type Faces } from '$core/pages/sheet';
import { drawTable } from '$core/pages/table';
import { cutTo, setLines, type Measure, type Piece } from '$core/pages/text';
import { parseWords, readWords, writeWords, type WrittenParagraph } from '$core/pages/words';
import { PAPER_INK } from '$contract/palette';

// Every letter half as wide as it is high: lines can be reckoned by hand.
const measure: Measure = (text, { size, raised }) => [...text].length * size * (raised ? 0.34 : 0.5);
const faces: Faces = { measure, runs: (text) => [{ text }] };
const plain = { size: 10 };
const pieces = (text: string): Piece[] => [{ text, face: plain }];
const lineText = (lines: ReturnType<typeof setLines>) =>
  lines.map((l) => l.pieces.map((p) => p.text).join(''));
const textsOf = (svg: string) => [...svg.matchAll(/<text[^>]*>(.*?)<\/text>/g)].map((m) => m[1]);

describe('words in lines', () => {
  test('break at blanks where the next word would not fit, and at line ends', () => {
    // 12 letters of 5 points each go into 60.
    expect(lineText(setLines(pieces('one two three four'), 60, measure))).toEqual(['one two', 'three four']);
    expect(lineText(setLines(pieces('one two three four'), 40, measure))).toEqual([
      'one two',
      'three',
      'four',
    ]);
    expect(lineText(setLines(pieces('one\n\ntwo'), 100, measure))).toEqual(['one', '', 'two']);
    expect(lineText(setLines(pieces(''), 100, measure))).toEqual(['']);
  });
  test('what is longer than a line by itself is broken within; nothing gets lost', () => {
    expect(lineText(setLines(pieces('incomprehensible'), 30, measure))).toEqual(['incomp', 'rehens', 'ible']);
    const words = fc.array(fc.string({ minLength: 1, maxLength: 14, unit: fc.constantFrom('a', 'b', 'µ', '…', '7') }), { maxLength: 20 }); // prettier-ignore
    fc.assert(
      fc.property(words, fc.integer({ min: 1, max: 30 }), (list, letters) => {
        const lines = setLines(pieces(list.join(' ')), letters * 5, measure);
        for (const line of lines) {
          expect(line.width).toBeLessThanOrEqual(letters * 5 + 1e-9);
          for (const p of line.pieces) expect(p.x + p.width).toBeLessThanOrEqual(line.width + 1e-9);
        }
        expect(lineText(lines).join('').replaceAll(' ', '')).toBe(list.join(''));
      }),
    );
  });
  test('pieces of other faces go on where the ones before end, without a blank between', () => {
    const bold = { size: 10, bold: true };
    const [line] = setLines([{ text: 'a', face: plain }, { text: 'bc', face: bold }, { text: ' d', face: plain }], 500, measure); // prettier-ignore
    expect(line.pieces.map((p) => [p.text, p.x, p.face.bold ?? false])).toEqual([['a', 0, false], ['bc', 5, true], ['d', 20, false]]); // prettier-ignore
  });
  test('a text is cut with a sign that it goes on, and never wider than there is room', () => {
    expect(cutTo('Harrow Quay', plain, 200, measure)).toBe('Harrow Quay');
    expect(cutTo('Harrow Quay', plain, 42, measure)).toBe('Harrow…');
    expect(cutTo('Harrow Quay', plain, 3, measure)).toBe('');
    fc.assert(
      fc.property(fc.string({ maxLength: 40 }), fc.integer({ min: 0, max: 150 }), (text, width) => {
        const cut = cutTo(text, plain, width, measure);
        expect(measure(cut, plain)).toBeLessThanOrEqual(Math.max(width, 0));
        if (cut !== text && cut) expect(text.startsWith(cut.slice(0, -1))).toBe(true);
      }),
    );
  });
});

describe('marked words', () => {
  const values: Record<string, string> = { take: 'BW2-B-3', 'Blade set': 'B' };
  const read = (text: string) => readWords(text, (name) => values[name] ?? null);
  test('headings, items, bold, above and below the line, values by their names', () => {
    expect(read('# Spin-up of {take}\n- 3 m^2^ of **blade {Blade set}**\nH~2~O')).toEqual([
      { kind: 'heading', runs: [{ text: 'Spin-up of ' }, { text: 'BW2-B-3', live: 'known' }] },
      {
        kind: 'item',
        runs: [{ text: '3 m' }, { text: '2', raised: 'above' }, { text: ' of ' }, { text: 'blade ', bold: true }, { text: 'B', live: 'known', bold: true }], // prettier-ignore
      },
      { kind: 'text', runs: [{ text: 'H' }, { text: '2', raised: 'below' }, { text: 'O' }] },
    ]);
  });
  test('a value that there is not is named; marks that are not closed are letters', () => {
    expect(read('of {Rotor}')[0].runs[1]).toEqual({ text: 'Rotor?', live: 'unknown' });
    expect(read('2 ** 3 ^ 4 {} - # x')[0]).toEqual({ kind: 'text', runs: [{ text: '2 ** 3 ^ 4 {} - # x' }] });
  });
  test('no text is lost or made up, whatever is typed', () => {
    fc.assert(
      fc.property(
        fc.string({
          unit: fc.constantFrom('a', ' ', '*', '^', '~', '{', '}', '#', '-', '\n'),
          maxLength: 60,
        }),
        (text) => {
          // prettier-ignore
          const letters = (s: string) => [...s].filter((c) => c === 'a').length;
          const out = readWords(text, () => null).flatMap((p) => p.runs.map((r) => r.text)).join(''); // prettier-ignore
          expect(letters(out)).toBe(letters(text));
          expect(readWords(text, () => null)).toHaveLength(text.split('\n').length);
        },
      ),
    );
  });
  test('what is written is read as the same words, marks, values and kinds, whatever signs the words have', () => {
    const text = fc.string({ unit: fc.constantFrom('a', 'µ', ' ', '*', '^', '~', '{', '}', '#', '-', '\\\\', '\u2028'), minLength: 1, maxLength: 12 }); // prettier-ignore
    const raised = fc.constantFrom(undefined, 'above' as const, 'below' as const);
    const run = fc.oneof(
      fc.record({ text, bold: fc.boolean(), raised }),
      fc.record({ value: fc.constantFrom('take', 'Blade set', 'µ, mean'), bold: fc.boolean() }),
    );
    const kind = fc.constantFrom('heading', 'subheading', 'item', 'text');
    /** Letters one by one, each with its marks: how runs are cut does not matter. */
    const letters = (of: WrittenParagraph[]) =>
      of.map(({ kind, runs }) => {
        const each = runs.flatMap(({ text = '', value, bold, raised }) => (value === undefined ? [...text].map((c) => `${c} ${bold ?? false} ${raised ?? ''}`) : [`{${value}} ${bold ?? false}`])); // prettier-ignore
        // Before the first letter of a head or an item blanks mean nothing.
        while (kind !== 'text' && /^\s /.test(each[0] ?? '')) each.shift();
        return { kind, each };
      });
    fc.assert(
      fc.property(
        fc.array(fc.record({ kind, runs: fc.array(run, { maxLength: 5 }) }), { minLength: 1, maxLength: 4 }),
        (paragraphs) => {
          // A head without words is no head.
          const whole = paragraphs.map((p) => (letters([p as WrittenParagraph])[0].each.length ? p : { ...p, kind: 'text', runs: [] })) as WrittenParagraph[]; // prettier-ignore
          expect(letters(parseWords(writeWords(whole)))).toEqual(letters(whole));
        },
      ),
      { numRuns: 500 },
    );
  });
  test('a value is not read as marks again', () => {
    const [{ runs }] = readWords('{x}', () => '**bold** {x}');
    expect(runs).toEqual([{ text: '**bold** {x}', live: 'known' }]);
  });
});

describe('a table on paper', () => {
  const columns = [
    { label: 'Channel', numeric: false },
    { label: 'Mean', unit: 'kN', numeric: true },
  ];
  const rows = Array.from({ length: 10 }, (_, i) => [`Gauge number ${i}`, i + 0.5]);
  const draw = (width: number, height: number, most?: number) => {
    const sheet = new Sheet(width, height, PAPER_INK, faces);
    drawTable(sheet, columns, rows, { most });
    return { sheet, texts: textsOf(svgOf(sheet.content, width, height)) };
  };
  test('has heads with units and every row where there is room', () => {
    const { sheet, texts } = draw(300, 400);
    expect(texts.slice(0, 4)).toEqual(['Channel', 'Mean, kN', 'Gauge number 0', '0.5000']);
    expect(texts).toHaveLength(22);
    expect(sheet.faults).toEqual([]);
  });
  test('says how many rows it leaves out, on the page and as a fault; a wish for fewer is none', () => {
    const { sheet, texts } = draw(300, 14 * 5);
    expect(texts.at(-1)).toBe('and 7 more');
    expect(sheet.faults).toEqual(['7 of 10 rows do not fit: make it higher.']);
    const few = draw(300, 400, 4);
    expect(few.texts.at(-1)).toBe('and 6 more');
    expect(few.sheet.faults).toEqual([]);
  });
  test('numbers are never cut: words give way first, then whole columns with a fault', () => {
    const narrow = draw(90, 400);
    expect(narrow.texts).toContain('0.5000');
    expect(narrow.texts.some((t) => t.startsWith('Gau') && t.endsWith('…'))).toBe(true);
    const { sheet, texts } = draw(50, 400);
    expect(texts).not.toContain('Mean, kN');
    expect(sheet.faults[0]).toContain('1 of 2 columns');
  });
  test('what stands on the page is text, never code', () => {
    const sheet = new Sheet(200, 200, PAPER_INK, faces);
    drawTable(sheet, [{ label: '<script>', numeric: false }], [['"a" & <b>']]);
    expect(sheet.content).not.toMatch(/<script>|<b>/);
    expect(sheet.content).toContain('&lt;script&gt;');
    expect(sheet.content).toContain('&quot;a&quot; &amp; &lt;b&gt;');
  });
});

describe('curves with an upright axis each', () => {
  const figure = (name: string, unit: string, colour: number, scale: number): Figure => ({
    title: name,
    x: { label: 'Time', unit: 's', scale: 'linear' },
    y: { label: name, unit, scale: 'linear' },
    marks: [{ mark: 'line', name, unit, colour, x: { from: 0, step: 1, length: 11 }, y: Float64Array.from({ length: 11 }, (_, i) => i * scale) }], // prettier-ignore
  });
  const three = [
    figure('Speed', 'rpm', 0, 2),
    figure('Torque', 'kN·m', 1, 0.4),
    figure('Power', 'kW', 2, 800),
  ];
  const uprightLines = (svg: string) =>
    [...svg.matchAll(/<line x1="([\d.]+)" y1="([\d.]+)" x2="([\d.]+)" y2="([\d.]+)" stroke="(#\w+)"/g)]
      .map((m) => ({ x1: +m[1], y1: +m[2], x2: +m[3], y2: +m[4], colour: m[5] }))
      .filter((l) => l.x1 === l.x2 && Math.abs(l.y2 - l.y1) > 50);
  const paint = (side: 'left' | 'both', grid = true) =>
    paintAxes(three, PAPER_INK, { width: 500, height: 200 }, [0, 10], { side, grid });
  const axes = (side: 'left' | 'both') =>
    [0, 1, 2].map((k) => uprightLines(paint(side)).find((l) => l.colour === PAPER_INK.trace(k))!.x1);
  test('stand beside each other in the colours of their curves, each with its unit at its head', () => {
    const [a, b, c] = axes('left');
    expect(a).toBeLessThan(b);
    expect(b).toBeLessThan(c);
    for (const unit of ['rpm', 'kN·m', 'kW']) expect(textsOf(paint('left'))).toContain(unit);
  });
  test('or left and right in turn', () => {
    const [a, b, c] = axes('both');
    expect(b).toBeGreaterThan(c);
    expect(a).toBeLessThan(c);
  });
  test('all curves begin and end at the same places: 0 and 10 s', () => {
    const paths = [
      ...paint('left').matchAll(/<path d="M([\d.]+),[\d.]+(?:L[\d.]+,[\d.]+)*L([\d.]+),[\d.]+"/g),
    ];
    expect(paths).toHaveLength(3);
    for (const m of paths) expect([m[1], m[2]]).toEqual([paths[0][1], paths[0][2]]);
  });
  test('lines across belong to the first axis, and can be left out; no place is no number', () => {
    const across = (svg: string) => svg.split(`stroke="${PAPER_INK.line}"`).length - 1;
    expect(across(paint('left'))).toBeGreaterThan(across(paint('left', false)));
    expect(paint('left')).not.toMatch(/NaN|Infinity|undefined/);
    expect(paintAxes([], PAPER_INK, { width: 100, height: 50 }, [0, 1])).toContain('<svg');
  });
});
