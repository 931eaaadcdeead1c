import { connect } from 'node:net';
import { crc32 } from '$core/field/checks';
import { compiled } from '$core/field/station/check';
import type { Frame } from '$core/field/frames';
import { KINDS, packed, unpacked } from '$core/field/messages';
import { stationModel } from '$core/field/station/model';
import { platinumResistance } from '$core/sensors/platinum';
import { Refused } from '../recorder';
import type { World } from '../play';
import { StationDoor } from './door';
import { Station } from './instrument';
import type { Source } from './reading';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
/** Principal lunar and solar tides, h (IHO tidal constituents M2, S2). */
const [M2, S2] = [12.4206012, 12];
const turn = (ms: number, hours: number, phase = 0) => Math.sin((2 * Math.PI * ms) / (hours * HOUR) + phase);
/** Something between −1 and 1 that wanders over hours: sums of turns that never meet. */
const wander = (ms: number, hours: number, phase: number) =>
  0.5 * turn(ms, hours, phase) +
  0.3 * turn(ms, hours * 0.437, phase * 2.3) +
  0.2 * turn(ms, hours * 0.191, phase * 5.1);
const sun = (ms: number) => Math.max(0, Math.sin((((ms / HOUR) % 24) / 24) * 2 * Math.PI - Math.PI / 2));

export type Ill = 'none' | 'broken' | 'reversed' | 'battery low' | 'cable' | 'warm';

/** What the pier at Harrow Quay is like at a true time: water, air, salt, wind, and the sun on the panel of the station. */
export const pier = {
  level: (ms: number) => 2.5 + 1.25 * turn(ms, M2) + 0.42 * turn(ms, S2, 0.7) + 0.06 * wander(ms, 31, 1),
  air: (ms: number) => 9.5 + 3.2 * turn(ms, 24, -2.1) + 2.4 * wander(ms, 93, 2),
  water: (ms: number) => 8.2 + 0.3 * turn(ms, M2, 0.4) + 0.7 * wander(ms, 211, 3),
  salinity: (ms: number) => 31.5 + 1.6 * turn(ms, M2, 0.3) + 0.5 * wander(ms, 57, 4),
  wind: (ms: number) =>
    Math.max(0.2, 6.5 + 4.5 * wander(ms, 41, 5) + 1.8 * wander(ms, 0.31, 6) + wander(ms, 0.013, 7)),
  from: (ms: number) =>
    (((235 + 80 * wander(ms, 67, 8) + 14 * wander(ms, 0.23, 9) + 8 * wander(ms, 0.011, 10)) % 360) + 360) %
    360,
  board: (ms: number) => 11 + 4 * turn(ms, 24, -1.9) + 3 * sun(ms) + wander(ms, 93, 2),
  supply: (ms: number) => 12.35 + 0.55 * sun(ms - 0.6 * HOUR) + 0.12 * wander(ms, 75, 11),
};

/** A station that can fall ill: by a message instead of by the weather. */
export class PlayedStation extends StationDoor {
  private ill: Ill = 'none';
  private warmSince = 0;

  constructor(
    serial: string,
    model: string,
    private readonly world: World,
    options: { driftPpm?: number; compileMs?: number; reversed?: boolean } = {},
  ) {
    const self: { ill: () => Ill; warmth: () => number } = { ill: () => 'none', warmth: () => 0 };
    super(
      new Station({
        model: stationModel(model)!,
        serial,
        now: world.now,
        sources: sourcesOf(self, options.reversed ?? false),
        supply: (ms) => (self.ill() === 'cable' ? 0 : self.ill() === 'battery low' ? 10.9 : pier.supply(ms)),
        board: pier.board,
        ...options,
      }),
    );
    self.ill = () => this.ill;
    // A hand around a sensor warms it by some degrees within half a minute.
    self.warmth = () => (this.ill === 'warm' ? 8 * (1 - Math.exp(-(world.now() - this.warmSince) / 10_000)) : 0); // prettier-ignore
  }
  /** Begins with a programme, as if it had been sent `days` ago. */
  runSince(text: string, days: number): this {
    const { programme, remarks } = compiled(text);
    if (!programme) throw new RangeError(`It does not compile: ${remarks.find((r) => r.bad)?.says}`);
    // Begun at the same instant on whatever day it is asked, rows keep their numbers.
    const since = Math.floor((this.world.now() - days * DAY) / (20 * DAY)) * 20 * DAY;
    const now = this.world.now();
    this.world.pass(since - now);
    this.station.setClock(since);
    this.station.begin(text, programme, (crc32(new TextEncoder().encode(text)) ^ Math.floor(since / DAY)) >>> 0 || 1); // prettier-ignore
    this.world.pass(now - since);
    this.station.state();
    return this;
  }
  protected override done(frame: Frame): Uint8Array {
    if (frame.kind !== KINDS.play) return super.done(frame);
    const {
      do: act,
      seconds = 60,
      times = 1,
    } = unpacked<{ do: string; seconds?: number; times?: number }>(frame.carried);
    if (act === 'list') return packed({ ill: this.ill });
    if (act === 'power') this.losePower(seconds);
    else if (act === 'speed') this.world.run(times);
    else if (act === 'clock') this.station.setClock(this.world.now() + seconds * 1000);
    else if (['none', 'broken', 'reversed', 'battery low', 'cable', 'warm'].includes(act)) {
      this.station.state();
      this.ill = act as Ill;
      this.warmSince = this.world.now();
    } else throw new Refused({ why: 'unknown', says: `It cannot play “${act}”.` });
    return packed({});
  }
  /** Calls in: opens a line to whoever waits for it, and answers there until it is let go. */
  callIn(host: string, port: number): void {
    if (this.station.isWithoutPower) return;
    const line = connect({ host, port, noDelay: true });
    line.on('error', () => line.destroy());
    line.once('connect', () => this.hear(line));
  }
}

function sourcesOf(self: { ill: () => Ill; warmth: () => number }, reversed: boolean): Map<string, Source> {
  const hand = () => self.warmth();
  const fault = () => (self.ill() === 'broken' ? 'broken' : (self.ill() === 'reversed') !== reversed ? 'reversed' : 'none'); // prettier-ignore
  return new Map<string, Source>([
    // A pressure probe gives 0.5 V at no water and 1 V more for each 2.5 m.
    ['U1', { is: 'volts', at: (ms) => 0.5 + pier.level(ms) / 2.5 }],
    ['U2', { is: 'ohms', at: (ms) => platinumResistance(100, pier.air(ms) + hand()) }],
    ['U3', { is: 'couple', type: 'T', at: (ms) => pier.water(ms) + hand(), fault }],
    // A vane gives 5 V for a whole turn.
    ['U4', { is: 'volts', at: (ms) => pier.from(ms) / 72 }],
    ['U5', { is: 'ratio', at: (ms) => 0.4 + 0.05 * pier.level(ms) }],
    // A wheel turns by one pulse for each 0.1 m of wind.
    ['P1', { is: 'pulses', hz: (ms) => pier.wind(ms) / 0.1 }],
    ['S1', { is: 'line', words: (ms) => [pier.salinity(ms), pier.water(ms)] }],
  ]);
}

/** What the pier station is asked to do. */
export const PIER_PROGRAMME = `station ST-9 wakes every 10 s, rejects 50 Hz
measure "Water level" in "m": volts "5 V" on U1, times 2.5, plus -1.25
measure "Air temperature" in "°C": resistance "Pt100" on U2
measure "Water temperature" in "°C": thermocouple "T" on U3
measure "Wind direction" in "°": volts "5 V" on U4, times 72
measure "Wind speed" in "m/s": pulses "a second" on P1, times 0.1
measure "Salinity" in "PSU": serial "1" on S1
keep in "short" every 2 min, 43200 rows: average of "Water level"; average of "Air temperature"; average of "Wind speed"; lowest of "Supply voltage"
keep in "quarter" every 15 min, 5760 rows: average of "Water level"; lowest of "Air temperature" with its time; highest of "Air temperature" with its time; average of "Water temperature"; average of "Salinity"; wind of "Wind speed" from "Wind direction"; lowest of "Supply voltage"
keep in "day" every 1 d, 1500 rows: lowest of "Water level" with its time; highest of "Water level" with its time; average of "Air temperature"; lowest of "Supply voltage"
`;
