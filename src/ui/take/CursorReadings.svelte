<!-- What stands at the two cursors: every channel of the take, the difference or the uncertainty, and the channel as it was. -->
<script lang="ts">
  import { rateText } from '$core/samples/sampled';
  import { fixed, readingText } from '$core/readings';
  import { traceColour } from '$contract/palette';
  import type { TakeView } from '$contract/take';
  import { call, faultText } from '../api';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    take: TakeView;
    cursors: [number, number];
    chosen: 0 | 1;
    /** Decimals of a cursor's time, s. */
    digits: number;
    /** Signals that have a strip. */
    shown: number[];
    choose: (which: 0 | 1) => void;
    toggle: (signal: number) => void;
  };
  let { take, cursors, chosen, digits, shown, choose, toggle }: Props = $props();
  const shell = useShell();

  let values = $state.raw<(number | null)[][]>([]);
  let about = $state<number | null>(null);

  /** The signals of the take, in the meaning that is looked at. */
  const wanted = $derived({
    params: { id: take.head.id },
    query: {
      signals: take.signals.map((s) => s.id),
      as: take.meaning === 'as recorded' ? 'recorded' : undefined,
    },
  });
  let uncertain = $state.raw<(number | null)[]>([]);
  $effect(() => {
    if (!shell.plusMinus) return void (uncertain = []);
    const at = cursors[chosen];
    const asked = { ...wanted, query: { ...wanted.query, s: at, uncertainty: true } };
    const timer = setTimeout(async () => {
      uncertain = (await call('GET /api/takes/[id]/at', asked).catch(() => [[]]))[0];
    }, 120);
    return () => clearTimeout(timer);
  });

  let asking: ReturnType<typeof setTimeout> | undefined;
  $effect(() => {
    const asked = { ...wanted, query: { ...wanted.query, s: [...cursors] } };
    clearTimeout(asking);
    asking = setTimeout(async () => {
      try {
        values = await call('GET /api/takes/[id]/at', asked);
      } catch (error) {
        shell.say(faultText(error));
      }
    }, 30);
  });

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
</script>

<section class="card readings">
  <table class="plain">
    <thead>
      <tr>
        <th>Channel</th>
        <th class="num" class:on={chosen === 0}
          ><button onclick={() => choose(0)}
            >1&ensp;<span class="mono">{cursors[0].toFixed(digits)}</span></button
          ></th
        >
        <th class="num" class:on={chosen === 1}
          ><button onclick={() => choose(1)}
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
    Cursors are <span class="mono">{Math.abs(cursors[1] - cursors[0]).toFixed(Math.max(3, digits))}</span>
    s apart,
    <span class="mono">{readingText(1 / Math.abs(cursors[1] - cursors[0]), { digits: 4 })}</span> Hz.
  </p>
</section>

<style>
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
    padding: var(--space-half) var(--space-1);
  }
  th.on {
    color: var(--plum);
  }
  .name {
    max-width: 158px;
    white-space: nowrap;
    display: flex;
    gap: var(--space-1);
  }
  .name input {
    margin-right: var(--space-1);
  }
  .name label {
    overflow: hidden;
    text-overflow: ellipsis;
    flex: 1;
  }
  .unit {
    font-size: var(--type-fine);
  }
  .dim label {
    color: var(--muted);
  }
  .about {
    background: var(--stone);
    font-size: var(--type-small);
  }
  .apart {
    padding: var(--space-1) var(--space-2);
    font-size: var(--type-small);
    margin: 0;
  }
</style>
