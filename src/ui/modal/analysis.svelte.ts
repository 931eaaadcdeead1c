import type { Correlations } from '$core/modal/correlations';
import type { FitResult } from '$core/modal/analysis';
import { FITS } from '$core/modal/fits';
import { type AnalysisView, type Correlate, type Fit, type ModalSpan, type PickedMode, type SetView } from '$contract/modal'; // prettier-ignore
import { call, faultText, send } from '../api';
import type { useShell } from '../shell/shell.svelte';
import type { LinesAnswer, LinesAsk, SetLines } from './lines.worker';

/** Files that were fetched, by their name: none ever changes, and few are looked at. */
const known = new Map<string, Promise<unknown>>();
const MOST = 12;

function fetched<T>(name: string, load: () => Promise<Response>): Promise<T> {
  const held = known.get(name) as Promise<T> | undefined;
  if (held) return held;
  const made = Promise.all([import('cbor2'), load()]).then(
    async ([{ decode }, response]) =>
      decode<{ result: T }>(new Uint8Array(await response.arrayBuffer())).result,
  );
  known.set(name, made);
  const [oldest] = known.keys();
  if (known.size > MOST) known.delete(oldest);
  made.catch(() => known.delete(name));
  return made;
}
/** Of what is struck or shaken: coherence of each pair over the lines, the force of each hit over its frame, and how much of that lies ahead of the hit. */
export interface Driven {
  coherence: Float32Array;
  courses: Float32Array[];
  ahead: number;
}
interface CorrelationFile {
  set: Correlations;
  references: number[];
  driving: Driven | null;
}
export const correlationsOf = (analysis: string, set: SetView): Promise<CorrelationFile> =>
  fetched(set.correlationsId!, () =>
    send('GET /api/modal/[id]/sets/[set]/correlations', { params: { id: analysis, set: set.id } }),
  );
const polesOf = (analysis: string, set: SetView): Promise<FitResult> =>
  fetched(set.polesId!, () =>
    send('GET /api/modal/[id]/sets/[set]/poles', { params: { id: analysis, set: set.id } }),
  );

/** Makes half spectra and indicators in a worker of the browser. */
export class LineMaker {
  private held: Worker | null = null;
  private readonly waiting = new Map<number, (answer: LinesAnswer) => void>();
  private id = 0;

  private get worker(): Worker {
    if (!this.held) {
      this.held = new Worker(new URL('./lines.worker.ts', import.meta.url), { type: 'module' });
      this.held.onmessage = ({ data }: MessageEvent<LinesAnswer>) => {
        this.waiting.get(data.id)?.(data);
        this.waiting.delete(data.id);
      };
    }
    return this.held;
  }
  make({ set, references }: CorrelationFile, left: number): Promise<SetLines> {
    const id = ++this.id;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, ({ made, fault }) => (made ? resolve(made) : reject(new Error(fault))));
      this.worker.postMessage({ id, set, references, left } satisfies LinesAsk);
    });
  }
  close(): void {
    this.held?.terminate();
  }
}

const POLL_MS = 250;

/** An analysis as its page shows it: which set, what was fetched of it, and what is done with it. */
export class Analysis {
  view = $state.raw<AnalysisView>() as AnalysisView;
  chosen = $state('');
  file = $state.raw<(CorrelationFile & { of: string }) | null>(null);
  lines = $state.raw<{ of: string; made: SetLines } | null>(null);
  fit = $state.raw<{ of: string; result: FitResult } | null>(null);
  /** ± over blocks of the span is on its way. */
  spreading = $state(false);
  readonly set = $derived(this.view.sets.find((s) => s.id === this.chosen) ?? this.view.sets[0]);
  readonly running = $derived(this.set.state === 'correlating' || this.set.state === 'fitting');

  constructor(
    opened: AnalysisView,
    private readonly shell: ReturnType<typeof useShell>,
    private readonly maker: LineMaker,
  ) {
    this.view = opened;
    this.chosen = opened.sets[0].id;
  }

  /** Follows what the server computes, and fetches what is new. To be called once, where effects live. */
  follow(): void {
    $effect(() => {
      if (!this.view.sets.some((s) => s.state === 'correlating' || s.state === 'fitting' || s.state === 'new')) return; // prettier-ignore
      const timer = setInterval(() => void this.ask(), POLL_MS);
      return () => clearInterval(timer);
    });
    $effect(() => {
      const { set } = this;
      const left = set.correlate.left / 100;
      if (!set.correlationsId) return;
      const of = `${set.correlationsId} ${left}`;
      if (this.lines?.of === of) return;
      const name = set.correlationsId;
      void this.act(async () => {
        const file = await correlationsOf(this.view.id, set);
        const made = await this.maker.make(file, left);
        if (this.set.correlationsId !== name) return;
        this.file = { of: name, ...file };
        this.lines = { of, made };
      });
    });
    $effect(() => {
      const { set } = this;
      if (!set.polesId || this.fit?.of === set.polesId) return;
      const of = set.polesId;
      void this.act(async () => {
        const result = await polesOf(this.view.id, set);
        if (this.set.polesId === of) this.fit = { of, result };
      });
    });
  }

  private async act(work: () => Promise<void>): Promise<void> {
    try {
      await work();
    } catch (error) {
      this.shell.say(faultText(error));
    }
  }
  private params = () => ({ id: this.view.id, set: this.set.id });

  async ask(): Promise<void> {
    const now = await call('GET /api/modal/[id]', { params: { id: this.view.id } }).catch(() => null);
    if (now) this.view = now;
  }
  change = async (what: {
    correlate?: Partial<Correlate> & { resolution?: number };
    fit?: Partial<Fit>;
    spans?: ModalSpan[];
  }) => {
    // prettier-ignore
    this.view = await call('PATCH /api/modal/[id]/sets/[set]', { params: this.params(), body: what });
  };
  pick = async (picks: readonly PickedMode[]) => {
    this.view = await call('PUT /api/modal/[id]/sets/[set]/modes', { params: this.params(), body: { picks: [...picks] } }); // prettier-ignore
    // ± over blocks comes a little later; a quick look has none.
    if (this.spreading || this.set.fit.method === FITS[2]) return;
    this.spreading = true;
    try {
      for (let tries = 0; tries < 40 && this.set.modes && !this.set.modes.overBlocks; tries++) {
        await new Promise((r) => setTimeout(r, 500));
        await this.ask();
      }
    } finally {
      this.spreading = false;
    }
  };
  say = (work: () => Promise<unknown>) => this.act(async () => void (await work()));
  another = async () => {
    const { view, set } = await call('POST /api/modal/[id]/sets', { params: { id: this.view.id }, body: { like: this.set.id } }); // prettier-ignore
    this.view = view;
    this.chosen = set;
  };
  runs = async (takes: string[]) => {
    this.view = await call('POST /api/modal/[id]/runs', { params: { id: this.view.id }, body: { like: this.set.id, takes } }); // prettier-ignore
  };
  remove = async (set: string) => {
    this.view = await call('DELETE /api/modal/[id]/sets/[set]', { params: { id: this.view.id, set } });
    if (set === this.chosen) this.chosen = this.view.sets[0].id;
  };
  cancel = async () => {
    await call('POST /api/modal/[id]/sets/[set]/cancel', { params: this.params() });
    await this.ask();
  };
  spread = async (times: number) => {
    this.view = await call('POST /api/modal/[id]/sets/[set]/spread', { params: this.params(), body: { times } }); // prettier-ignore
  };
  onFrame = async (frame: string | null) => {
    this.view = await call('PATCH /api/modal/[id]', { params: { id: this.view.id }, body: { frame } });
  };
}
