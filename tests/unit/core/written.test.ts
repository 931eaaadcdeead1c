import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { compileExpression } from '$core/expression/expression';
import { spelled } from '$core/quantities/spellings';
import {
  ALL_UNITS,
  convertUnit,
  definition,
  quantityOf,
  readQuantity,
  readUnit,
} from '$core/quantities/quantities';

describe('units as the trade writes them', () => {
  test.each([
    ['Nm', 'N·m'], ['kNm', 'kN·m'], ['degC', '°C'], ['°C', '°C'], ['deg', '°'], ['ppm', 'ppm'], ['dB', 'dB'],
    ['l/min', 'L/min'], ['l', 'L'], ['Ohm', 'Ω'], ['kOhm', 'kΩ'], ['MOhm', 'MΩ'], ['mohm', 'mΩ'], ['m/s2', 'm/s²'],
    ['m/s^2', 'm/s²'], ['um/m', 'µε'], ['microstrain', 'µε'], ['um', 'µm'], ['r/min', 'rpm'], ['pH', 'pH'],
    ['% RH', '%'], ['RPM', 'rpm'], ['hr', 'h'], ['km/hr', 'km/h'], ['mV/V', 'mV/V'], ['kg', 'kg'], ['nm', 'nm'],
  ])('“%s” is %s', (written, symbol) => expect(readUnit(written)).toBe(symbol)); // prettier-ignore

  test.each(['mg', 'µg', 'g/L', 'lbs', 'gpm', 'barg'])(
    '“%s” can be meant in two ways and is asked about',
    (text) => expect(() => readUnit(text)).toThrow(/write|differ/i),
  );
  test.each(['furlong', 'Nmm/rev s', '', '…'])('“%s” is no unit', (text) =>
    expect(() => readUnit(text)).toThrow(/kN·m/),
  );
  test('pH is no picohenry, and a level is none of its own quantity’s neighbours', () => {
    expect(quantityOf(readUnit('pH'))).toBe('acidity');
    expect(() => convertUnit(7, 'pH', 'V')).toThrow(/measures voltage/);
    expect(quantityOf(readUnit('dB'))).toBe('level');
    expect(convertUnit(1, 'ppm', '%')).toBeCloseTo(1e-4, 12);
  });
  test('a milligram and a thousandth of g are told apart once they are written out', () => {
    expect(quantityOf(readUnit('milligram'))).toBe('mass');
    expect(convertUnit(1000, readUnit('milli-g'), 'm/s²')).toBeCloseTo(9.80665, 9);
  });
  test('what is a symbol already stays what it is, whatever it is written with', () => {
    for (const symbol of ALL_UNITS) expect(spelled(symbol)).toEqual({ symbol });
    fc.assert(
      fc.property(fc.string({ maxLength: 14 }), (text) => {
        const read = spelled(text);
        if ('symbol' in read) expect(spelled(read.symbol)).toEqual(read);
      }),
    );
  });
  test('a number carries a spelled unit along', () => {
    expect(readQuantity('12 Nm')).toEqual({ value: 12, unit: 'N·m' });
    expect(readQuantity('12 mg')).toBeNull();
    expect(definition('Ω').quantity).toBe('resistance');
  });
});

describe('temperatures in formulas', () => {
  const UNITS: Record<string, string> = { c: '°C', c2: '°C', k: 'K', f: '°F', dp: 'mbar' };
  const check = (formula: string, result: string) =>
    compileExpression(formula).checkUnits((name) => UNITS[name], result);
  const value = (formula: string, result: string, inputs: Record<string, number>) => {
    const e = compileExpression(formula);
    e.checkUnits((name) => UNITS[name], result);
    const out = new Float32Array(1);
    e.start(10)(
      e.inputs.map((name) => [inputs[name]]),
      out,
      1,
    );
    return out[0];
  };

  test.each([
    ['"c" > "k"', 'yes/no'], ['max("c", "k")', '°C'], ['"c" + "k"', '°C'], ['"c" > 1 ? "c" : "k"', '°C'],
    ['"c" - "k"', '°C'], ['hysteresis("c", "k", 20)', 'yes/no'], ['clip("k", "c", 400)', 'K'],
  ])('%s mixes two scales with different zeros and is refused', (formula, unit) =>
    expect(() => check(formula, unit)).toThrow(/zeros at different places/),
  ); // prettier-ignore
  test.each([
    ['"c"', 'K'],
    ['"k"', '°C'],
    ['mean("c", 2)', 'K'],
    ['"c" + 5', 'K'],
  ])('%s is no reading in %s', (formula, unit) => expect(() => check(formula, unit)).toThrow(/convert/));
  test.each([
    ['"c" - "c2"', 'K'], ['"c" - "c2"', '°C'], ['("c" - "c2") + "c"', '°C'], ['"c" + ("c" - "c2")', '°C'],
    ['("c" + "c2") / 2', '°C'], ['("c" - "c2") > 5', 'yes/no'], ['convert("k", "°C") - "c"', 'K'], ['abs("c" - "c2")', 'K'],
  ])('%s gives %s', (formula, unit) => check(formula, unit)); // prettier-ignore

  test('a difference is converted as a difference: 10 K are 18 °F, wherever they lie', () => {
    expect(value('convert("c" - "c2", "°F")', '°F', { c: 30, c2: 20 })).toBeCloseTo(18, 4);
    expect(value('convert("c", "°F")', '°F', { c: 30 })).toBeCloseTo(86, 4);
    expect(value('convert("c" - convert("k", "°C"), "°F")', '°F', { c: 30, k: 293.15 })).toBeCloseTo(18, 3);
  });
  test('a formula found by trial takes the bare number of a reading', () => {
    expect(() => check('3 * sqrt("dp")', 'L/min')).toThrow(/number\(/);
    expect(value('3 * sqrt(number("dp", "mbar"))', 'L/min', { dp: 16 })).toBe(12);
    expect(value('2 * exp(number("dp", "mbar") / 16) ^ 2', 'L/min', { dp: 16 })).toBeCloseTo(
      2 * Math.E ** 2,
      4,
    );
    expect(value('3 * sqrt(number("dp", "Pa"))', 'L/min', { dp: 16 })).toBeCloseTo(120, 4);
    expect(() => check('number("dp", "kN")', '1')).toThrow(/cannot be converted/);
  });
  test('“not” before a comparison is asked about instead of being silently always no', () => {
    for (const formula of ['not "c" > 1', 'not "c" + 1', 'not "c" == 1'])
      expect(() => compileExpression(formula)).toThrow(/two ways/);
    for (const [formula, out] of [
      ['not ("c" > 1)', 0],
      ['(not "c") > 1', 0],
      ['not "c" or "c" > 1', 1],
    ] as const)
      expect(value(formula, 'yes/no', { c: 5 })).toBe(out);
  });
  test('whether a formula gives a unit is said only where it is sure', () => {
    const gives = (formula: string, unit: string) =>
      compileExpression(formula).givesUnit((name) => UNITS[name], unit);
    expect(gives('"c" + 1', '°C')).toBe(true);
    expect(gives('"c" + 1', 'K')).toBe(false);
    expect(gives('"dp" * 2', 'mbar')).toBe(false);
    expect(gives('"c" - "c2"', 'K')).toBe(true);
  });
});
