<!-- Mends a channel of a take beside what was recorded: what is done as a sentence, before and after, why. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { MENDING_KINDS } from '$core/mending/registry';
  import type { Names } from '$core/sentence/sentence';
  import { unpacked } from '$contract/packed';
  import { comparing } from '$contract/palette';
  import type { TakeSignal, TakeView } from '$contract/take';
  import { call, faultText, send, type FaultText } from '../api';
  import Dialog from '../kit/Dialog.svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import { plotColours } from '../plot/strip-plot';
  import { TracePlot } from '../plot/trace-plot';
  import { provideChoices } from '../sentence/choices';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    open: boolean;
    take: TakeView;
    signal: TakeSignal;
    /** What is looked at, s of the take. */
    window: [number, number];
    /** The span between the cursors, where there are two. */
    span: [number, number] | null;
    done: (says: string) => void;
  };
  let { open = $bindable(), take, signal, window, span, done }: Props = $props();
  const shell = useShell();

  let kind = $state(MENDING_KINDS[0].kind);
  let settings = $state.raw<Record<string, unknown>>({});
  let why = $state('');
  let fault = $state<FaultText | null>(null);
  let busy = $state(false);
  interface Seen {
    changed: number;
    samples: number;
    follow: string[];
    unit: string;
    name: string;
    fromS: number;
    stepS: number;
    buckets: number;
  }
  let seen = $state.raw<(Seen & { curves: Float32Array[] }) | null>(null);

  const found = $derived(MENDING_KINDS.find((k) => k.kind === kind)!);
  const value = $derived<Record<string, unknown>>({ ...found.defaults, ...usual(kind), ...settings });
  /** What is usual for this channel and what is looked at. */
  function usual(of: string): Record<string, unknown> {
    const round = (s: number) => Number(Math.max(0, s).toFixed(4));
    if (of === 'missing' && span) return { from: round(span[0]), to: round(span[1]) };
    if (of === 'drift') return { from: 0, to: round(take.durationS) };
    if (of === 'rename') return { name: signal.name };
    if (of === 'unit') return { to: signal.unit };
    if (of === 'swap')
      return {
        with:
          take.signals.find((s) => s.id !== signal.id && s.unit === signal.unit && s.role === 'measured')
            ?.name ?? '',
      };
    return {};
  }
  const names: Names = { channel: (name) => ({ name: name || '…', unit: signal.unit }) };
  provideChoices(() =>
    take.signals.filter((s) => s.id !== signal.id).map((s) => ({ id: s.name, name: s.name, unit: s.unit })),
  );
  const shown = $derived({ ...value, unit: signal.unit });

  function change(key: string, next: unknown): Promise<void> {
    const parsed = found.sentence.schema.safeParse({ ...value, [key]: next });
    if (!parsed.success) return Promise.reject(new Error(parsed.error.issues[0].message));
    settings = { ...settings, [key]: next };
    return Promise.resolve();
  }

  let asked = 0;
  $effect(() => {
    if (!open) return;
    const body = {
      signal: signal.id,
      mending: { kind, settings: value },
      from: window[0],
      to: window[1],
      width: 700,
    };
    const own = ++asked;
    const timer = setTimeout(async () => {
      try {
        const response = await send('POST /api/takes/[id]/mends/preview', {
          params: { id: take.head.id },
          body,
        });
        const { head, next } = unpacked<Seen>(await response.arrayBuffer());
        if (own !== asked) return;
        seen = { ...head, curves: [0, 1, 2, 3].map(() => next(head.buckets)) };
        fault = null;
      } catch (error) {
        if (own === asked) [seen, fault] = [null, faultText(error)];
      }
    }, 150);
    return () => clearTimeout(timer);
  });

  const attach = (canvas: HTMLCanvasElement) => {
    const plot = new TracePlot(canvas, plotColours(canvas));
    $effect(() => {
      if (!seen) return;
      const inks = comparing(shell.night);
      const x = Float64Array.from({ length: seen.buckets }, (_, i) => seen!.fromS + (i + 0.5) * seen!.stepS);
      const axis = {
        key: kind,
        side: 'left' as const,
        logarithmic: false,
        min: null,
        max: null,
        colour: null,
      };
      const [lowBefore, highBefore, low, high] = seen.curves;
      plot.draw({
        from: window[0],
        to: window[1],
        left: 58,
        right: 8,
        bands: [],
        axes: [axis],
        traces: [
          { x, min: lowBefore, max: highBefore, axis: 0, colour: inks.back, width: 1.25, dash: [] },
          { x, min: low, max: high, axis: 0, colour: inks.front, width: 1.5, dash: [] },
        ],
      });
    });
    return () => plot.destroy();
  };

  async function mend() {
    busy = true;
    try {
      const { changed, followed, left } = await call('POST /api/takes/[id]/mends', {
        params: { id: take.head.id },
        body: { signal: signal.id, mending: { kind, settings: value }, why },
      });
      const says = [
        `${signal.name} is mended${changed ? `: ${changed} samples changed` : ''}.`,
        followed.length ? `Computed anew: ${followed.join(', ')}.` : '',
        left.length ? `Not computed anew: ${left.join('; ')}` : '',
      ];
      [open, why, settings] = [false, '', {}];
      done(says.filter(Boolean).join(' '));
    } catch (error) {
      fault = faultText(error);
    } finally {
      busy = false;
    }
  }
</script>

<Dialog bind:open title="Mend {signal.name} of {take.head.name}" size="lg">
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void mend();
    }}
  >
    <label class="kind"
      >What is done
      <select
        aria-label="What is done"
        value={kind}
        onchange={(e) => {
          kind = e.currentTarget.value;
          settings = {};
        }}
      >
        {#each MENDING_KINDS as k (k.kind)}<option value={k.kind}>{k.title}</option>{/each}
      </select>
    </label>
    <SentenceView sentence={found.sentence} value={shown} {names} {change} />
    <div class="picture">
      <canvas {@attach attach} aria-label="{signal.name} before in grey, after in plum"></canvas>
    </div>
    <p class="muted" data-testid="preview" aria-live="polite">
      {#if seen}
        {seen.changed === 0
          ? 'It changes no sample'
          : `It changes ${seen.changed} of ${seen.samples} samples`}; grey is before, plum after, in the
        window that is looked at.
        {seen.follow.length ? `Computed anew with it: ${seen.follow.join(', ')}.` : ''}
      {:else if !fault}Looking at it …{/if}
    </p>
    <label class="why"
      >Why <input
        type="text"
        bind:value={why}
        maxlength="400"
        placeholder="who reads it later was not there"
      /></label
    >
    <p class="muted small">
      What was recorded stays as it is, and its seal holds. It can be taken back at any time.
    </p>
    {#if fault}<FaultNote {fault} />{/if}
    <Button type="submit" size="sm" disabled={busy || !seen || why.trim().length < 3}
      >{busy ? 'Mending it…' : 'Mend it'}</Button
    >
  </form>
</Dialog>

<style>
  form {
    display: grid;
    gap: var(--space-2);
    justify-items: start;
  }
  .kind,
  .why {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: var(--space-2);
    align-items: center;
    width: 100%;
  }
  select,
  input {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--paper);
    padding: var(--space-1) var(--space-6) var(--space-1) var(--space-2);
    font-size: var(--type-body);
  }
  .picture {
    position: relative;
    width: 100%;
    height: 190px;
    border: 1px solid var(--hair);
    border-radius: var(--radius);
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
  p {
    margin: 0;
    min-height: 20px;
  }
  .small {
    font-size: var(--type-small);
  }
</style>
