<script lang="ts">
  import { rateHz, rateText } from '$core/samples/sampled';
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { onMount, untrack } from 'svelte';
  import { tinykeys } from 'tinykeys';
  import { clockText, fixed, readingText, timeDecimals } from '$core/readings';
  import { Button } from 'flowbite-svelte';
  import { traceColour } from '$contract/palette';
  import { call, faultText } from '../api';
  import Cursors from '../take/Cursors.svelte';
  import BringIn from '../take/BringIn.svelte';
  import ExportForm from '../take/ExportForm.svelte';
  import NewStudy from '../study/NewStudy.svelte';
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
  let values = $state.raw<(number | null)[][]>([]);
  let exporting = $state(false);
  let bringing = $state(false);
  let studying = $state(false);
  let about = $state<number | null>(null);

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

  let uncertain = $state.raw<(number | null)[]>([]);
  $effect(() => {
    if (!shell.plusMinus) return void (uncertain = []);
    const at = cursors[chosen];
    const path = `/api/takes/${take.head.id}/at?signals=${take.signals.map((s) => s.id).join()}&s=${at}&uncertainty${take.meaning === 'as recorded' ? '&as=recorded' : ''}`;
    const timer = setTimeout(async () => {
      uncertain = (await call<(number | null)[][]>('GET', path).catch(() => [[]]))[0];
    }, 120);
    return () => clearTimeout(timer);
  });

  let asking: ReturnType<typeof setTimeout> | undefined;
  $effect(() => {
    const [a, b] = cursors;
    const ids = take.signals.map((s) => s.id);
    const id = take.head.id;
    const recorded = take.meaning === 'as recorded';
    clearTimeout(asking);
    asking = setTimeout(async () => {
      try {
        values = await call<(number | null)[][]>(
          'GET',
          `/api/takes/${id}/at?signals=${ids.join()}&s=${a}&s=${b}${recorded ? '&as=recorded' : ''}`,
        );
      } catch (error) {
        shell.say(faultText(error));
      }
    }, 30);
  });

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
      await call('PATCH', `/api/takes/${take.head.id}`, { name });
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  type Shown = { unit: string; decimals: number };
  const text = (v: number | null | undefined, s: Shown) =>
    v === null || v === undefined
      ? '–'
      : s.unit === 'yes/no'
        ? v > 0.5
          ? 'yes'
          : 'no'
        : fixed(v, s.decimals);
  const index = $derived(Object.fromEntries(take.signals.map((s, i) => [s.id, i])));
  const groups = $derived([...new Set(take.signals.map((s) => s.group))]);
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
      <section class="card readings">
        <table class="plain">
          <thead>
            <tr>
              <th>Channel</th>
              <th class="num" class:on={chosen === 0}
                ><button onclick={() => (chosen = 0)}
                  >1&ensp;<span class="mono">{cursors[0].toFixed(digits)}</span></button
                ></th
              >
              <th class="num" class:on={chosen === 1}
                ><button onclick={() => (chosen = 1)}
                  >2&ensp;<span class="mono">{cursors[1].toFixed(digits)}</span></button
                ></th
              >
              <th class="num"
                ><button
                  title="Difference of the cursors, or the uncertainty at the chosen one (U)"
                  onclick={() => (shell.plusMinus = !shell.plusMinus)}
                  >{shell.plusMinus ? `± at ${chosen + 1}` : '2 − 1'}</button
                ></th
              >
            </tr>
          </thead>
          <tbody>
            {#each groups as group (group)}
              {#each take.signals.filter((s) => s.group === group) as s (s.id)}
                {@const a = values[0]?.[index[s.id]]}
                {@const b = values[1]?.[index[s.id]]}
                <tr data-name={s.name} data-signal={s.id} class:dim={!shown.includes(s.id)}>
                  <td
                    ><div class="name">
                      <label title={s.name}
                        ><input
                          type="checkbox"
                          checked={shown.includes(s.id)}
                          onchange={() => toggle(s.id)}
                          style:accent-color={traceColour(s.colour, shell.night)}
                        />
                        {s.name}</label
                      >
                      <button
                        class="muted unit"
                        title="The channel as it was"
                        onclick={() => (about = about === s.id ? null : s.id)}>{s.unit}</button
                      >
                    </div></td
                  >
                  <td class="num">{text(a, s)}</td>
                  <td class="num">{text(b, s)}</td>
                  <td class="num"
                    >{shell.plusMinus
                      ? uncertain[index[s.id]] == null
                        ? ''
                        : readingText(uncertain[index[s.id]]!, { digits: 2 })
                      : a !== null && b !== null && a !== undefined && b !== undefined && s.unit !== 'yes/no'
                        ? fixed(b - a, s.decimals)
                        : ''}</td
                  >
                </tr>
                {#if about === s.id}<tr
                    ><td colspan="4" class="about"
                      >{s.sentence}
                      <span class="muted"
                        >Calibration {s.calibration}{s.corrected ? `; ${s.corrected}` : ''}. {rateText(s)} S/s.</span
                      ></td
                    ></tr
                  >{/if}
              {/each}
            {/each}
          </tbody>
        </table>
        <p class="muted apart">
          Cursors are <span class="mono"
            >{Math.abs(cursors[1] - cursors[0]).toFixed(Math.max(3, digits))}</span
          >
          s apart,
          <span class="mono">{readingText(1 / Math.abs(cursors[1] - cursors[0]), { digits: 4 })}</span> Hz.
        </p>
      </section>
      <TakeFacts {take} {written} place={(atS) => place(chosen, atS)} />
    </aside>
  </div>
</div>
<BringIn bind:open={bringing} />
<ExportForm bind:open={exporting} takeId={take.head.id} signals={take.signals} />
<NewStudy
  bind:open={studying}
  takeId={take.head.id}
  span={[from, to]}
  whole={from === 0 && to === take.durationS}
  channels={strips.flatMap((s) => s.channelId ?? [])}
/>

<style>
  .rename {
    font-size: 20px;
    font-weight: 700;
    border: 1px solid var(--line);
    border-radius: 5px;
    background: var(--paper);
    padding: 2px 6px;
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
    gap: 14px;
    flex: 1;
    min-height: 0;
  }
  .strips {
    padding: 8px 0 6px;
    display: flex;
    flex-direction: column;
    min-height: 0;
  }
  .strips :global(.stack) {
    flex: 1;
  }
  .bar {
    display: flex;
    gap: 14px;
    padding: 4px 14px 0 58px;
    font-size: 12px;
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
    gap: 12px;
    min-height: 0;
  }
  .readings {
    overflow: auto;
    flex: 1.7;
    min-height: 0;
  }
  .readings thead th {
    position: sticky;
    top: 0;
    background: var(--card);
  }
  .readings td,
  .readings th {
    padding: 3px 6px;
  }
  th.on {
    color: var(--plum);
  }
  .name {
    max-width: 158px;
    white-space: nowrap;
    display: flex;
    gap: 4px;
  }
  .name label {
    overflow: hidden;
    text-overflow: ellipsis;
    flex: 1;
  }
  .unit {
    font-size: 11.5px;
  }
  .dim label {
    color: var(--muted);
  }
  .about {
    background: var(--stone);
    font-size: 12.5px;
  }
  .apart {
    padding: 6px 8px;
    font-size: 12px;
    margin: 0;
  }
</style>
