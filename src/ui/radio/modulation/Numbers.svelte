<!-- Numbers of the captures: mean and standard deviation, each with its definition a click away and a limit of its own. -->
<script lang="ts">
  import { fixed } from '$core/readings';
  import { NO_NAMES } from '$core/sentence/sentence';
  import type { Measure } from '$core/modulation/read';
  import { NUMBERS, STATISTICS, type Modulation } from '$contract/radio-modulation';
  import { RISING } from '../out';
  import FloatBox from '../../kit/FloatBox.svelte';
  import SentenceView from '../../sentence/SentenceView.svelte';
  import type { ReadDesk } from './read-desk.svelte';

  type Props = {
    desk: ReadDesk;
    modulation: Modulation; /** Makes a channel of a number; null where what is read is no unit of the rig. */
    log: ((of: Measure) => Promise<string>) | null;
  };
  let { desk, modulation, log }: Props = $props();
  let logged = $state('');
  let open = $state<{ key: Measure; anchor: HTMLElement } | null>(null);

  const fine = (key: Measure, value: number): boolean | null => {
    const limit = modulation.most[key];
    if (limit === undefined) return null;
    return RISING.includes(key) ? value >= limit : Math.abs(value) <= limit;
  };
  const text = (key: Measure, value: number) => {
    const { decimals } = NUMBERS[key];
    return Math.abs(value) >= 1e5
      ? fixed(value, 0).replace(/\B(?=(\d{3})+$)/g, '\u2009')
      : fixed(value, decimals);
  };
  async function limit(key: Measure, typed: string) {
    const rest = Object.fromEntries(Object.entries(modulation.most).filter(([k]) => k !== key));
    const value = Number(typed.replace(',', '.'));
    await desk.doing(() =>
      desk.change({
        most: typed.trim() === '' || !Number.isFinite(value) ? rest : { ...rest, [key]: value },
      }),
    );
  }
</script>

<section class="card" aria-label="Numbers">
  <table class="plain">
    <thead class="picture-head">
      <tr>
        <th
          ><SentenceView
            sentence={STATISTICS}
            value={modulation}
            names={NO_NAMES}
            size="small"
            change={(key, value) => desk.change({ [key]: value })}
          /></th
        >
        <th class="num">mean</th>
        <th class="num">± s</th>
        <th></th>
      </tr>
    </thead>
    <tbody>
      {#each desk.statistics as { key, mean, s } (key)}
        {@const ok = fine(key, mean)}
        <tr data-measure={key}>
          <td
            ><button
              type="button"
              class="name"
              aria-haspopup="dialog"
              onclick={(e) => {
                logged = '';
                open = { key, anchor: e.currentTarget };
              }}>{NUMBERS[key].name}{NUMBERS[key].unit ? `, ${NUMBERS[key].unit}` : ''}</button
            ></td
          >
          <td class="num">{text(key, mean)}</td>
          <td class="num">{Number.isFinite(s) ? text(key, s) : '—'}</td>
          <td class:moss={ok} class:ochre={ok === false}>{ok === null ? '' : ok ? '●' : '▲'}</td>
        </tr>
      {/each}
    </tbody>
  </table>
</section>
{#if open}
  {@const key = open.key}
  <FloatBox anchor={open.anchor} label={NUMBERS[key].name} close={() => (open = null)}>
    <div class="box">
      <p>{NUMBERS[key].says}</p>
      <label
        >{RISING.includes(key) ? 'At least' : 'At most'}
        <input
          class="plain"
          value={modulation.most[key] ?? ''}
          placeholder="no limit"
          size="8"
          onchange={(e) => void limit(key, e.currentTarget.value)}
        />
        {NUMBERS[key].unit}</label
      >
      {#if log}
        <button
          type="button"
          class="dotted"
          onclick={() => void desk.doing(async () => void (logged = await log(key)))}
          >log it as a channel</button
        >
        {#if logged}<p role="status">{logged}</p>{/if}
      {/if}
    </div>
  </FloatBox>
{/if}

<style>
  .card {
    padding: var(--space-1) var(--space-3);
    overflow: auto;
    min-height: 0;
    scrollbar-width: thin;
  }
  table {
    width: 100%;
  }
  :is(td, th) {
    white-space: nowrap;
    padding: var(--space-half) var(--space-1);
    font-size: var(--type-small);
  }
  thead {
    cursor: move;
  }
  .name:hover {
    color: var(--plum);
  }
  .moss {
    color: var(--moss);
  }
  .ochre {
    color: var(--ochre);
  }
  label {
    display: flex;
    gap: var(--space-2);
    align-items: center;
  }
  .box {
    max-width: 300px;
    display: grid;
    justify-items: start;
    gap: var(--space-2);
    font-size: var(--type-small);
  }
</style>
