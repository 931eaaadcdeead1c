import fc from 'fast-check';
import { expect, test } from 'vitest';
import { higher, lower } from '$core/signal/extremes';

test('extremes of readings are those of what is there; nothing there is missing', () => {
  const reading = fc.oneof(fc.double(), fc.constant(NaN));
  fc.assert(
    fc.property(fc.array(reading), (all) => {
      const there = all.filter((v) => !Number.isNaN(v));
      expect(all.reduce(lower, NaN) + 0).toBe(there.length ? Math.min(...there) + 0 : NaN);
      expect(all.reduce(higher, NaN) + 0).toBe(there.length ? Math.max(...there) + 0 : NaN);
    }),
  );
});
