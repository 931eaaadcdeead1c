<script lang="ts">
  import { rateHz } from '$core/samples/sampled';
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { onMount, untrack } from 'svelte';
  import { tinykeys } from 'tinykeys';
  import { clockText, timeDecimals } from '$core/readings';
  import { Button } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import Late from '../kit/Late.svelte';
  import Cursors from '../take/Cursors.svelte';
  import CursorReadings from '../take/CursorReadings.svelte';
  import TakeSelect from '../take/TakeSelect.svelte';
  import TakeFacts from '../take/TakeFacts.svelte';
  import TakeStrips from '../take/TakeStrips.svelte';
  import { useShell } from '../shell/shell.svelte';
  import type { Overview } from '$contract/overview';
  import { usualStrips, type TakeView } from '$contract/take';

  type Props = { overview: Overview; take: TakeView; written: string | null };
  let { overview, take, written }: Props = $props();
  const shell = useShell();

  const takes = $derived(overview.takes.filter((t) => t.state !== 'recording'));
  let from = $state(0);
  let to = $state(1);
  let trail = $state<[number, number][]>([]);
  let cursors = $state<[number, number]>([0, 0]);
  let chosen = $state<0 | 1>(0);
  let shown = $state<number[]>([]);
  let exporting = $state(false);
  let bringing = $state(false);
  let studying = $state(false);

  // Another take: its whole span, cursors at a third and two thirds, the strips that were shown where it has them.
  $effect(() => {
    const id = take.head.id;
    untrack(() => {
      void id;
      const names = new Set(take.signals.filter((s) => shown.includes(s.id)).map((s) => s.name));
      const kept = take.signals.filter((s) => names.has(s.name));
      shown = (kept.length ? kept : usualStrips(take.signals)).map((s) => s.id);
      [from, to] = [0, take.durationS];
      trail = [];
      cursors = [take.durationS / 3, (2 * take.durationS) / 3];
    });
  });

  /** As many digits of time as the fastest channel in view deserves, and no closer than some of its samples. */
  const fastest = $derived(Math.max(1, ...take.signals.filter((s) => shown.includes(s.id)).map(rateHz)));
  const digits = $derived(timeDecimals(fastest));
  /** The ends of a long window are not known closer than its pixels. */
  const endDigits = $derived(Math.min(digits, Math.max(1, Math.ceil(Math.log10(2000 / (to - from))))));
  const strips = $derived(take.signals.filter((s) => shown.includes(s.id)));

  function zoom(a: number, b: number) {
    if (b - a < 8 / fastest) return;
    trail.push([from, to]);
    [from, to] = [Math.max(0, a), Math.min(take.durationS, b)];
  }
  function back() {
    const last = trail.pop();
    if (last) [from, to] = last;
  }
  function all() {
    if (from === 0 && to === take.durationS) return;
    zoom(0, take.durationS);
    [from, to] = [0, take.durationS];
  }
  const place = (which: 0 | 1, atS: number) => {
    chosen = which;
    cursors[which] = Math.min(take.durationS, Math.max(0, atS));
  };
  const typed = (act: () => void) => (event: KeyboardEvent) => {
    if ((event.target as HTMLElement).closest('input, textarea, select, [role=dialog]')) return;
    event.preventDefault();
    act();
  };
  onMount(() => {
    const step = (sign: number, far = false) =>
      typed(() => place(chosen, cursors[chosen] + (sign * (far ? 10 : 1) * (to - from)) / 500));
    return tinykeys(window, {
      ArrowLeft: step(-1),
      ArrowRight: step(1),
      'Shift+ArrowLeft': step(-1, true),
      'Shift+ArrowRight': step(1, true),
      '1': typed(() => (chosen = 0)),
      '2': typed(() => (chosen = 1)),
      Backspace: typed(back),
      '0': typed(all),
    });
  });
  let naming = $state(false);
  async function rename(name: string) {
    if (!naming) return;
    naming = false;
    if (!name.trim() || name === take.head.name) return;
    try {
      await call('PATCH /api/takes/[id]', { params: { id: take.head.id }, body: { name } });
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const toggle = (id: number) =>
    (shown = shown.includes(id) ? shown.filter((s) => s !== id) : [...shown, id]);
  const start = $derived(new Date(Number(BigInt(take.head.startNs) / 1_000_000n)));
</script>

<div class="page">
  <div class="page-head">
    {#if naming}
      <input
        class="rename"
        value={take.head.name}
        {@attach (input: HTMLInputElement) => input.select()}
        aria-label="Name of the take"
        maxlength="120"
        onblur={(e) => void rename(e.currentTarget.value)}
        onkeydown={(e) =>
          e.key === 'Enter' ? e.currentTarget.blur() : e.key === 'Escape' && (naming = false)}
      />
    {:else}
      <h1><button title="Rename" onclick={() => (naming = true)}>{take.head.name}</button></h1>
    {/if}
    <span class="aside"
      >{start.toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'medium' })} · {clockText(
        take.durationS,
      )} long · {take.signals.length} channels{take.head.state === 'interrupted' ? ' · interrupted' : ''}{take
        .head.folder
        ? ` · ${take.head.folder}`
        : ''}</span
    >
    <div class="actions">
      <TakeSelect
        {takes}
        value={take.head.id}
        label="Take"
        onchange={(id) => void goto(resolve(`/inspect/${id}`))}
      />
      <Button size="sm" color="alternative" onclick={() => (bringing = true)}>Bring in</Button>
      <Button size="sm" color="alternative" onclick={() => (exporting = true)}>Export</Button>
      <Button size="sm" color="alternative" href={resolve(`/report?take=${take.head.id}`)}>Report</Button>
      <Button size="sm" onclick={() => (studying = true)}>Study this</Button>
    </div>
  </div>
  {#if take.corrected}
    <p class="meaning">
      {#if take.meaning === 'as recorded'}
        ▲ Read as on the day of the take, by conversions that were corrected since.
        <a class="dotted" href={resolve(`/inspect/${take.head.id}`)}>Read as corrected</a>
      {:else}
        △ Corrected since the take: {take.signals
          .filter((s) => s.corrected)
          .map((s) => s.name)
          .join(', ')}.
        <a class="dotted" href={resolve(`/inspect/${take.head.id}?as=recorded`)}
          >Read as on the day of the take</a
        >
      {/if}
    </p>
  {/if}
  <div class="columns">
    <section class="card strips">
      <TakeStrips
        takeId={take.head.id}
        recorded={take.meaning === 'as recorded'}
        signals={strips}
        {from}
        {to}
        night={shell.night}
      >
        {#snippet overlay()}<Cursors
            {from}
            {to}
            durationS={take.durationS}
            {cursors}
            {chosen}
            notes={take.notes}
            gaps={take.gaps}
            {zoom}
            {place}
          />{/snippet}
      </TakeStrips>
      <div class="bar">
        <button class="dotted" disabled={trail.length === 0} onclick={back}>back out</button>
        <button class="dotted" disabled={from === 0 && to === take.durationS} onclick={all}>whole take</button
        >
        <span class="muted">drag to zoom, wheel to narrow, click to place cursor {chosen + 1}</span>
        <span class="mono span" data-testid="span"
          >{clockText(from, endDigits)} to {clockText(to, endDigits)}</span
        >
      </div>
    </section>
    <aside>
      <CursorReadings
        {take}
        {cursors}
        {chosen}
        {digits}
        {shown}
        choose={(which) => (chosen = which)}
        {toggle}
      />
      <TakeFacts {take} {written} place={(atS) => place(chosen, atS)} />
    </aside>
  </div>
</div>
<Late wanted={bringing} part={() => import('./BringIn.svelte')}>
  {#snippet children(BringIn)}
    <BringIn bind:open={bringing} />
  {/snippet}
</Late>

<Late wanted={exporting} part={() => import('./ExportForm.svelte')}>
  {#snippet children(ExportForm)}
    <ExportForm bind:open={exporting} takeId={take.head.id} signals={take.signals} />
  {/snippet}
</Late>

<Late wanted={studying} part={() => import('../study/NewStudy.svelte')}>
  {#snippet children(NewStudy)}
    <NewStudy
      bind:open={studying}
      takeId={take.head.id}
      span={[from, to]}
      whole={from === 0 && to === take.durationS}
      channels={strips.flatMap((s) => s.channelId ?? [])}
    />
  {/snippet}
</Late>

<style>
  .rename {
    font-size: var(--type-title);
    font-weight: 700;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-half) var(--space-1);
    min-width: 0;
    max-width: 340px;
  }
  .meaning {
    margin: 0;
    color: var(--ochre);
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 372px;
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  .strips {
    padding: var(--space-2) 0 var(--space-1);
    display: flex;
    flex-direction: column;
    min-height: 0;
  }
  .strips :global(.stack) {
    flex: 1;
  }
  .bar {
    display: flex;
    gap: var(--space-3);
    padding: var(--space-1) var(--space-3) 0 58px;
    font-size: var(--type-small);
    white-space: nowrap;
    overflow: hidden;
  }
  .bar button:disabled {
    opacity: 0.4;
  }
  .span {
    margin-left: auto;
  }
  aside {
    display: flex;
    flex-direction: column;
    gap: var(--space-3);
    min-height: 0;
  }
</style>
