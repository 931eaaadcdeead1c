import { badInput, FarrierError } from '$core/errors';
import { rateFromHz, samplesBefore } from '$core/time/rate';
import type { KnownUnit } from '$contract/engine';
import type { StandInControl } from '$contract/unit';
import { openReceiver } from '../../radio/receiver';
import type { IqSource } from '../../radio/source';
import type { Clock, OpenUnit, UnitDriver } from '../driver';
import { Air, AIR_CONTROLS, figureAt, HEARS } from './air';

const LOWEST_HZ = 1e6;
const HIGHEST_HZ = 6e9;
/** Settling after it is tuned, s: nothing is delivered meanwhile. */
const SETTLES_S = 0.0005;
/** A poll that comes late is answered for this long at the most; what lies before it is lost, as in a real receiver. */
const HELD_S = 0.25;

/** The stand-in’s receiver: hears the air at the quay. */
export function openStandIn(unit: KnownUnit, nowNs: bigint, seed = 868): OpenUnit {
  let set = unit.config.settings as { centre: number; rate: number; gain: number };
  const sampleRateHz = set.rate * 1e6;
  const rate = rateFromHz(sampleRateHz);
  const controls = new Map<string, StandInControl>(
    [{ id: 'plugged', label: 'Plugged in', unit: 'yes/no', min: 0, max: 1, value: 1 }, ...AIR_CONTROLS].map(
      (c) => [c.id, { ...c }],
    ),
  );
  const air = new Air(sampleRateHz, seed, (id) => controls.get(id)!.value);
  let centreHz = set.centre * 1e6;
  let gainDb: number | undefined;
  const gain = () => gainDb ?? set.gain;
  let delivered = 0;
  let settledAt = 0;

  const plugged = () => {
    if (controls.get('plugged')!.value < 0.5)
      throw new FarrierError('unavailable', {
        what: 'The receiver does not answer.',
        where: unit.name,
        why: 'It is unplugged.',
        next: 'Plug it in again.',
      });
  };

  const source: IqSource = {
    state: () => ({
      centreHz,
      sampleRateHz,
      gainDb: gain(),
      tunes: { fromHz: LOWEST_HZ, toHz: HIGHEST_HZ },
      accuracy: HEARS.accuracy,
      noiseFigure: figureAt(gain()),
      scaled: true,
    }),
    get next() {
      return Math.max(delivered, settledAt);
    },
    read(now) {
      plugged();
      const end = samplesBefore(rate, now - nowNs);
      const first = Math.max(delivered, settledAt, end - Math.ceil(HELD_S * sampleRateHz));
      if (end <= first) return [];
      delivered = end;
      const iq = air.read(first, end - first, { centreHz, gainDb: gain() });
      return [{ first, iq, overload: air.overload }];
    },
    tune(hz) {
      if (!(hz >= LOWEST_HZ && hz <= HIGHEST_HZ))
        throw badInput('frequency', `${hz / 1e6} MHz`, 'The receiver reaches from 1 MHz to 6 GHz.');
      if (hz === centreHz) return;
      centreHz = hz;
      settledAt = delivered + Math.ceil(SETTLES_S * sampleRateHz);
    },
    gain(db) {
      gainDb = db;
    },
    close: () => undefined,
  };
  const receiver = openReceiver(
    unit,
    source,
    {
      standIn: true,
      firmware: '1.2',
      calibratedUntil: '2027-03-31',
    },
    (on) => void (controls.get('source')!.value = on ? 1 : 0),
  );
  return {
    ...receiver,
    describe: () => ({ ...receiver.describe(), controls: [...controls.values()] }),
    start(requests, now) {
      plugged();
      return receiver.start(requests, now);
    },
    adjust(next) {
      const wanted = next.config.settings as typeof set;
      if (wanted.rate !== set.rate || next.name !== unit.name) return false;
      if (wanted.centre !== set.centre) source.tune!(wanted.centre * 1e6);
      set = wanted;
      return true;
    },
    setControl(id, value) {
      const control = controls.get(id);
      if (!control) throw badInput('control', id, 'It has none of this name.');
      control.value = Math.max(control.min, Math.min(control.max, value));
    },
    setFault: () => {
      throw badInput('fault', 'none of its own', 'Set levels by hand, or unplug it.');
    },
  };
}

export const receiver: UnitDriver = {
  kind: 'receiver',
  open: (unit: KnownUnit, clock: Clock) => openStandIn(unit, clock()),
};
