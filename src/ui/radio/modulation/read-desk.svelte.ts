import { MEASURES, type Measure, type ModulationRead } from '$core/modulation/read';
import { FRAME_KINDS, decodeJson } from '$contract/live';
import type { HeardFault, RadioView } from '$contract/radio';
import { decodeCaught, type CaughtTold } from '$contract/radio-catching';
import { captureRequest, modulationWish, NUMBERS, type Modulation } from '$contract/radio-modulation';
import type { BodyIn } from '$contract/api';
import { call, faultText } from '../../api';
import { saveText } from '../../files/save';
import type { Shell } from '../../shell/shell.svelte';
import { Reader } from './reader';

/** What a number was over captures. */
export interface Statistic {
  key: Measure;
  now: number;
  mean: number;
  /** Standard deviation over the captures; NaN of fewer than two. */
  s: number;
}

/** One receiver whose modulation is read on a page. */
export class ReadDesk {
  all = $state.raw<RadioView[]>([]);
  unit = $state('');
  read = $state.raw<ModulationRead | null>(null);
  fault = $state.raw<HeardFault | { says: string; next: string } | null>(null);
  held = $state(false);
  /** Captures that were read, and those in which nothing was found. */
  got = $state(0);
  missed = $state(0);
  /** Taps at which the equaliser is held. */
  taps = $state.raw<Float64Array | null>(null);
  private numbers: Record<Measure, number>[] = [];
  statistics = $state.raw<Statistic[]>([]);
  private caught: CaughtTold | null = null;
  private reader: Reader | null = null;

  readonly view = $derived(this.all.find((v) => v.unit === this.unit) ?? this.all.at(0));

  constructor(private readonly shell: Shell) {}

  /** Begins to read; to be called where there is a browser. @returns what ends it */
  begin(): () => void {
    const reader = (this.reader = new Reader((read) => {
      if ('fault' in read) {
        this.missed++;
        // One without it now and then is no fault of what was read before.
        if (!this.read || this.missed > 3) this.fault = { says: read.fault, next: '' };
        return;
      }
      this.missed = 0;
      this.fault = null;
      this.read = read;
      this.got++;
      this.numbers = [...this.numbers, read.numbers].slice(-(this.view?.modulation.captures ?? 50));
      this.count();
    }));
    return () => {
      reader.close();
      this.reader = null;
    };
  }
  /** A frame of the receiver that is looked at. */
  take(kind: number, payload: Uint8Array): void {
    if (kind === FRAME_KINDS.radio) return void this.look();
    if (kind === FRAME_KINDS.heardFault) {
      this.fault = decodeJson<HeardFault>(payload);
      return;
    }
    if (kind !== FRAME_KINDS.capture || this.held) return;
    const caught = decodeCaught(payload);
    const { view } = this;
    // One that is still on its way was asked for otherwise.
    if (!view || JSON.stringify(caught.wish) !== JSON.stringify(captureRequest(view.modulation))) return;
    this.caught = caught;
    this.again();
  }
  /** Reads the last capture as it is asked for now. */
  private again(): void {
    const { caught, view } = this;
    if (!caught || !view) return;
    this.reader?.read({
      iq: caught.iq as Float32Array<ArrayBuffer>,
      sampleRateHz: caught.sampleRateHz,
      wish: modulationWish(view.modulation, this.taps),
    });
  }
  private count(): void {
    const { numbers } = this;
    this.statistics = MEASURES.flatMap((key) => {
      const values = numbers.map((n) => n[key]).filter(Number.isFinite);
      if (values.length === 0) return [];
      const mean = values.reduce((a, v) => a + v, 0) / values.length;
      const s = Math.sqrt(values.reduce((a, v) => a + (v - mean) ** 2, 0) / (values.length - 1));
      return [{ key, now: numbers[numbers.length - 1][key], mean, s }];
    });
  }
  /** Statistics begin anew. */
  anew = (): void => {
    this.numbers = [];
    this.statistics = [];
    this.got = this.missed = 0;
  };

  async look(): Promise<void> {
    this.all = await call('GET /api/radio');
  }
  /** @throws Fault when it is refused */
  async change(change: Partial<Modulation>): Promise<void> {
    const params = { unit: this.view?.unit ?? '' };
    const former = this.view && JSON.stringify(captureRequest(this.view.modulation));
    this.all = await call('PUT /api/radio/[unit]/modulation', { params, body: change });
    this.reader?.forget();
    this.anew();
    this.fault = null;
    this.taps = null;
    this.read = null;
    if (this.view && former !== JSON.stringify(captureRequest(this.view.modulation))) this.caught = null;
    // What was captured is read anew, also while it is held.
    else this.again();
  }
  doing = async (work: () => Promise<unknown>): Promise<void> => {
    try {
      await work();
      this.shell.say(null);
    } catch (error) {
      this.shell.say(faultText(error));
    }
  };
  play = (body: BodyIn<'PUT /api/radio/[unit]/playing'>): Promise<void> =>
    this.doing(
      async () =>
        (this.all = await call('PUT /api/radio/[unit]/playing', {
          params: { unit: this.view?.unit ?? '' },
          body,
        })),
    );
  holdTaps = (): void => {
    this.taps = this.taps ? null : (this.read?.taps ?? null);
  };

  /** Numbers and symbols as CSV. */
  save = (): void => {
    const { read, statistics } = this;
    if (!read) return;
    const rows = [
      ['number', 'unit', 'mean', 'standard deviation', 'this capture'],
      ...statistics.map((x) => [
        NUMBERS[x.key].name,
        NUMBERS[x.key].unit,
        x.mean,
        Number.isFinite(x.s) ? x.s : '',
        x.now,
      ]),
      [],
      ['symbol', 'in phase', 'in quadrature', 'is', 'error vector (%)'],
      ...Array.from(read.symbols, (s, k) => [
        k + 1,
        read.received[2 * k],
        read.received[2 * k + 1],
        s,
        read.errors[k],
      ]),
    ];
    saveText(rows.map((r) => r.join(',')).join('\r\n') + '\r\n', 'Modulation.csv', 'text/csv');
  };
  copyBits = (): Promise<void> => this.doing(() => navigator.clipboard.writeText(this.read?.bits ?? ''));
}
