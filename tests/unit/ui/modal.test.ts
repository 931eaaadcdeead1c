import fc from 'fast-check';
import { PerspectiveCamera } from 'three';
import { describe, expect, test } from 'vitest';
import type { JudgedOrder, JudgedPole } from '$core/modal/stability';
import { EMPTY_FRAME, type Vec } from '$core/wireframe/wireframe';
import { flatPlaces, projected, readyFrame } from '$ui/modal/frame-plot';
import { inDb } from '$ui/modal/pair-plot';
import { hzAxis, orderAxis, poleAt } from '$ui/modal/stability-plot';
import { digitsFor, frequencyText, percentText } from '$ui/modal/words';
import { ACCELEROMETERS, nacelleFrame } from '../../../demo/structure';

describe('numbers say no more digits than their ± allows', () => {
  test.each([
    [12.49412, 0.0173, '12.494 ± 0.017'],
    [17.5059, 0.0041, '17.506 ± 0.004'],
    [31.2149, 0.0213, '31.21 ± 0.02'],
    [1.2345, 0.3, '1.2 ± 0.3'],
    [1.2345, 0.12, '1.23 ± 0.12'],
    [104.7, 12, '105 ± 12'],
    [104.7, 30, '105 ± 30'],
  ])('%f with %f is %s', (value, expanded, text) => expect(digitsFor(value, expanded)).toBe(text));
  test('without one, four digits; a frequency two decimals', () => {
    expect(digitsFor(1.23456, null)).toBe('1.235');
    expect(frequencyText(31.2149, null)).toBe('31.21');
    expect(frequencyText(31.2149, 0.02)).toBe('31.21 ± 0.02');
    expect(percentText(0.0123)).toBe('1.23 %');
    expect(percentText(0.82)).toBe('82.0 %');
  });
  test('what is written is within half of the last digit of what is meant', () =>
    fc.assert(
      fc.property(
        fc.double({ min: -1e3, max: 1e3, noNaN: true }),
        fc.double({ min: 1e-4, max: 50, noNaN: true }),
        (value, expanded) => {
          const [written, by] = digitsFor(value, expanded).replaceAll('−', '-').split(' ± ').map(Number);
          expect(Math.abs(written - value)).toBeLessThanOrEqual(0.5 * expanded + 0.5);
          expect(Math.abs(by - expanded)).toBeLessThanOrEqual(
            0.25 * expanded + 1e-6 + (expanded >= 1 ? 0.5 : 0),
          );
        },
      ),
    ));
});

describe('the diagram', () => {
  const pole = (hz: number): JudgedPole => ({
    hz,
    damping: 0.01,
    rest: 3,
    shape: { re: new Float64Array(1), im: new Float64Array(1) },
    participation: { re: new Float64Array(1), im: new Float64Array(1) },
  });
  const left = { negative: 0, heavy: 0, real: 0, outside: 0 };
  const orders: JudgedOrder[] = [
    { order: 10, poles: [pole(12), pole(12.1)], left },
    { order: 20, poles: [pole(12), pole(40)], left },
  ];
  const [x, y] = [hzAxis({ from: 5, to: 55 }, 600), orderAxis(20, 300)];
  test('a pole is where one points, the nearest of those within reach; elsewhere there is none', () => {
    expect(poleAt(orders, x, y, x.at(40) + 3, y.at(20) - 3)).toMatchObject({ order: 20, index: 1 });
    expect(poleAt(orders, x, y, x.at(12.1) + 1, y.at(10))).toMatchObject({ order: 10, index: 1 });
    expect(poleAt(orders, x, y, x.at(30), y.at(10))).toBeNull();
    expect(poleAt(orders, x, y, x.at(12), (y.at(10) + y.at(20)) / 2)).toBeNull();
  });
  test('orders rise upward, and the highest leaves room for words above it', () => {
    expect(y.at(20)).toBeLessThan(y.at(10));
    expect(y.at(20)).toBeGreaterThan(26 + 8);
  });
  test('a power in decibels', () => expect([...inDb([1, 0, 3], [0, 10, 4])].map((v) => Number(v.toFixed(3)))).toEqual([0, 20, 13.979])); // prettier-ignore
});

describe('the wireframe on the picture', () => {
  test('lines and sensors by the numbers of their points; what names a point that is not there is left out', () => {
    const frame = nacelleFrame((name) => name);
    const ready = readyFrame({
      ...frame,
      lines: [...frame.lines, ['N1', 'nowhere']],
      sensors: [...frame.sensors, { channel: 'x', point: 'nowhere', direction: [1, 0, 0] }],
    });
    expect(ready.lines.length).toBe(2 * frame.lines.length);
    expect(ready.sensors.length).toBe(ACCELEROMETERS.length);
    const [a, b] = [ready.lines[0], ready.lines[1]].map((i) => frame.points[i].name);
    expect([a, b]).toEqual([...frame.lines[0]]);
    expect(ready.radius).toBeGreaterThan(ready.size);
    expect(ready.size).toBeCloseTo((2 + 3.2) / 2, 6); // from the foot to the tip of blade 1
  });
  test('nothing at all has a size, too', () => {
    const ready = readyFrame({ name: 'none', ...EMPTY_FRAME });
    expect(ready.size).toBeGreaterThan(0);
    expect(ready.middle.every(Number.isFinite)).toBe(true);
  });
  test('what lies to the right is drawn to the right, what lies above above, in the middle of the view the middle', () => {
    const camera = new PerspectiveCamera(32, 2, 0.01, 100);
    camera.up.set(0, 0, 1);
    camera.position.set(0, -10, 0);
    camera.lookAt(0, 0, 0);
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    const places: Vec[] = [
      [0, 0, 0],
      [1, 0, 0],
      [0, 0, 1],
      [0, 5, 0],
    ];
    const { x, y, z } = projected(flatPlaces(places), camera, 800, 400);
    expect([x[0], y[0]]).toEqual([400, 200]);
    expect(x[1]).toBeGreaterThan(x[0]);
    expect(y[2]).toBeLessThan(y[0]);
    expect(z[3]).toBeGreaterThan(z[0]);
  });
});
