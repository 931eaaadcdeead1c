import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Random } from '$core/random';
import { welch } from '$core/spectrum/welch';
import { Ring } from '$engine/ring';
import { openCountingSource } from '$engine/units/counting-source/driver';
import { openDockChassis } from '$engine/units/dock-chassis/driver';
import { Resonator } from '$engine/units/dock-chassis/resonator';
import { Rotor, STEP_S } from '$engine/units/dock-chassis/rotor';
import { START_NS, bench, channel } from '../rig';

describe('the rotor', () => {
  const run = (rotor: Rotor, seconds: number, brakeA: number, lubricated = true) => {
    for (let t = 0; t < seconds; t += STEP_S) rotor.step(brakeA, lubricated, 0);
    return { ...rotor.state };
  };

  test('a firm brake holds it for good; friction never turns it backwards', () => {
    const rotor = new Rotor(1);
    for (let i = 0; i < 4000; i++) {
      rotor.step(8, true, 0);
      expect(rotor.state.speed).toBe(0);
    }
    expect(rotor.state.azimuth).toBe(0);
  });
  test('more brake means less speed and more shaft torque, in balance', () => {
    const speeds = [0, 1, 2, 3].map((brake) => run(new Rotor(2), 240, brake));
    for (let i = 1; i < speeds.length; i++) {
      expect(speeds[i].speed).toBeLessThan(speeds[i - 1].speed);
      expect(speeds[i].torque).toBeGreaterThan(speeds[i - 1].torque);
    }
  });
  test('bearings warm with losses, more without oil, and cool again at rest', () => {
    const oiled = run(new Rotor(3), 300, 1.8).bearingDrive;
    const rotor = new Rotor(3);
    const dry = run(rotor, 300, 1.8, false).bearingDrive;
    expect(oiled).toBeGreaterThan(30);
    expect(dry).toBeGreaterThan(oiled + 10);
    expect(run(rotor, 600, 10).bearingDrive).toBeLessThan(oiled);
  });
  test('a seed repeats exactly, another differs', () => {
    expect(run(new Rotor(4), 20, 1)).toEqual(run(new Rotor(4), 20, 1));
    expect(run(new Rotor(4), 20, 1).flow).not.toBe(run(new Rotor(5), 20, 1).flow);
  });
});

test('a resonator driven by noise answers at its frequency, as sharply as its damping says', () => {
  const rate = 2048;
  const [f0, zeta] = [60, 0.02];
  const mode = new Resonator(f0, zeta, rate);
  const random = new Random(9);
  const signal = Float64Array.from({ length: rate * 200 }, () => mode.step(random.gauss()));
  const { frequencyHz, density } = welch(signal, { sampleRateHz: rate, segmentLength: 8192, window: 'Hann' });
  let peak = 0;
  for (let i = 100; i < 500; i++) if (density[i] > density[peak]) peak = i;
  expect(frequencyHz[peak]).toBeCloseTo(f0, -0.5);
  // Half-power width of a mode: 2 ζ f0, here 2.4 Hz, of lines 0.25 Hz apart.
  let low = peak;
  let high = peak;
  while (density[low] > density[peak] / 2) low--;
  while (density[high] > density[peak] / 2) high++;
  expect(frequencyHz[high] - frequencyHz[low]).toBeGreaterThan(1.6);
  expect(frequencyHz[high] - frequencyHz[low]).toBeLessThan(3.4);
});

describe('memory from before', () => {
  test('whatever blocks come, the ring holds exactly the last samples', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 50 }),
        fc.array(fc.integer({ min: 1, max: 70 }), { minLength: 1, maxLength: 12 }),
        (capacity, sizes) => {
          const ring = new Ring(capacity);
          let next = 0;
          for (const size of sizes) {
            ring.push(
              next,
              Float32Array.from({ length: size }, (_, i) => next + i),
            );
            next += size;
          }
          const from = ring.start;
          expect(from).toBe(Math.max(0, next - capacity));
          expect(held(ring, from)).toEqual(Array.from({ length: next - from }, (_, i) => from + i));
        },
      ),
    );
  });
  test('what came before a gap is not joined to what comes after', () => {
    const ring = new Ring(100);
    ring.push(0, new Float32Array(10));
    ring.push(50, Float32Array.from([1, 2, 3]));
    expect(ring.start).toBe(50);
    expect(held(ring, 50)).toEqual([1, 2, 3]);
  });
});

function held(ring: Ring, from: number): number[] {
  const out: number[] = [];
  ring.each(from, Infinity, (_, piece) => out.push(...piece));
  return out;
}

describe('the electrical side of the stand-in', () => {
  const unit = () => openDockChassis('T-1', 'dock', START_NS, { brakeA: 8 });

  test('a free input shows noise and says that it means nothing; a wired one is quiet', () => {
    const u = unit();
    const free = u.probe('A4/5', null);
    expect(free.remark).toContain('Nothing is connected');
    expect(free.noise).toBeGreaterThan(u.probe('A4/1', null).noise * 100);
    expect(() => u.probe('B9/1', null)).toThrow(/no terminal “B9\/1”/);
  });
  test('what is driven past the output’s range, or set where there is no output, is refused', () => {
    const u = unit();
    expect(() => u.setOutput('A6/1', 11)).toThrow(/gives −10 to 10 V/);
    expect(() => u.setOutput('A4/1', 1)).toThrow(/output of module A6/);
    expect(() => u.setControl!('heat', 1000)).toThrow(/Give 0 to 60 K/);
  });
  test('drift moves a reading slowly, reversed polarity turns it', () => {
    const u = unit();
    const b = bench(u, [channel('Torque', 'bridge sensor', 'A2/4', { zero: 0.008 })]);
    b.run(1);
    const before = b.last('Torque');
    expect(before).toBeGreaterThan(1);
    u.setFault!('A2/4', 'reversed polarity');
    b.run(1);
    expect(b.last('Torque')).toBeLessThan(-1);
    u.setFault!('A2/4', 'drift');
    b.run(1);
    const started = b.last('Torque');
    b.run(120);
    expect(Math.abs(b.last('Torque') - started)).toBeGreaterThan(0.2);
  });
  test('a unit that is asked while its plug is out says so, with the way back', () => {
    const u = unit();
    u.setControl!('plugged', 0);
    expect(() => u.probe('A4/1', null)).toThrow(/does not answer.*Plug it in again/);
  });
});

test('computed channels bring rates together: the fastest sets the pace, slower ones are held', () => {
  const count = (name: string, terminal: number, rateHz: number) =>
    channel(name, 'voltage', `C1/${terminal}`, { rateHz, range: { min: 0, max: 1e6 } });
  const b = bench(openCountingSource('T-1', 'count', 2), [
    count('Fast', 1, 1000),
    count('Slow', 2, 10),
    channel('Both', 'computed', null, { unit: 'V', formula: '"Fast" - 100 * "Slow"' }),
  ]);
  b.run(2);
  // The fast index minus a hundred times the slow one runs from 0 to 99 in each slow sample.
  const seen = b.frames.slice(5).map((f) => [f.min[2], f.max[2]]);
  expect(Math.min(...seen.map(([lo]) => lo))).toBe(0);
  expect(Math.max(...seen.map(([, hi]) => hi))).toBe(99);
});
