const A = 3.9083e-3;
const B = -5.775e-7;
const C = -4.183e-12;

/** Resistance of an industrial platinum sensor (IEC 60751, 5.1). @param r0 Ω at 0 °C @param celsius -200 to 850 °C @returns Ω */
export function platinumResistance(r0: number, celsius: number): number {
  const below = celsius < 0 ? C * (celsius - 100) * celsius ** 3 : 0;
  return r0 * (1 + A * celsius + B * celsius * celsius + below);
}

/** Temperature of an industrial platinum sensor, the inverse of platinumResistance; exact above 0 °C, by Newton's
 *  method below it. @returns °C, NaN outside -200 to 850 °C */
export function platinumTemperature(r0: number, ohm: number): number {
  const ratio = ohm / r0;
  const root = A * A - 4 * B * (1 - ratio);
  let celsius = (-A + Math.sqrt(root)) / (2 * B);
  if (ratio < 1) {
    for (let round = 0; round < 6; round++) {
      const error = platinumResistance(1, celsius) - ratio;
      const slope = A + 2 * B * celsius + C * (4 * celsius - 300) * celsius * celsius;
      celsius -= error / slope;
    }
  }
  return celsius >= -200.01 && celsius <= 850.01 ? celsius : NaN;
}
