<!-- Makes signals of signals: how as a sentence, what it does to each frequency, before and after in what is looked at. What is made is a channel. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { untrack } from 'svelte';
  import type { Figure } from '$core/figures/figure';
  import { MAKING_KINDS } from '$core/making/registry';
  import type { Names } from '$core/sentence/sentence';
  import { suits, usualInputs } from '$core/studies/inputs';
  import { unpacked } from '$contract/packed';
  import { comparing } from '$contract/palette';
  import type { TakeView } from '$contract/take';
  import { call, faultText, send, type FaultText } from '../api';
  import Dialog from '../kit/Dialog.svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import FigureView from '../plot/FigureView.svelte';
  import { plotColours } from '../plot/strip-plot';
  import { TracePlot, type TraceAxis } from '../plot/trace-plot';
  import { provideChoices } from '../sentence/choices';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    open: boolean;
    take: TakeView;
    /** Takes in which it can be made, too: the marked ones. */
    takes: string[];
    /** Ids of the channels that are looked at. */
    channels: string[];
    /** What is looked at, s of the take. */
    window: [number, number];
    done: (says: string) => void;
  };
  let { open = $bindable(), take, takes, channels, window, done }: Props = $props();
  const shell = useShell();

  let kind = $state(MAKING_KINDS[0].kind);
  let settings = $state.raw<Record<string, unknown>>({});
  let everywhere = $state(false);
  let fault = $state<FaultText | null>(null);
  let stop = $state.raw<AbortController | null>(null);

  const found = $derived(MAKING_KINDS.find((k) => k.kind === kind)!);
  const offered = $derived(
    take.signals.map(({ channelId, name, unit, width, rate }) => ({
      id: channelId!,
      name,
      unit,
      width,
      rate,
    })),
  );
  const usual = $derived.by(() => {
    const inputs = usualInputs(found, offered, channels);
    // All channels at once is what somebody has to want.
    const several = found.roles.find((r) => r.takes === 'several');
    if (several && (inputs[several.key] as string[]).length === 0)
      inputs[several.key] = offered
        .filter((o) => suits(several, o))
        .slice(0, 1)
        .map((o) => o.id);
    const first = take.signals.find((s) => Object.values(inputs).flat().includes(s.channelId));
    return { ...inputs, ...(first && found.suited?.(first)) };
  });
  const value = $derived<Record<string, unknown>>({ ...found.defaults, ...usual, ...settings });
  const names: Names = { channel: (id) => offered.find((o) => o.id === id) };
  provideChoices((key) => {
    const role = found.roles.find((r) => r.key === key);
    return role ? offered.filter((o) => suits(role, o)) : offered;
  });
  function change(key: string, next: unknown): Promise<void> {
    const parsed = found.sentence.schema.safeParse({ ...value, [key]: next });
    const own = parsed.error?.issues.find((i) => i.path[0] === key);
    if (own) return Promise.reject(new Error(own.message));
    settings = { ...settings, [key]: next };
    return Promise.resolve();
  }

  interface Curve {
    name: string;
    unit: string;
    fromS: number;
    stepS: number;
    buckets: number;
  }
  interface Head {
    rateHz: number;
    gaps: string;
    sources: number;
    curves: Curve[];
  }
  let seen = $state.raw<(Head & { drawn: { min: Float32Array; max: Float32Array }[] }) | null>(null);
  const response = $derived.by((): Figure | null => {
    if (!seen || !found.response) return null;
    try {
      return found.response(value, seen.rateHz);
    } catch {
      return null; // such as a median: it has none
    }
  });

  let asked = 0;
  $effect(() => {
    if (!open) return;
    const body = { making: { kind, settings: value }, from: window[0], to: window[1], width: 700 };
    const own = ++asked;
    const unfinished = found.sentence.schema.safeParse(value).error?.issues[0];
    if (unfinished) {
      untrack(() => ([seen, fault] = [null, null]));
      return;
    }
    const timer = setTimeout(async () => {
      try {
        const answer = await send('POST /api/takes/[id]/made/preview', {
          params: { id: take.head.id },
          body,
        });
        const { head, next } = unpacked<Head>(await answer.arrayBuffer());
        if (own !== asked) return;
        seen = { ...head, drawn: head.curves.map((c) => ({ min: next(c.buckets), max: next(c.buckets) })) };
        fault = null;
      } catch (error) {
        if (own === asked) [seen, fault] = [null, faultText(error)];
      }
    }, 150);
    return () => clearTimeout(timer);
  });

  /** Of several that are each made alike the first is drawn, of several that belong together all. */
  const drawn = $derived.by(() => {
    if (!seen) return [];
    const all = seen.curves.map((c, k) => ({ ...c, ...seen!.drawn[k], source: k < seen!.sources }));
    const alike = found.roles.some((r) => r.takes === 'several');
    return alike ? [all.find((c) => c.source)!, all.find((c) => !c.source)!].filter(Boolean) : all;
  });

  const attach = (canvas: HTMLCanvasElement) => {
    const plot = new TracePlot(canvas, plotColours(canvas));
    $effect(() => {
      if (drawn.length === 0) return;
      const inks = comparing(shell.night);
      const units = [...new Set(drawn.map((c) => c.unit))].slice(0, 2);
      const axes = units.map((unit, k): TraceAxis => ({ key: `${kind} ${unit}`, side: k ? 'right' : 'left', logarithmic: false, min: null, max: null, colour: null })); // prettier-ignore
      plot.draw({
        from: window[0],
        to: window[1],
        left: 58,
        right: units.length > 1 ? 58 : 8,
        bands: [],
        axes,
        traces: drawn.map((c) => ({
          x: Float64Array.from({ length: c.buckets }, (_, i) => c.fromS + (i + 0.5) * c.stepS),
          min: c.min,
          max: c.max,
          axis: Math.max(0, units.indexOf(c.unit)),
          colour: c.source ? inks.back : inks.front,
          width: c.source ? 1.25 : 1.5,
          dash: [],
        })),
      });
    });
    return () => plot.destroy();
  };
  const made = $derived(seen?.curves.slice(seen.sources) ?? []);

  async function make() {
    const own = new AbortController();
    stop = own;
    try {
      const body = { takes: everywhere ? takes : [take.head.id], making: { kind, settings: value } };
      const outcome = await call('POST /api/takes/made', { body }, { signal: own.signal });
      const fresh = outcome.flatMap((o) => o.made.map((m) => m.name));
      const known = outcome.flatMap((o) => o.known);
      const bad = outcome.filter((o) => o.fault);
      const says = [
        fresh.length ? `Made: ${[...new Set(fresh)].join('; ')}${outcome.length > 1 ? `, in ${outcome.filter((o) => o.made.length).length} takes` : ''}.` : '', // prettier-ignore
        known.length
          ? `${[...new Set(known)].join('; ')} ${known.length > 1 ? 'were' : 'was'} there already.`
          : '',
        ...bad.slice(0, 3).map((b) => `Not in ${b.name}: ${b.fault}`),
        bad.length > 3 ? `Nor in ${bad.length - 3} more.` : '',
      ];
      [open, settings] = [false, {}];
      done(says.filter(Boolean).join(' '));
    } catch (error) {
      fault = own.signal.aborted ? { what: 'Stopped. The take is as it was.' } : faultText(error);
    } finally {
      stop = null;
    }
  }
</script>

<Dialog bind:open title="A signal made from signals of {take.head.name}" size="xl">
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void make();
    }}
  >
    <label class="kind"
      >What is made
      <select
        aria-label="What is made"
        value={kind}
        onchange={(e) => {
          kind = e.currentTarget.value;
          [settings, seen] = [{}, null];
        }}
      >
        {#each MAKING_KINDS as k (k.kind)}<option value={k.kind}>{k.title}</option>{/each}
      </select>
    </label>
    <SentenceView sentence={found.sentence} {value} {names} {change} />
    <div class="pictures" class:two={response !== null}>
      <div class="picture">
        <canvas {@attach attach} aria-label="Before in grey, after in plum"></canvas>
      </div>
      {#if response}<div class="picture response" aria-label="Response">
          <span class="muted small">{response.title}, dB over Hz</span>
          <FigureView figure={response} night={shell.night} bare />
        </div>{/if}
    </div>
    <p class="muted" data-testid="making" aria-live="polite">
      {#if seen}
        {#if made.length === 1}<strong>{made[0].name}</strong>{made[0].unit === '1'
            ? ''
            : `, in ${made[0].unit}`}.
        {:else}{made.length} channels: {made
            .map((c) => `${c.name}${c.unit === '1' ? '' : `, in ${c.unit}`}`)
            .join('; ')}.{/if}
        Grey is before, plum after. {seen.gaps}
      {:else if !fault}What stands in the sentence is not whole yet.{/if}
    </p>
    {#if takes.length > 1}<label
        ><input type="checkbox" bind:checked={everywhere} /> in all {takes.length} marked takes</label
      >{/if}
    {#if fault}<FaultNote {fault} />{/if}
    <div class="do">
      <Button type="submit" size="sm" disabled={stop !== null || !seen}
        >{stop ? 'Making it …' : 'Keep it as a channel'}</Button
      >
      {#if stop}<Button size="sm" color="alternative" onclick={() => stop?.abort()}>Stop</Button>{/if}
      <span class="muted small">What was recorded stays as it is. It follows when its source is mended.</span>
    </div>
  </form>
</Dialog>

<style>
  form {
    display: grid;
    gap: var(--space-2);
    justify-items: start;
  }
  .kind {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: var(--space-2);
    align-items: center;
  }
  select {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--paper);
    padding: var(--space-1) var(--space-6) var(--space-1) var(--space-2);
    font-size: var(--type-body);
  }
  .pictures {
    display: grid;
    gap: var(--space-2);
    width: 100%;
  }
  .pictures.two {
    grid-template-columns: 3fr 2fr;
  }
  .picture {
    position: relative;
    height: 220px;
    border: 1px solid var(--hair);
    border-radius: var(--radius);
    min-width: 0;
  }
  .response {
    display: grid;
    grid-template-rows: auto 1fr;
    padding: var(--space-1);
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
  .do {
    display: flex;
    gap: var(--space-2);
    align-items: center;
  }
  p {
    margin: 0;
    min-height: 20px;
  }
  .small {
    font-size: var(--type-small);
  }
</style>
