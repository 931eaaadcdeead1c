import { Waterfall } from '$core/radio/waterfall';
import { isWide, planSteps } from '$core/radio/stepping';
import { planBand, USABLE_SHARE } from '$core/radio/resolution';
import { badInput, conflict, notFound } from '$core/errors';
import { Catcher, type CatchRequest } from '$core/radio/catching';
import {
  Catching,
  CATCHING_DEFAULTS,
  catchRequest,
  encodeCaught,
  type CaughtTold,
} from '$contract/radio-catching';
import {
  LINE_DEFAULTS,
  LISTENING_DEFAULTS,
  LineWishes,
  Listening,
  bandOf,
  wishedLine,
  type HeardBand,
  type HeardFault,
  type LineWish,
  type ListenWish,
  type RadioView,
  type RadioWish,
  type ReceiverState,
} from '$contract/radio';
import { Measuring, MEASURING_DEFAULTS } from '$contract/radio-measuring';
import { Pictures, PICTURED, PICTURES_BEGIN, type Picture, type Pictured } from '$contract/radio-pictures';
import { captureRequest, Modulation, MODULATION_DEFAULTS } from '$contract/radio-modulation';
import { encodeHeard, encodePast } from '$contract/radio-wire';
import { getHouse, putHouse } from '$store/house';
import type { App } from '../app';
import { check } from '../check';
import type { RadioPort } from './port';
import { EmissionBench } from './emissions';
import { Gatherings } from './gatherings';
import { NoiseBench } from './noise';
import { Recordings } from './recordings';

/** How one receiver is listened to. */
interface Ear {
  listening: Listening;
  lines: LineWish[];
  measuring: Measuring;
  catching: Catching;
  modulation: Modulation;
  pictures: Record<Pictured, readonly Picture[]>;
  /** How often each line was cleared. */
  begins: Map<string, number>;
  waterfall: Waterfall | null;
  /** Of which band the waterfall is. */
  band: string;
  fault: HeardFault | null;
  /** Whether the engine was asked to tell it. */
  asked: boolean;
}

const keyOf = (serial: string) => `radio ${serial}`;

/** Pictures as they were kept; pages that had none begin. */
const picturesOf = (kept: unknown): Ear['pictures'] =>
  Object.fromEntries(
    PICTURED.map((page) => {
      const own = Pictures.safeParse((kept as Record<string, unknown> | undefined)?.[page]);
      return [page, own.success && own.data.length ? own.data : PICTURES_BEGIN[page]];
    }),
  ) as unknown as Ear['pictures'];

/** Looks after receivers: how each is listened to, what was heard, and who hears it. A receiver is listened to while a page looks at it. */
export class RadioDesk implements RadioPort {
  private readonly ears = new Map<string, Ear>();
  private readonly recordings: Recordings;
  readonly gatherings: Gatherings;
  readonly noise: NoiseBench;
  readonly emissions: EmissionBench;

  constructor(private readonly app: App) {
    this.recordings = new Recordings(app, (heard) => this.heard(heard));
    this.gatherings = new Gatherings(app);
    this.noise = new NoiseBench(app, this.gatherings, () => this.receivers());
    this.emissions = new EmissionBench(app, this.gatherings, () => this.receivers());
    app.live.onRadio = () => this.follow();
    app.live.radioPast = (unit) => this.past(unit);
  }

  /** Everything that can be listened to: receivers of the rig, and recorded bands that somebody opened. */
  private receivers(): Pick<
    RadioView,
    'unit' | 'name' | 'receiver' | 'answering' | 'says' | 'standIn' | 'recorded'
  >[] {
    const units = this.app.live.status.units.flatMap(({ description: d, answering, says }) =>
      d.receiver
        ? [
            {
              unit: d.serial,
              name: d.name,
              receiver: d.receiver,
              answering,
              says,
              standIn: d.standIn,
              recorded: null,
            },
          ]
        : [],
    );
    return [...units, ...this.recordings.list()];
  }
  /** @throws `not_found` */
  private receiver(serial: string) {
    const found = this.receivers().find((u) => u.unit === serial);
    if (!found) throw notFound('receiver', serial);
    return found;
  }

  private ear(serial: string): Ear {
    const known = this.ears.get(serial);
    if (known) return known;
    const kept = getHouse(this.app.db, keyOf(serial)) as Record<string, unknown> | null;
    const own = this.receivers().find((u) => u.unit === serial)?.receiver;
    // One that nobody has listened to is heard as wide as it hears.
    const first = own && { around: own.centreHz / 1e6, wide: (own.sampleRateHz * USABLE_SHARE) / 1e6 };
    const listening = Listening.safeParse(
      kept?.listening && { eachS: LISTENING_DEFAULTS.eachS, ...kept.listening },
    );
    const lines = LineWishes.safeParse(kept?.lines);
    const catching = Catching.safeParse(kept?.catching);
    const modulation = Modulation.safeParse(kept?.modulation);
    const measuring = Measuring.safeParse(kept?.measuring);
    const ear: Ear = {
      measuring: measuring.success ? measuring.data : MEASURING_DEFAULTS,
      catching: catching.success ? catching.data : CATCHING_DEFAULTS,
      modulation: modulation.success ? modulation.data : MODULATION_DEFAULTS,
      pictures: picturesOf(kept?.pictures),
      listening: listening.success ? listening.data : { ...LISTENING_DEFAULTS, ...first },
      lines: lines.success ? lines.data : LINE_DEFAULTS,
      begins: new Map(),
      waterfall: null,
      band: '',
      fault: null,
      asked: false,
    };
    this.ears.set(serial, ear);
    return ear;
  }

  views(): RadioView[] {
    return this.receivers().map((own) => {
      const { listening, lines, measuring, catching, modulation, pictures, fault } = this.ear(own.unit);
      return { ...own, listening, lines, measuring, catching, modulation, pictures, fault };
    });
  }

  /** Opens the recorded band of a take, to be listened to like a receiver. @returns its name among them @throws `not_found`, `bad_input` where none was recorded */
  open = (takeId: string): string => this.recordings.open(takeId);
  /** Goes to a place of a recorded band, or plays it. @throws `not_found` */
  play(unit: string, to: { atS?: number; speed?: number }): RadioView[] {
    this.recordings.play(unit, to);
    return this.views();
  }

  /** Listens otherwise; a band outside what is received is tuned to. @throws `bad_input` for what cannot be had, `conflict` for tuning while a take is armed or recorded */
  async listen(serial: string, change: Partial<Listening>): Promise<RadioView[]> {
    const ear = this.ear(serial);
    const { receiver } = this.receiver(serial);
    let next = check(Listening, { ...ear.listening, ...change });
    // The two ways of saying a span say the same.
    if ('from' in change || 'to' in change) next = saidBothWays(next, 'from');
    else if ('around' in change || 'wide' in change) next = saidBothWays(next, 'around');
    if (next.span === 'from' && next.from >= next.to)
      throw conflict('from and to', 'The band ends before it begins.', 'Give an end above its begin.');
    const band = bandOf(next);
    const usable = receiver.sampleRateHz * USABLE_SHARE;
    const outside =
      Math.abs(band.centreHz - receiver.centreHz) + band.spanHz / 2 > usable / 2 + 1 &&
      band.spanHz <= usable + 1;
    const centreHz = outside && receiver.tunes ? band.centreHz : receiver.centreHz;
    if (isWide(band, receiver)) planSteps(band, { ...receiver, tunes: receiver.tunes! });
    else planBand(band, { ...receiver, centreHz });
    if (centreHz !== receiver.centreHz) await this.app.engine.command({ do: 'tune', unit: serial, centreHz });
    ear.listening = next;
    ear.fault = null;
    this.keep(serial, ear);
    return this.views();
  }

  /** Other lines over the band. @throws `bad_input` */
  lines(serial: string, lines: LineWish[]): RadioView[] {
    const ear = this.ear(serial);
    this.receiver(serial);
    ear.lines = check(LineWishes, lines);
    this.keep(serial, ear);
    return this.views();
  }

  /** Measures something else of a band. @throws `bad_input` */
  measure(serial: string, change: Partial<Measuring>): RadioView[] {
    const ear = this.ear(serial);
    this.receiver(serial);
    ear.measuring = check(Measuring, { ...ear.measuring, ...change });
    this.keep(serial, ear);
    return this.views();
  }

  /** Catches otherwise; a channel outside what is received is tuned to. @throws `bad_input` for what cannot be had, `conflict` while a take is armed or recorded */
  async catch(serial: string, change: Partial<Catching>): Promise<RadioView[]> {
    const ear = this.ear(serial);
    const { receiver } = this.receiver(serial);
    const next = check(Catching, { ...ear.catching, ...change });
    if (next.low >= next.high)
      throw badInput('edges', `${next.low} to ${next.high} %`, 'The lower share comes first.');
    await this.tuneTo(serial, catchRequest(next), receiver);
    ear.catching = next;
    ear.fault = null;
    this.keep(serial, ear);
    return this.views();
  }

  /** Reads modulation otherwise; a channel outside what is received is tuned to. @throws `bad_input` for what cannot be had, `conflict` while a take is armed or recorded */
  async modulation(serial: string, change: Partial<Modulation>): Promise<RadioView[]> {
    const ear = this.ear(serial);
    const { receiver } = this.receiver(serial);
    const next = check(Modulation, { ...ear.modulation, ...change });
    await this.tuneTo(serial, captureRequest(next), receiver);
    ear.modulation = next;
    ear.fault = null;
    this.keep(serial, ear);
    return this.views();
  }

  /** Arranges the pictures of a page otherwise. @param pictures none at all: as it begins */
  arrange(serial: string, page: Pictured, pictures: readonly Picture[]): RadioView[] {
    this.receiver(serial);
    const ear = this.ear(serial);
    ear.pictures = { ...ear.pictures, [page]: pictures.length ? pictures : PICTURES_BEGIN[page] };
    this.keep(serial, ear);
    return this.views();
  }

  /** Tunes to a channel that lies outside what is received. @throws `bad_input` for what cannot be had */
  private async tuneTo(serial: string, wanted: CatchRequest, receiver: ReceiverState): Promise<void> {
    const outside =
      Math.abs(wanted.centreHz - receiver.centreHz) + wanted.widthHz / 2 >
      (receiver.sampleRateHz * USABLE_SHARE) / 2;
    const centreHz =
      outside && receiver.tunes && wanted.widthHz <= receiver.sampleRateHz
        ? wanted.centreHz
        : receiver.centreHz;
    new Catcher(wanted, { ...receiver, centreHz }); // says what cannot be had
    if (centreHz !== receiver.centreHz) await this.app.engine.command({ do: 'tune', unit: serial, centreHz });
  }

  /** Lines begin anew. @param ids of some; none for all, and the waterfall with them */
  clear(serial: string, ids: string[]): void {
    this.receiver(serial);
    const ear = this.ear(serial);
    for (const id of ids.length ? ids : ear.lines.map((l) => l.id))
      ear.begins.set(id, (ear.begins.get(id) ?? 0) + 1);
    this.ask(serial);
  }

  private keep(serial: string, ear: Ear): void {
    putHouse(this.app.db, keyOf(serial), {
      listening: ear.listening,
      lines: ear.lines,
      measuring: ear.measuring,
      catching: ear.catching,
      modulation: ear.modulation,
      pictures: ear.pictures,
    });
    this.ask(serial);
    this.app.live.pushRadio(serial, 'changed', { unit: serial });
  }

  /** What the engine is asked to hear. */
  private wish({ listening: s, lines, begins, measuring }: Ear): ListenWish {
    const pin = measuring.counts ? measuring.pins.find((p) => p.id === measuring.to) : undefined;
    return {
      request: bandOf(s),
      detector: s.detector,
      top: s.top,
      height: s.height,
      eachS: s.eachS,
      fadeS: s.fadeS,
      count: pin ? { hz: pin.hz, bandwidthHz: 8000 * s.resolving } : null,
      lines: lines.map((l) => ({
        id: l.id,
        line: wishedLine(l, lines),
        held: l.held,
        begins: begins.get(l.id) ?? 0,
      })),
    };
  }
  private ask(serial: string): void {
    const ear = this.ear(serial);
    const { live } = this.app;
    const wish: RadioWish = {
      band: live.lookedAt('radio').includes(serial) ? this.wish(ear) : null,
      catching: live.lookedAt('catches').includes(serial) ? catchRequest(ear.catching) : null,
      ...(live.lookedAt('captures').includes(serial) && { reading: captureRequest(ear.modulation) }),
    };
    const wanted = wish.band !== null || wish.catching !== null || !!wish.reading;
    if (!wanted && !ear.asked) return;
    ear.asked = wanted;
    if (this.recordings.want(serial, wish)) return;
    // A unit that is not there now is asked again once it is.
    this.app.engine.command({ do: 'listen', unit: serial, wish }).catch(() => (ear.asked = false));
  }
  /** Other receivers are looked at than before. */
  private follow(): void {
    const { live } = this.app;
    for (const serial of new Set([
      ...live.lookedAt('radio'),
      ...live.lookedAt('catches'),
      ...live.lookedAt('captures'),
      ...this.ears.keys(),
    ]))
      this.ask(serial);
  }
  /** The engine began anew: it knows nothing of what was asked. */
  again(): void {
    this.gatherings.again();
    for (const [serial, ear] of this.ears) if (!this.recordings.has(serial)) ear.asked = false;
    this.follow();
  }

  /** Lets go of recorded bands. */
  close = (): void => this.recordings.close();

  /** What was heard. */
  heard(heard: HeardBand | CaughtTold | HeardFault): void {
    const ear = this.ear(heard.unit);
    if ('iq' in heard) {
      ear.fault = null;
      return this.app.live.pushRadio(heard.unit, heard.reading ? 'capture' : 'caught', encodeCaught(heard));
    }
    if (!('plan' in heard)) {
      ear.fault = heard;
      this.app.live.pushRadio(heard.unit, 'fault', heard);
      return;
    }
    ear.fault = null;
    const { startHz, stepHz, lines } = heard.plan;
    const band = `${startHz} ${stepHz} ${lines}`;
    if (band !== ear.band || !ear.waterfall) ear.waterfall = new Waterfall(lines);
    ear.band = band;
    ear.waterfall.push(heard.highest, heard.fromS, heard.toS);
    this.app.live.pushRadio(heard.unit, 'heard', encodeHeard(heard));
  }

  /** The waterfall so far, for a page that opens now. */
  private past(unit: string): Uint8Array | null {
    const { waterfall } = this.ear(unit);
    return waterfall && encodePast(waterfall);
  }
}

/** A sentence whose two ways of saying a span agree. @param by the one that holds */
function saidBothWays(s: Listening, by: Listening['span']): Listening {
  const round = (mhz: number) => Number(mhz.toFixed(6));
  if (by === 'around') return { ...s, from: round(s.around - s.wide / 2), to: round(s.around + s.wide / 2) };
  return s.from < s.to ? { ...s, around: round((s.from + s.to) / 2), wide: round(s.to - s.from) } : s;
}
