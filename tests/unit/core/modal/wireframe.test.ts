import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  directionNumber,
  nodeNumbers,
  readStructure,
  writeFunction,
  writeShape,
  writeStructure,
} from '$core/formats/uff/structure';
import { datasetsOf } from '$core/formats/uff/dataset';
import type { Source } from '$core/formats/format';
import { findingsOf } from '$core/wireframe/check';
import { displaced, motionOf, reachOf } from '$core/wireframe/motion';
import { linesFromText, pointsFromText, surfacesFromText } from '$core/wireframe/text';
import {
  EMPTY_FRAME,
  mirrored,
  placesOf,
  repeated,
  turnedAbout,
  type Vec,
  type Wireframe,
} from '$core/wireframe/wireframe';
import { ACCELEROMETERS, nacelleFrame, TRUE_MODES } from '../../../../demo/structure';

const sourceOf = (text: string): Source => {
  const bytes = new TextEncoder().encode(text);
  return { name: 'frame.unv', length: bytes.length, read: (at, n) => bytes.subarray(at, at + n) };
};
const frameOf = (points: Record<string, Vec>, more: Partial<Wireframe> = {}): Wireframe => ({
  name: 'made',
  ...EMPTY_FRAME,
  points: Object.entries(points).map(([name, at]) => ({ name, part: '', at })),
  ...more,
});
const real = (re: number[]) => ({ re: Float64Array.from(re), im: new Float64Array(re.length) });
const nacelle = nacelleFrame((name) => name);

describe('places', () => {
  test('a part has axes of its own: turned about x, y, z in that order, then moved', () => {
    const frame = frameOf(
      {},
      {
        parts: [{ name: 'wing', at: [10, 0, 0], turn: [90, 0, 90], rigid: false }],
        points: [{ name: 'tip', part: 'wing', at: [1, 2, 0] }],
      },
    );
    // About x by 90°: (1, 2, 0) → (1, 0, 2); about z by 90°: → (0, 1, 2).
    placesOf(frame)
      .get('tip')!
      .forEach((v, k) => expect(v).toBeCloseTo([10, 1, 2][k], 12));
  });

  test('mirrored twice nothing is added; what lies on the plane is not doubled', () => {
    const frame = frameOf({ a: [0, 0, 0], b: [1, 2, 0] }, { lines: [['a', 'b']] });
    const names = new Set(['a', 'b']);
    const once = mirrored(frame, names, 'y', 0);
    expect(once.points.map((p) => p.at)).toEqual([
      [0, 0, 0],
      [1, 2, 0],
      [1, -2, 0],
    ]);
    expect(once.lines).toEqual([
      ['a', 'b'],
      ['a', 'b.2'],
    ]);
    const twice = mirrored(once, new Set(once.points.map((p) => p.name)), 'y', 0);
    expect(twice.points.length).toBe(3);
    expect(twice.lines.length).toBe(2);
  });

  test('one blade turned twice by 120° gives three that are 120° apart', () => {
    const blade = frameOf({ hub: [0, 0, 0], tip: [0, 0, 2] }, { lines: [['hub', 'tip']] });
    const rotor = turnedAbout(blade, new Set(['hub', 'tip']), 2, 'x', 120);
    const tips = rotor.points.slice(1).map((p) => p.at);
    expect(rotor.lines.length).toBe(3);
    for (const [i, j] of [
      [0, 1],
      [1, 2],
      [2, 0],
    ])
      expect(tips[i].reduce((s, v, k) => s + v * tips[j][k], 0)).toBeCloseTo(
        4 * Math.cos((2 * Math.PI) / 3),
        9,
      );
  });

  test('repeated along a step', () => {
    const floor = frameOf({ a: [0, 0, 0], b: [1, 0, 0] }, { lines: [['a', 'b']], surfaces: [] });
    const tower = repeated(floor, new Set(['a', 'b']), 3, [0, 0, 2.5]);
    expect(tower.points.map((p) => p.at[2])).toEqual([0, 0, 2.5, 2.5, 5, 5, 7.5, 7.5]);
    expect(tower.lines.length).toBe(4);
  });
});

describe('motion', () => {
  test('skew sensors give the vector that all of them see', () => {
    const s = Math.SQRT1_2;
    const directions: Vec[] = [
      [1, 0, 0],
      [s, s, 0],
      [0, s, -s],
    ];
    const truth: Vec = [0.3, -0.7, 0.2];
    const frame = frameOf({ p: [0, 0, 0] }, { sensors: directions.map((direction, k) => ({ channel: `c${k}`, point: 'p', direction })) }); // prettier-ignore
    const seen = directions.map((d) => d.reduce((sum, v, k) => sum + v * truth[k], 0));
    const { re } = motionOf(frame, real(seen), ['c0', 'c1', 'c2']);
    truth.forEach((v, k) => expect(re[k]).toBeCloseTo(v, 6));
  });

  test('where no sensor looks, a measured point does not move; a direction of any length is a direction', () => {
    const frame = frameOf(
      { p: [0, 0, 0] },
      { sensors: [{ channel: 'c', point: 'p', direction: [0, -3, 0] }] },
    );
    expect([...motionOf(frame, real([2]), ['c']).re].map((v) => Number(v.toFixed(6)))).toEqual([0, -2, 0]);
  });

  test('between two measured ends of a line the points go straight', () => {
    const frame = frameOf(
      { a: [0, 0, 0], b: [1, 0, 0], c: [3, 0, 0], d: [4, 0, 0] },
      {
        lines: [
          ['a', 'b'],
          ['b', 'c'],
          ['c', 'd'],
        ],
        sensors: [
          { channel: 'x', point: 'a', direction: [0, 0, 1] },
          { channel: 'y', point: 'd', direction: [0, 0, 1] },
        ],
      },
    );
    const { re, known } = motionOf(frame, real([0, 4]), ['x', 'y']);
    [0, 1, 3, 4].forEach((v, i) => expect(re[3 * i + 2]).toBeCloseTo(v, 6));
    expect([...known]).toEqual([2, 1, 1, 2]);
  });

  test('a held point stays, one that follows goes along, one that nothing reaches rests', () => {
    const frame = frameOf(
      { a: [0, 0, 0], b: [1, 0, 0], f: [5, 5, 5], far: [9, 9, 9] },
      {
        sensors: [{ channel: 'x', point: 'b', direction: [1, 0, 0] }],
        held: ['a'],
        follows: [{ point: 'f', as: 'b' }],
      },
    );
    const { re, known } = motionOf(frame, real([2]), ['x']);
    expect([re[0], re[3], re[6], re[9]].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([0, 2, 2, 0]);
    expect([...known]).toEqual([2, 2, 1, 0]);
  });

  test('a rigid part turns as its sensors say: the points between them follow exactly', () => {
    const box: Record<string, Vec> = { a: [-1, 0, 0], b: [1, 0, 0], c: [0, 1, 0], top: [0.3, 0.4, 2] };
    const [go, turn]: Vec[] = [
      [0.1, -0.2, 0.05],
      [0.02, -0.03, 0.04],
    ];
    const at = ([x, y, z]: Vec): Vec => [
      go[0] + turn[1] * z - turn[2] * y,
      go[1] + turn[2] * x - turn[0] * z,
      go[2] + turn[0] * y - turn[1] * x,
    ];
    const axes: Vec[] = [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ];
    const sensors = ['a', 'b', 'c'].flatMap((point) =>
      axes.map((direction, k) => ({ channel: `${point}${k}`, point, direction })),
    );
    const frame: Wireframe = {
      ...frameOf({}),
      parts: [{ name: 'box', at: [0, 0, 0], turn: [0, 0, 0], rigid: true }],
      points: Object.entries(box).map(([name, p]) => ({ name, part: 'box', at: p })),
      sensors,
    };
    const values = ['a', 'b', 'c'].flatMap((p) => [...at(box[p])]);
    const { re } = motionOf(
      frame,
      real(values),
      sensors.map((s) => s.channel),
    );
    at(box.top).forEach((v, k) => expect(re[9 + k]).toBeCloseTo(v, 6));
  });

  test('a quarter turn of phase shows the imaginary part; the reach is that of the ellipse', () => {
    const frame = frameOf(
      { p: [1, 0, 0] },
      {
        sensors: [
          { channel: 'x', point: 'p', direction: [1, 0, 0] },
          { channel: 'y', point: 'p', direction: [0, 1, 0] },
        ],
      },
    );
    const motion = motionOf(frame, { re: Float64Array.of(3, 0), im: Float64Array.of(0, -4) }, ['x', 'y']);
    const places = [...placesOf(frame).values()];
    expect([...displaced(places, motion, 0, 1)].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([4, 0, 0]);
    expect([...displaced(places, motion, Math.PI / 2, 1)].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([
      1, 4, 0,
    ]);
    expect(reachOf(motion)[0]).toBeCloseTo(4, 6);
  });
});

describe('what is wrong with it', () => {
  const channels = new Map(ACCELEROMETERS.map((a) => [a.name, { name: a.name, unit: 'm/s²', moves: true }]));
  const says = (frame: Wireframe, of = channels) =>
    findingsOf(frame, of)
      .map((f) => f.says)
      .join(' ');
  test('nothing about the nacelle', () => expect(findingsOf(nacelle, channels)).toEqual([]));
  test.each<[string, Partial<Wireframe>, RegExp]>([
    ['a doubled name', { points: [...nacelle.points, nacelle.points[0]] }, /Two points are called N1/],
    ['a line into nothing', { lines: [...nacelle.lines, ['N1', 'Z9']] }, /points that are not there: Z9/],
    [
      'a surface into nothing',
      { surfaces: [['N1', 'N2', 'Q']] },
      /Surfaces name points that are not there: Q/,
    ],
    [
      'a channel in two places',
      { sensors: [...nacelle.sensors, { ...nacelle.sensors[0], point: 'N8' }] },
      /Nacelle fore–aft sits in two places/,
    ],
    ['no direction', { sensors: [{ ...nacelle.sensors[0], direction: [0, 0, 0] }] }, /has no direction/],
    [
      'two along one line',
      { sensors: [nacelle.sensors[0], { ...nacelle.sensors[1], direction: [-2, 0, 0] }] },
      /look along the same line at N1/,
    ],
    ['no sensor', { sensors: [] }, /No sensor sits on it yet/],
    [
      'a point alone',
      { points: [...nacelle.points, { name: 'lonely', part: '', at: [9, 9, 9] }] },
      /No line goes to lonely/,
    ],
    [
      'two in one place',
      { points: [...nacelle.points, { name: 'again', part: '', at: [-0.7, -0.3, -0.3] }] },
      /N1 and again/,
    ],
    ['a part that is not there', { parts: [] }, /There is no part nacelle/],
    [
      'a channel that was removed',
      { sensors: [{ channel: 'gone', point: 'N1', direction: [1, 0, 0] }] },
      /not in this job any more/,
    ],
  ])('%s', (_, change, words) => expect(says({ ...nacelle, ...change })).toMatch(words));
  test('a pressure on it, and two units', () => {
    const other = new Map(channels);
    other.set('Nacelle fore–aft', { name: 'Nacelle fore–aft', unit: 'bar', moves: false });
    expect(says(nacelle, other)).toMatch(/Nacelle fore–aft \(bar\) measures no motion/);
    expect(says(nacelle, other)).toMatch(/Its sensors measure in bar, m\/s²/);
  });
});

describe('pasted', () => {
  test('points by tabs, commas, semicolons or blanks, with a heading or none, decimals either way', () => {
    const rows = [
      ['N1', '0.5', '-1', '2'],
      ['N2', '0', '0', '1e-3'],
    ];
    for (const by of ['\t', ', ', ';', '   '])
      for (const heading of ['', ['name', 'x', 'y', 'z'].join(by) + '\n'])
        expect(pointsFromText(heading + rows.map((r) => r.join(by)).join('\n'))).toEqual([
          { name: 'N1', part: '', at: [0.5, -1, 2] },
          { name: 'N2', part: '', at: [0, 0, 0.001] },
        ]);
    expect(pointsFromText('A\t0,5\t1\t2\tnacelle')).toEqual([
      { name: 'A', part: 'nacelle', at: [0.5, 1, 2] },
    ]);
  });
  test('what is wrong is named by its row', () => {
    expect(() => pointsFromText('A 1 2 3\nB 1 x 3')).toThrow(/row 2/);
    expect(() => pointsFromText('')).toThrow(/Paste rows/);
    expect(() => linesFromText('A B\nA Q', new Set(['A', 'B']))).toThrow(/row 2.*no point of that name/s);
    expect(() => surfacesFromText('A B', new Set(['A', 'B']))).toThrow(/three or four/);
  });
  test('a row of several names is a line through them all', () =>
    expect(linesFromText('A B C', new Set('ABC'))).toEqual([
      ['A', 'B'],
      ['B', 'C'],
    ]));
});

describe('universal files', () => {
  test('a wireframe goes out and comes in again: places to the last digit, the same lines', () => {
    const back = readStructure(sourceOf(writeStructure(nacelle)));
    const numbers = nodeNumbers(nacelle.points);
    const places = placesOf(nacelle);
    expect(back.points).toEqual(
      nacelle.points.map(({ name }) => ({ name: String(numbers.get(name)), at: [...places.get(name)!] })),
    );
    const asSet = (lines: readonly (readonly [string, string])[], name: (n: string) => string) => new Set(lines.map((l) => l.map(name).join('-'))); // prettier-ignore
    expect(asSet(back.lines, (n) => n)).toEqual(asSet(nacelle.lines, (n) => String(numbers.get(n))));
  });
  test('any places', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(...[0, 1, 2].map(() => fc.double({ noNaN: true, min: -1e6, max: 1e6 }))), {
          minLength: 1,
          maxLength: 20,
        }),
        (places) => {
          const frame = frameOf(Object.fromEntries(places.map((p, k) => [`${k + 1}`, p as unknown as Vec])));
          const back = readStructure(sourceOf(writeStructure(frame)));
          back.points.forEach((p, i) => p.at.forEach((v, k) => expect(v).toBeCloseTo(places[i][k], 9)));
        },
      ),
    ));
  test('dataset 15, and lengths in millimetres', () => {
    const text = ['    -1', '   164', `${'5'.padStart(10)}mm (milli-newton)             2`, '  1.00000000000000000D+03  1.0D+03  1.0D+00', '  2.7315D+02', '    -1', '    -1', '    15', '        11         1         1        11  1.50000E+03 -2.00000E+02  0.00000E+00', '    -1', ''].join('\n'); // prettier-ignore
    expect(readStructure(sourceOf(text)).points).toEqual([{ name: '11', at: [1.5, -0.2, 0] }]);
  });
  test('shapes: a complex mode at its nodes, with its frequency and damping', () => {
    const channels = ACCELEROMETERS.map((a) => a.name);
    const shape = {
      re: Float64Array.from(TRUE_MODES[0].shape),
      im: Float64Array.from(TRUE_MODES[1].shape, (v) => v / 3),
    };
    const motion = motionOf(nacelle, shape, channels);
    const back = readStructure(sourceOf(writeStructure(nacelle) + writeShape(nacelle, motion, { hz: 12.5, damping: 0.011, name: 'nods', number: 1 }))); // prettier-ignore
    const [mode] = back.shapes;
    expect(mode.hz).toBeCloseTo(12.5, 3);
    expect(mode.damping).toBeCloseTo(0.011, 6);
    const numbers = nodeNumbers(nacelle.points);
    const tip = mode.nodes.indexOf(String(numbers.get('B1.8')));
    const at = nacelle.points.findIndex((p) => p.name === 'B1.8');
    for (let k = 0; k < 3; k++) {
      expect(mode.shape.re[3 * tip + k]).toBeCloseTo(motion.re[3 * at + k], 4);
      expect(mode.shape.im[3 * tip + k]).toBeCloseTo(motion.im[3 * at + k], 4);
    }
  });
  test('functions: complex values over an even step', () => {
    const text = writeFunction({ kind: 3, name: 'half spectrum', response: { node: 7, direction: -3 }, reference: { node: 1, direction: 1 }, from: 0.25, step: 0.25, unit: '(m/s²)²/Hz', re: [1, 2, 3], im: [-1, 0.5, 1e-9] }); // prettier-ignore
    const [f] = datasetsOf(sourceOf(text));
    expect(f).toMatchObject({
      functionType: 3,
      response: { node: 7, direction: -3 },
      width: 2,
      values: 3,
      step: 0.25,
      from: 0.25,
      abscissa: 18,
    });
    expect([...f.numbers(0, 6)]).toEqual([1, -1, 2, 0.5, 3, 1e-9]);
  });
  test('directions by number', () => {
    expect(
      [
        [0, 0, -1],
        [2, 0, 0],
        [1, 1, 0],
        [0, 0, 0],
      ].map((d) => directionNumber(d as unknown as Vec)),
    ).toEqual([-3, 1, 0, 0]);
  });
  test.each([
    ['cut in its nodes', (t: string) => t.slice(0, 700), /ends in the middle.*2411/s],
    [
      'a node without a place',
      (t: string) => t.replace(/\n[^\n]*D[+-]\d\d[^\n]*D[^\n]*\n( +2 +1 +1)/, '\nabc\n$1'),
      /no place.*2411/s,
    ],
    ['a line to nowhere', (t: string) => t.replace(/( {9}1)( {9}2)/g, '$1      9999'), /node|place/],
  ])('damaged: %s', (_, damage, words) =>
    expect(() => readStructure(sourceOf(damage(writeStructure(nacelle))))).toThrow(words),
  );
  test('bytes of any kind are read or refused, never hung on', () =>
    fc.assert(
      fc.property(fc.string({ maxLength: 300 }), (junk) => {
        try {
          readStructure(sourceOf(`    -1\n    82\n${junk}\n    -1\n`));
        } catch (error) {
          expect((error as { code?: string }).code).toBe('damaged');
        }
      }),
    ));
});
