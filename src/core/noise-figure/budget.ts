import { deviceBy, type DeviceReading, type Loss, type OnOff } from './y-factor';

/** Power of one state with its standard uncertainty from the jitter of the average, relative. */
export interface Scattered {
  mw: number;
  relative: number;
}

/** Everything that noise figure and gain of a point are made of. */
export interface PointInputs {
  own: { on: Scattered; off: Scattered };
  through: { on: Scattered; off: Scattered };
  /** Excess noise ratio and its ± at 95 %, dB. */
  enr: number;
  enrExpanded: number;
  /** Of the source that is off, K, and ± at 95 %. */
  coldK: number;
  coldExpanded: number;
  before: Loss;
  behind: Loss;
  /** ± of each loss at 95 %, dB. */
  lossExpanded: number;
  /** Standing wave ratios. */
  vswr: { source: number; input: number; output: number; receiver: number };
}

/** One contribution: standard uncertainties of noise figure and gain, dB. */
export interface Contribution {
  from: string;
  figureDb: number;
  gainDb: number;
}
export interface PointResult extends DeviceReading {
  /** ± at 95 %, dB. */
  figureExpanded: number;
  gainExpanded: number;
  budget: Contribution[];
}

const reflection = (vswr: number) => (vswr - 1) / (vswr + 1);
/** Standard uncertainty of a power that goes over a joint of two reflections, dB: between 20·log10(1 ± ρ1·ρ2), at its ends most often (arc-sine: limit/√2).
 *  Source: Harris and Warner, Proc. IEE 128 H, 1981; JCGM 100:2008, 4.3. */
export const mismatch = (a: number, b: number): number =>
  (20 * Math.log10(1 + reflection(a) * reflection(b))) / Math.SQRT2;

/** Noise figure and gain with ± at 95 %: each input is moved by its standard uncertainty and what comes of it is added in squares (JCGM 100:2008, 5.1). The source is
 *  the same in both measurements, so its error is moved in both at once; joints are others, so theirs are not. */
export function pointResult(p: PointInputs): PointResult {
  const plain = {
    own: onOff(p.own),
    through: onOff(p.through),
    enr: p.enr,
    joint: { own: 0, through: 0 },
    coldK: p.coldK,
    before: p.before,
    behind: p.behind,
  };
  type Inputs = typeof plain;
  const of = (x: Inputs): DeviceReading => {
    // A joint at the source changes what of the excess arrives there.
    const shifted = (pair: OnOff, db: number): OnOff => ({
      on: pair.off + (pair.on - pair.off) * 10 ** (db / 10),
      off: pair.off,
    });
    return deviceBy(
      shifted(x.own, x.joint.own),
      shifted(x.through, x.joint.through),
      x.enr,
      x.coldK,
      x.before,
      x.behind,
    );
  };
  const best = of(plain);
  const moved = (from: string, ...ways: ((x: Inputs) => Inputs)[]): Contribution => {
    const each = ways.map((way) => of(way(plain)));
    const sum = (key: 'figureDb' | 'gainDb') =>
      Math.sqrt(each.reduce((a, r) => a + (r[key] - best[key]) ** 2, 0));
    return { from, figureDb: sum('figureDb'), gainDb: sum('gainDb') };
  };
  const jitter = (where: 'own' | 'through', state: 'on' | 'off') => (x: Inputs) => ({
    ...x,
    [where]: { ...x[where], [state]: x[where][state] * (1 + p[where][state].relative) },
  });
  const scaledBy = (pair: OnOff, db: number): OnOff => ({
    on: pair.on * 10 ** (db / 10),
    off: pair.off * 10 ** (db / 10),
  });
  const lossU = p.lossExpanded / 2;
  const { vswr } = p;
  const budget = [
    moved('excess noise ratio', (x) => ({ ...x, enr: x.enr + p.enrExpanded / 2 })),
    moved('jitter, source on', jitter('through', 'on'), jitter('own', 'on')),
    moved('jitter, source off', jitter('through', 'off'), jitter('own', 'off')),
    moved('joint of source and device', (x) => ({
      ...x,
      joint: { ...x.joint, through: mismatch(vswr.source, vswr.input) },
    })),
    moved('joint of source and receiver', (x) => ({
      ...x,
      joint: { ...x.joint, own: mismatch(vswr.source, vswr.receiver) },
    })),
    moved('joint of device and receiver', (x) => ({
      ...x,
      through: scaledBy(x.through, mismatch(vswr.output, vswr.receiver)),
    })),
    moved(
      'losses',
      (x) => ({ ...x, before: { ...x.before, db: x.before.db + lossU } }),
      (x) => ({ ...x, behind: { ...x.behind, db: x.behind.db + lossU } }),
    ),
    moved('temperature', (x) => ({ ...x, coldK: x.coldK + p.coldExpanded / 2 })),
  ];
  const whole = (key: 'figureDb' | 'gainDb') => 2 * Math.sqrt(budget.reduce((a, c) => a + c[key] ** 2, 0));
  return { ...best, figureExpanded: whole('figureDb'), gainExpanded: whole('gainDb'), budget };
}

const onOff = ({ on, off }: { on: Scattered; off: Scattered }): OnOff => ({ on: on.mw, off: off.mw });
