<!-- What stands at the cursors: every channel of the take that stands out, the chosen one of the others, and what lies between. Channels are
     shown by a click here, or dragged into a plot. -->
<script lang="ts">
  import { momentOf } from '$core/figures/clock';
  import { rateText } from '$core/samples/sampled';
  import { fixed, readingText } from '$core/readings';
  import { traceColour } from '$contract/palette';
  import type { TakeSignal, TakeView } from '$contract/take';
  import FaultNote from '../kit/FaultNote.svelte';
  import { useShell } from '../shell/shell.svelte';
  import type { Inspection } from './inspection.svelte';
  import { signalOf } from './panels';
  import { ReadingsAt } from './reading.svelte';

  type Props = {
    insp: Inspection;
    /** The channel whose values of the other takes are read. */
    channel: string;
    choose: (channel: string) => void;
    toggle: (channel: string) => void;
    /** Channels of a take that is shown alone, as it is dragged. */
    draggable: (name: string) => (node: HTMLElement) => void;
    mend: (signal: TakeSignal) => void;
    make: (signal: TakeSignal) => void;
    onreadings: (reading: ReadingsAt) => void;
  };
  let { insp, channel, choose, toggle, draggable, mend, make, onreadings }: Props = $props();
  const shell = useShell();
  const reading = new ReadingsAt();
  // svelte-ignore state_referenced_locally
  onreadings(reading);

  const main = $derived(insp.main);
  const others = $derived(insp.ordered.slice(1));
  let about = $state<number | null>(null);
  /** No more digits of a cursor’s time than it is placed to. */
  const digits = $derived(
    Math.min(insp.digits, Math.max(1, Math.ceil(-Math.log10((insp.window[1] - insp.window[0]) / 600)))),
  );

  $effect(() => {
    // The one that stands out in all channels, the others in those that are shown.
    const names = insp.names;
    const front = insp.main;
    reading.follow(
      insp,
      (t) => (t === front ? t.signals : t.signals.filter((s) => names.includes(s.name))).map((s) => s.id),
      shell.plusMinus,
    );
  });
  $effect(() => () => reading.stop());

  /** Channels of all takes by name; those of the one that stands out as it has them. */
  const extra = $derived([
    ...new Set(others.flatMap((t) => t.signals.map((s) => s.name)).filter((n) => !signalOf(main, n))),
  ]);
  const groups = $derived([...new Set(main.signals.map((s) => s.group))]);
  let words = $state('');
  const matches = (name: string) => name.toLowerCase().includes(words.trim().toLowerCase());

  const text = (v: number | null, s: Pick<TakeSignal, 'unit' | 'decimals'>) =>
    v === null ? '–' : s.unit === 'yes/no' ? (v > 0.5 ? 'yes' : 'no') : fixed(v, s.decimals);
  const both = $derived(insp.cursors[0] !== null && insp.cursors[1] !== null);
  const apart = $derived(both ? Math.abs(insp.cursors[1]! - insp.cursors[0]!) : 0);
  /** The third column says something: how far both are apart, or ±. */
  const withThird = $derived(both || shell.plusMinus);
  function third(s: TakeSignal): string {
    if (shell.plusMinus) {
      const u = reading.plusMinus(main.head.id, s.id);
      return u === null ? '' : readingText(u, { digits: 2 });
    }
    const [a, b] = [0, 1].map((k) => reading.at(main.head.id, k as 0 | 1, s.id));
    return a === null || b === null || s.unit === 'yes/no' ? '' : fixed(b - a, s.decimals);
  }
  const own = $derived(signalOf(main, channel));
  const between = $derived(own ? reading.between.get(`${main.head.id} ${own.id}`) : undefined);
  const value = (v: number | null | undefined) =>
    v === null || v === undefined ? '–' : readingText(v, { digits: 5 });
  const of = (t: TakeView) => signalOf(t, channel);
</script>

<section class="readings" aria-label="At the cursors">
  {#if reading.fault}<FaultNote fault={reading.fault} />{/if}
  <input
    class="find"
    type="search"
    placeholder="Find a channel"
    aria-label="Find a channel"
    bind:value={words}
  />
  <div class="scroll">
    <table class="plain">
      <thead>
        <tr>
          <th>Channel</th>
          {#each [0, 1] as const as k (k)}
            <th class="num" class:on={insp.chosen === k}
              ><button onclick={() => (insp.chosen = k)} title="Cursor {k + 1}"
                >{k + 1}&ensp;<span class="mono"
                  >{insp.cursors[k] === null
                    ? ''
                    : momentOf(insp.scale, insp.cursors[k]!, digits, insp.whole[1])}</span
                ></button
              ></th
            >
          {/each}
          {#if withThird}
            <th class="num"
              ><button
                title="Difference of the cursors, or the uncertainty at the chosen one (U)"
                onclick={() => (shell.plusMinus = !shell.plusMinus)}
                >{shell.plusMinus ? `± at ${insp.chosen + 1}` : '2 − 1'}</button
              ></th
            >{/if}
        </tr>
      </thead>
      <tbody>
        {#each groups as group (group)}
          {#each main.signals.filter((s) => s.group === group && matches(s.name)) as s (s.id)}
            {@const shown = insp.names.includes(s.name)}
            <tr data-name={s.name} data-signal={s.id} class:dim={!shown} class:here={s.name === channel}>
              <td
                ><div class="name" class:wide={!withThird} {@attach draggable(s.name)}>
                  <input
                    type="checkbox"
                    checked={shown}
                    onchange={() => toggle(s.name)}
                    aria-label={s.name}
                    style:accent-color={traceColour(s.colour, shell.night)}
                  />
                  <button class="of" title={s.name} onclick={() => (shown ? choose(s.name) : toggle(s.name))}
                    >{s.name}</button
                  >
                  <button
                    class="muted unit"
                    title="The channel as it was"
                    aria-label="{s.unit === '1' ? '' : s.unit} {s.name}, as it was"
                    onclick={() => (about = about === s.id ? null : s.id)}
                    >{#if s.mends.length}<span aria-hidden="true">✎ </span>{/if}{s.unit === '1'
                      ? ''
                      : s.unit}</button
                  >
                </div></td
              >
              <td class="num">{text(reading.at(main.head.id, 0, s.id), s)}</td>
              <td class="num">{text(reading.at(main.head.id, 1, s.id), s)}</td>
              {#if withThird}<td class="num">{third(s)}</td>{/if}
            </tr>
            {#if about === s.id}<tr
                ><td colspan="4" class="about"
                  >{s.sentence}
                  <span class="muted"
                    >Calibration {s.calibration}{s.corrected ? `; ${s.corrected}` : ''}. {rateText(s)} S/s.</span
                  >
                  {#if !s.made}<button class="dotted" onclick={() => mend(s)}>mend it</button>{/if}
                  <button class="dotted" onclick={() => make(s)}>make a signal of it</button></td
                ></tr
              >{/if}
          {/each}
        {/each}
        {#each extra.filter(matches) as name (name)}
          <tr data-name={name} class:dim={!insp.names.includes(name)} class:here={name === channel}>
            <td
              ><div class="name" class:wide={!withThird} {@attach draggable(name)}>
                <input
                  type="checkbox"
                  checked={insp.names.includes(name)}
                  onchange={() => toggle(name)}
                  aria-label={name}
                />
                <button class="of" title="{name}, not in {main.head.name}" onclick={() => choose(name)}
                  >{name}</button
                >
              </div></td
            ><td class="num muted" colspan="3">not in this take</td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#if both}
      <p class="muted apart" data-testid="apart">
        <span class="mono">{apart.toFixed(Math.max(3, insp.digits))}</span> s apart,
        <span class="mono">{readingText(1 / apart, { digits: 4 })}</span> Hz.
      </p>
      {#if between && own}
        <h2>{channel} between the cursors</h2>
        <dl data-testid="between">
          {#each [['mean', between.mean], ['s', between.standardDeviation], ['lowest', between.min], ['highest', between.max], ['rms', between.rms], ['slope a second', between.slope]] as const as [label, v] (label)}
            <dt class="muted">{label}</dt>
            <dd class="mono" data-label={label}>{value(v)}</dd>
          {/each}
          <dt class="muted">samples</dt>
          <dd class="mono">{between.count}{between.missing ? `, ${between.missing} missing` : ''}</dd>
        </dl>
      {/if}
    {/if}
    {#if others.length}
      <h2>{channel} of the others <span class="muted">{own?.unit ?? ''}</span></h2>
      <table class="plain" data-testid="others">
        <tbody>
          {#each others as t (t.head.id)}
            {@const s = of(t)}
            <tr data-take={t.head.name}>
              <td><button class="of" onclick={() => insp.standOut(t.head.id)}>{t.head.name}</button></td>
              <td class="num">{s ? text(reading.at(t.head.id, 0, s.id), s) : 'no such channel'}</td>
              <td class="num">{s ? text(reading.at(t.head.id, 1, s.id), s) : ''}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
    {#if !both}<p class="muted hint">
        Click into a plot for cursor {insp.chosen + 1}; <kbd>{insp.chosen === 0 ? 2 : 1}</kbd> chooses the other
        one.
      </p>{/if}
  </div>
</section>

<style>
  .readings {
    display: flex;
    flex-direction: column;
    flex: 1;
    min-height: 0;
  }
  .find {
    margin: var(--space-2) var(--space-2) var(--space-1);
    font-size: var(--type-small);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-half) var(--space-2);
  }
  .scroll {
    overflow: auto;
    flex: 1;
    min-height: 0;
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
    z-index: 1;
  }
  td,
  th {
    padding: 0 var(--space-1);
    height: 27px;
    vertical-align: middle;
    line-height: 1.2;
    font-size: var(--type-small);
  }
  th.on {
    color: var(--plum);
  }
  .here {
    background: var(--tint);
  }
  .name {
    max-width: 146px;
    white-space: nowrap;
    display: flex;
    align-items: center;
    gap: var(--space-1);
  }
  .name.wide {
    max-width: 176px;
  }
  .of {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    flex: 1;
    text-align: left;
    min-width: 0;
    min-height: 24px;
  }
  .name input {
    margin-inline: var(--space-1) var(--space-2);
    flex-shrink: 0;
  }
  .unit {
    font-size: var(--type-fine);
    min-height: 24px;
    min-width: 24px;
    text-align: right;
  }
  .dim .of {
    color: var(--muted);
  }
  .about {
    background: var(--stone);
  }
  h2 {
    padding: var(--space-2) var(--space-2) 0;
  }
  .apart,
  .hint {
    padding: var(--space-1) var(--space-2);
    font-size: var(--type-small);
    margin: 0;
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: var(--space-half) var(--space-3);
    padding: var(--space-1) var(--space-2);
    font-size: var(--type-small);
    margin: 0;
  }
  dd {
    text-align: right;
  }
  @media (max-width: 1100px) {
    .name,
    .name.wide {
      max-width: 112px;
    }
  }
  @media (min-width: 1700px) {
    .name,
    .name.wide {
      max-width: 210px;
    }
  }
</style>
