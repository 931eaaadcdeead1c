<!-- All bridges in one go: zero, shunt, and what each is worth: right, off by so much, dead or at the end of its range. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { onMount } from 'svelte';
  import { fixed } from '$core/readings';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { USUAL_BRIDGE_RUN, bridgeSentence, type BridgeRow, type BridgeRun } from '$contract/bridge-check';
  import type { BridgeFinding } from '$contract/calibration-record';
  import { commonOf, type Channel } from '$contract/channel';
  import { Button } from 'flowbite-svelte';
  import { tinykeys } from 'tinykeys';
  import { call, faultText, type FaultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { liveText } from '../shell/reading';
  import { useShell } from '../shell/shell.svelte';
  import HandBox from './HandBox.svelte';

  type Props = { bridges: Channel[]; only: string[] };
  let { bridges, only }: Props = $props();
  const shell = useShell();
  const { feed } = shell;

  let run = $state<BridgeRun>({ ...USUAL_BRIDGE_RUN });
  // svelte-ignore state_referenced_locally
  let chosen = $state<string[]>(only.length ? only : bridges.map((b) => b.id));
  let found = $state.raw<Map<string, BridgeRow>>(new Map());
  let refused = $state.raw<Map<string, string>>(new Map());
  let busy = $state<'balance' | 'check' | null>(null);
  let share = $state(0);
  let fault = $state<FaultText | null>(null);
  let says = $state('');

  const SIGN: Record<BridgeFinding, string> = {
    right: '✓',
    'wrong value': '▲',
    'wrong step': '◇',
    dead: '✕',
    pegged: '⊤',
    moving: '≈',
  };
  const counts = $derived(
    [...found.values()].reduce<Partial<Record<BridgeFinding, number>>>(
      (sum, r) => ({ ...sum, [r.finding]: (sum[r.finding] ?? 0) + 1 }),
      {},
    ),
  );

  async function act(what: 'balance' | 'check') {
    if (busy || chosen.length === 0) return;
    busy = what;
    fault = null;
    says = '';
    const lasts = what === 'check' ? 2 * run.seconds + 0.8 : run.seconds + 0.3;
    const began = performance.now();
    const timer = setInterval(() => (share = Math.min(0.99, (performance.now() - began) / 1000 / lasts)), 60);
    try {
      const done = await call('POST /api/calibrate/bridges', { body: { do: what, channels: chosen, run } });
      refused = new Map(done.refused.map((r) => [r.channelId, r.says]));
      if (what === 'check') found = new Map([...found, ...done.rows.map((r) => [r.channelId, r] as const)]);
      says =
        what === 'check'
          ? `${done.rows.length} bridges in ${done.tookS.toFixed(1)} s.`
          : `${done.rows.length - done.refused.length} balanced in ${done.tookS.toFixed(1)} s${done.refused.length ? `, ${done.refused.length} not` : ''}.`;
      await shell.refresh();
    } catch (error) {
      fault = faultText(error);
    } finally {
      clearInterval(timer);
      busy = null;
      share = 0;
    }
  }
  async function mend(channelId: string) {
    try {
      await call('POST /api/calibrate/bridges/derive', { body: { channelId } });
      await shell.refresh();
      chosen = [channelId];
      await act('check');
      chosen = only.length ? only : bridges.map((b) => b.id);
    } catch (error) {
      fault = faultText(error);
    }
  }
  const toggle = (id: string) =>
    (chosen = chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]);
  /** Place of a share on the bar: 100 % in the middle, ends at 0 and 200 %. */
  const place = (ratio: number) => Math.min(100, Math.max(0, 50 * ratio));

  onMount(() =>
    tinykeys(window, {
      b: (e) => !(e.target as HTMLElement).closest('input, select, [role=dialog]') && void act('balance'),
      c: (e) => !(e.target as HTMLElement).closest('input, select, [role=dialog]') && void act('check'),
    }),
  );
</script>

<div class="page">
  <div class="page-head">
    <h1>Bridges</h1>
    <span class="aside" role="status"
      >{says}
      {Object.entries(counts)
        .map(([finding, n]) => `${n} ${finding}`)
        .join(' · ')}</span
    >
    <div class="actions">
      <span><a class="dotted" href={resolve('/calibrate')}>to the overview</a></span>
      <Button size="sm" color="alternative" disabled={busy !== null} onclick={() => void act('balance')}
        >Balance <kbd>B</kbd></Button
      >
      <Button size="sm" disabled={busy !== null} onclick={() => void act('check')}
        >Check shunts of {chosen.length} <kbd>C</kbd></Button
      >
    </div>
  </div>
  <SentenceView
    sentence={bridgeSentence}
    value={run}
    names={NO_NAMES}
    change={(key, value) => Promise.resolve((run = { ...run, [key]: value }))}
    size="large"
  />
  {#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
  {#if bridges.length === 0}
    <Empty says="There is no bridge in this job. Wire gauges to a bridge module and add their channels."
      ><Button href={resolve('/channels')}>To the channels</Button></Empty
    >
  {:else}
    <div class="busy" aria-hidden="true"><span style:width="{100 * share}%"></span></div>
    <div class="card list">
      <table class="plain">
        <thead>
          <tr>
            <th></th>
            <th>Bridge</th>
            <th class="num">Now</th>
            <th class="num">Zero, mV/V</th>
            <th class="num">Step, by the circuit</th>
            <th class="num">Reads, should read</th>
            <th class="scale">0 … <strong>100 %</strong> … 200 %</th>
            <th>Finding</th>
          </tr>
        </thead>
        <tbody>
          {#each bridges as b (b.id)}
            {@const row = found.get(b.id)}
            <tr data-channel={b.name} class:off={!chosen.includes(b.id)}>
              <td
                ><input
                  type="checkbox"
                  aria-label="Choose {b.name}"
                  checked={chosen.includes(b.id)}
                  onchange={() => toggle(b.id)}
                /></td
              >
              <td class="name"
                ><a class="dotted" href={resolve(`/calibrate/${b.id}`)}>{b.name}</a><span class="muted">
                  {b.wire?.terminal}</span
                ></td
              >
              <td class="num"
                >{liveText(b, feed.value(b.id))} <span class="muted">{commonOf(b).unit}</span></td
              >
              <td class="num">{row && Number.isFinite(row.zero) ? fixed(row.zero, 4) : ''}</td>
              <td class="num"
                >{#if row && row.finding !== 'pegged'}{fixed(row.step, 4)}
                  <span class="muted">{fixed(row.expectedStep, 4)}</span>{/if}</td
              >
              <td class="num"
                >{#if row && row.finding !== 'pegged'}{liveText(b, row.value)}
                  <span class="muted">{liveText(b, row.expectedValue)}</span>{/if}</td
              >
              <td class="scale">
                {#if row && row.finding !== 'pegged' && Number.isFinite(row.value)}
                  {@const ratio =
                    row.finding === 'wrong value'
                      ? row.value / row.expectedValue
                      : row.step / row.expectedStep}
                  <span class="bar" role="img" aria-label="{fixed(100 * ratio, 0)} % of what it should be"
                    ><span
                      class="good"
                      style:left="{place(1 - run.tolerance / 100)}%"
                      style:width="{run.tolerance}%"
                    ></span><span class="fill {row.finding.replace(' ', '-')}" style:width="{place(ratio)}%"
                    ></span>{#if ratio > 2}<span class="beyond">»</span>{/if}</span
                  >
                {/if}
              </td>
              <td class="finding">
                {#if row}
                  <strong class={row.finding.replace(' ', '-')}>{SIGN[row.finding]} {row.finding}</strong>
                  <span class="muted">{row.says}</span>
                  {#if row.finding === 'wrong value' || (row.finding === 'right' && only.length === 1)}<button
                      class="dotted"
                      disabled={busy !== null}
                      onclick={() => void mend(b.id)}>Take the value that the shunt gives</button
                    >{/if}
                {:else if refused.has(b.id)}<span class="muted">{refused.get(b.id)}</span>{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    <div class="hands"><HandBox channels={bridges} /></div>
  {/if}
</div>

<style>
  .list {
    overflow: auto;
    flex: 1;
    min-height: 0;
    padding: var(--space-1) var(--space-3) var(--space-2);
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
    white-space: nowrap;
  }
  td.num,
  .name {
    white-space: nowrap;
  }
  .name {
    font-weight: 600;
  }
  .name .muted {
    margin-left: var(--space-1);
    font-weight: 400;
    font-size: var(--type-small);
  }
  td.num .muted {
    margin-left: var(--space-1);
  }
  tr.off td {
    opacity: 0.55;
  }
  .scale {
    width: 120px;
    text-align: center;
    font-size: var(--type-fine);
  }
  .bar {
    position: relative;
    display: block;
    height: 12px;
    background: var(--stone);
    border-radius: calc(var(--radius) / 3);
    overflow: hidden;
  }
  .bar::after {
    content: '';
    position: absolute;
    left: 50%;
    top: 0;
    bottom: 0;
    width: 1px;
    background: var(--ink);
  }
  .fill {
    position: absolute;
    inset: 2px auto 2px 0;
    background: var(--tooth);
  }
  .fill.right {
    background: var(--moss);
  }
  .fill.wrong-value,
  .fill.wrong-step {
    background: var(--ochre-fill);
  }
  .good {
    position: absolute;
    inset: 0 auto;
    background: var(--moss-tint);
  }
  .beyond {
    position: absolute;
    right: 2px;
    top: -4px;
    color: var(--card);
    font-weight: 700;
  }
  .finding {
    width: 99%;
    line-height: 1.4;
    font-size: var(--type-small);
  }
  strong.right {
    color: var(--moss);
  }
  strong.wrong-value,
  strong.wrong-step,
  strong.moving {
    color: var(--ochre);
  }
  strong.dead,
  strong.pegged {
    color: var(--red);
  }
  .busy {
    height: 3px;
    margin-top: calc(-1 * var(--space-1));
    background: transparent;
  }
  .busy span {
    display: block;
    height: 100%;
    background: var(--plum-fill);
  }
  .hands {
    margin-top: calc(-1 * var(--space-3));
  }
</style>
