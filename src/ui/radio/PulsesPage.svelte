<!-- Level over time: a picture held where it begins, a region of it looked at closer in four pictures, its pulses measured. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { Button } from 'flowbite-svelte';
  import { resolve } from '$app/paths';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { burstsOf, BURST_MEASURES, statisticsOf, type Burst } from '$core/radio/bursts';
  import { fixed } from '$core/readings';
  import { FRAME_KINDS, decodeJson } from '$contract/live';
  import type { HeardFault, RadioView } from '$contract/radio';
  import { CATCHING, catchRequest, decodeCaught, type CaughtTold } from '$contract/radio-catching';
  import type { BodyIn } from '$contract/api';
  import { call } from '../api';
  import Empty from '../kit/Empty.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { useShell } from '../shell/shell.svelte';
  import Overview from './Overview.svelte';
  import { PICTURES, type PictureKind } from './pictures';
  import Pictures from './Pictures.svelte';
  import AddPicture from './AddPicture.svelte';
  import Places from './Places.svelte';
  import PlayBar from './PlayBar.svelte';
  import { watchReceivers } from './receivers';
  import TimePicture from './TimePicture.svelte';

  type Props = { views: RadioView[]; shown: string | null };
  let { views, shown: first }: Props = $props();
  const shell = useShell();
  let all = $state.raw(untrack(() => views));
  $effect.pre(() => void (all = views));
  const receivers = watchReceivers(shell);
  $effect(() => receivers(() => void call('GET /api/radio').then((next) => (all = next))));
  let unit = $state(untrack(() => first ?? ''));
  const view = $derived(all.find((v) => v.unit === unit) ?? all.at(0));

  let caught = $state.raw<CaughtTold | null>(null);
  let fault = $state.raw<HeardFault | null>(null);
  let held = $state(false);
  let region = $state.raw<{ from: number; to: number } | null>(null);
  let pictures = $state<Pictures>();

  $effect(() => {
    const serial = view?.unit;
    if (!serial) return;
    return untrack(() =>
      shell.feed.watchRadio(serial, 'catches', (kind, payload) => {
        if (kind === FRAME_KINDS.radio) void call('GET /api/radio').then((next) => (all = next));
        else if (kind === FRAME_KINDS.heardFault) fault = decodeJson<HeardFault>(payload);
        else if (kind === FRAME_KINDS.caught && !held) {
          const next = decodeCaught(payload);
          // One that is still on its way was asked for otherwise.
          if (!view || JSON.stringify(next.wish) !== JSON.stringify(catchRequest(view.catching))) return;
          caught = next;
          fault = null;
        }
      }),
    );
  });
  async function change(key: string, value: unknown) {
    if (!view) return;
    all = await call('PUT /api/radio/[unit]/catching', {
      params: { unit: view.unit },
      body: { [key]: value },
    });
    caught = held ? caught : null;
    fault = null;
  }

  async function play(body: BodyIn<'PUT /api/radio/[unit]/playing'>) {
    if (view) all = await call('PUT /api/radio/[unit]/playing', { params: { unit: view.unit }, body });
  }

  const edges = $derived<[number, number]>(
    view ? [view.catching.low / 100, view.catching.high / 100] : [0.1, 0.9],
  );
  const bursts = $derived(caught ? burstsOf(caught.iq, caught.sampleRateHz, edges) : []);
  /** A sixth of the picture, from its begin on, until another is chosen. */
  const closer = $derived.by(() => {
    if (region || !caught) return region ?? { from: 0, to: 1 };
    const n = caught.iq.length / 2;
    const from = Math.max(0, caught.beginAt / n - 1 / 30);
    return { from, to: Math.min(1, from + 1 / 6) };
  });
  const part = $derived.by(() => {
    if (!caught) return null;
    const n = caught.iq.length / 2;
    const [first, end] = [
      Math.floor(closer.from * n),
      Math.max(Math.floor(closer.from * n) + 2, Math.ceil(closer.to * n)),
    ];
    const fromS = first / caught.sampleRateHz;
    return {
      iq: caught.iq.subarray(2 * first, 2 * end),
      zero: caught.beginAt - first,
      bursts: bursts.map((b): Burst => ({ ...b, atS: b.atS - fromS })),
      one: bursts.find((b) => b.atS >= fromS - b.widthS && b.atS < end / caught!.sampleRateHz) ?? null,
    };
  });
  const level = $derived(
    view?.catching.begins === 'where the power'
      ? {
          at: view.catching.level,
          says: `begins where it ${view.catching.way} ${fixed(view.catching.level, 0)} dBm`,
        }
      : null,
  );

  /** Times in µs or ms, shares in %, frequencies in kHz, all of one row alike. */
  const ROWS = {
    widthS: ['ms', 1e3, 3],
    periodS: ['ms', 1e3, 3],
    duty: ['%', 100, 2],
    riseS: ['µs', 1e6, 1],
    fallS: ['µs', 1e6, 1],
    top: ['dBm', 1, 1],
    base: ['dBm', 1, 1],
    over: ['dB', 1, 1],
    droop: ['dB', 1, 1],
    onToOff: ['dB', 1, 1],
    frequencyHz: ['kHz', 1e-3, 2],
    sweepHz: ['kHz', 1e-3, 1],
  } as const;
  const cell = (key: keyof typeof ROWS, value: number | undefined) => {
    const [, by, decimals] = ROWS[key];
    return value === undefined || !Number.isFinite(value) ? '—' : fixed(value * by, decimals);
  };
  /** A spread with a digit more than what it is about. */
  const spread = (key: keyof typeof ROWS, s: number) => {
    const [, by, decimals] = ROWS[key];
    if (!Number.isFinite(s)) return '—';
    const least = 10 ** -(decimals + 1);
    return s * by < least / 2 ? `<${fixed(least, decimals + 1)}` : fixed(s * by, decimals + 1);
  };
  async function copy() {
    const head = ['begins, ms', ...BURST_MEASURES.map(([key, name]) => `${name}, ${ROWS[key][0]}`)];
    const rows = bursts.map((b) => [
      (b.atS * 1e3).toFixed(4),
      ...BURST_MEASURES.map(([key]) =>
        Number.isFinite(b[key]) ? String(Number((b[key] * ROWS[key][1]).toPrecision(7))) : '',
      ),
    ]);
    await navigator.clipboard.writeText([head, ...rows].map((r) => r.join('\t')).join('\n'));
  }
  function keys(e: KeyboardEvent) {
    if (
      (e.target as HTMLElement).closest('input, textarea, select, [role=dialog], [role=slider]') ||
      e.ctrlKey ||
      e.metaKey ||
      e.altKey
    )
      return;
    if (e.key === 'h') held = !held;
    else if (e.key === 'c') void copy();
    else return;
    e.preventDefault();
  }
</script>

<svelte:window onkeydown={keys} />
<div class="page">
  <div class="page-head">
    <h1>Pulses</h1>
    {#if view}
      {#if all.length > 1}
        <select class="plain" aria-label="Receiver" bind:value={unit}>
          {#each all as v (v.unit)}<option value={v.unit}>{v.name}</option>{/each}
        </select>
      {:else}<span class="muted">{view.name}</span>{/if}
      <span class="aside"
        >{caught
          ? `picture ${caught.number}, ${bursts.length === 1 ? '1 pulse' : `${bursts.length} pulses`}`
          : 'waiting for the begin'}</span
      >
    {/if}
    <div class="actions">
      {#if view}<AddPicture
          kinds={PICTURES}
          add={(k) => void pictures?.add(k)}
          anew={() => pictures?.anew()}
        />{/if}
      <Places take={view?.recorded?.takeId} />
      <Button size="sm" color={held ? 'primary' : 'alternative'} onclick={() => (held = !held)}
        >{held ? 'Go on' : 'Hold'} <kbd>H</kbd></Button
      >
    </div>
  </div>
  {#if !view}
    <Empty says="No receiver is there yet: add one to the rig, and its pulses are caught here.">
      <Button href={resolve('/rig')}>Open the rig</Button>
    </Empty>
  {:else}
    <SentenceView sentence={CATCHING} value={view.catching} names={NO_NAMES} size="large" {change} />
    {#if fault}<p class="fault" role="alert">{fault.says} {fault.next}</p>{/if}
    {#if view.recorded}<PlayBar recorded={view.recorded} nowS={caught?.fromS ?? null} {play} />{/if}
    <div class="card strip">
      {#if caught}
        <Overview
          iq={caught.iq}
          sampleRateHz={caught.sampleRateHz}
          zero={caught.beginAt}
          region={closer}
          night={shell.night}
          change={(next) => (region = next)}
        />
      {:else}
        <p class="muted waiting">
          Nothing was caught yet{level
            ? `: the power has not yet ${view.catching.way === 'rises above' ? 'risen above' : 'fallen below'} ${fixed(level.at, 0)} dBm`
            : ''}.
        </p>
      {/if}
    </div>
    {#if part && caught}
      <Pictures bind:this={pictures} page="pulses" {view} told={(next) => (all = next)}>
        {#snippet picture({ shows }, choose, remove)}
          <TimePicture
            shows={shows in PICTURES ? (shows as PictureKind) : 'power'}
            iq={part.iq}
            sampleRateHz={caught!.sampleRateHz}
            centreHz={caught!.centreHz}
            zero={part.zero}
            bursts={part.bursts}
            {level}
            night={shell.night}
            {choose}
            {remove}
          />
        {/snippet}
        {#snippet numbers()}
          <section class="card all" aria-label="Pulses">
            <header class="picture-head">
              <h2>Of {bursts.length === 1 ? '1 pulse' : `${bursts.length} pulses`}</h2>
              <button
                type="button"
                class="quiet"
                disabled={bursts.length === 0}
                onclick={() => void copy()}
                title="Copy all pulses for a spreadsheet (C)">copy</button
              >
            </header>
            <table class="plain">
              <thead
                ><tr><th></th><th class="num">this</th><th class="num">mean</th><th class="num">± s</th></tr
                ></thead
              >
              <tbody>
                {#each BURST_MEASURES as [key, name] (key)}
                  {@const all = statisticsOf(bursts, key)}
                  <tr data-measure={key}>
                    <td>{name}, {ROWS[key][0]}</td>
                    <td class="num">{cell(key, part.one?.[key])}</td>
                    <td class="num">{cell(key, all.mean)}</td>
                    <td class="num">{spread(key, all.s)}</td>
                  </tr>
                {/each}
              </tbody>
            </table>
          </section>
        {/snippet}
      </Pictures>
    {/if}
  {/if}
</div>

<style>
  .fault {
    color: var(--red);
  }
  .strip {
    height: 84px;
    padding: var(--space-1);
    flex-shrink: 0;
  }
  .waiting {
    display: grid;
    place-content: center;
    height: 100%;
  }
  .all {
    padding: var(--space-2) var(--space-3);
    overflow: auto;
    min-height: 0;
    min-width: 0;
  }
  .all header {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
  }
  .all :is(td, th) {
    padding-block: 0;
    line-height: 20px;
    font-size: var(--type-small);
    white-space: nowrap;
  }
  .quiet {
    color: var(--muted);
    font-size: var(--type-small);
  }
  .quiet:hover {
    color: var(--plum);
  }
</style>
