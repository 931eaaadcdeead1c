<script lang="ts">
  import { resolve } from '$app/paths';
  import { onMount } from 'svelte';
  import { roleOf, type Channel } from '$contract/channel';
  import { planSentence, ruleSentence } from '$contract/plan';
  import { Button } from 'flowbite-svelte';
  import { tinykeys } from 'tinykeys';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import LiveStrip from '../plot/LiveStrip.svelte';
  import TimeAxis from '../plot/TimeAxis.svelte';
  import DrivenControl from '../record/DrivenControl.svelte';
  import LiveMarks from '../record/LiveMarks.svelte';
  import StripChoice from '../record/StripChoice.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { liveText, namesOf, plusMinusText, unitText } from '../shell/reading';
  import { useShell } from '../shell/shell.svelte';
  import type { Overview } from '$contract/overview';

  type Props = { overview: Overview };
  let { overview }: Props = $props();
  const shell = useShell();
  const { feed } = shell;

  const SPANS = [10, 30, 60, 300, 600];
  const channels = $derived(overview.channels);
  const names = $derived(namesOf(channels));
  let table = $state(false);
  let held = $state(false);
  let spanS = $state(60);
  let chosen = $state<string[]>([]);
  let changing = $state(false);
  let marking = $state(false);

  /** The start's channel first, then one of each group, so that the first look shows something of everything. */
  function usual(all: Channel[]): string[] {
    const start = overview.plan.plan.startChannel;
    const seen = new Set<string>();
    const perGroup = all.filter(
      (c) =>
        roleOf(c) === 'measured' && feed.stateOf(c.id) !== 'open' && !seen.has(c.group) && seen.add(c.group),
    );
    return [...new Set([...(start ? [start] : []), ...perGroup.map((c) => c.id)])].slice(0, 4);
  }
  const key = $derived(`farrier-strips-${overview.job.id}`);
  onMount(() => {
    const kept = JSON.parse(localStorage.getItem(key) ?? '[]') as string[];
    chosen = kept.filter((id) => channels.some((c) => c.id === id));
    if (chosen.length === 0) chosen = usual(channels);
    const keys = tinykeys(window, { m: typed(() => void mark()), h: typed(() => (held = !held)) });
    return keys;
  });
  const typed = (act: () => void) => (event: KeyboardEvent) => {
    if ((event.target as HTMLElement).closest('input, textarea, select, [role=dialog]')) return;
    event.preventDefault();
    act();
  };
  $effect(() => {
    if (chosen.length) feed.want(chosen.filter((id) => channels.some((c) => c.id === id)));
  });
  const strips = $derived(chosen.flatMap((id) => channels.find((c) => c.id === id) ?? []));
  const shown = $derived(
    [...strips, ...channels.filter((c) => !chosen.includes(c.id) && roleOf(c) !== 'driven')].slice(0, 7),
  );
  const driven = $derived(channels.filter((c) => roleOf(c) === 'driven'));

  const change = async (field: string, value: unknown) => {
    await call('PATCH', '/api/plan', { [field]: value });
    await shell.refresh();
  };
  const changeRule = (id: string) => async (field: string, value: unknown) => {
    await call('PATCH', `/api/rules/${id}`, { [field]: value });
    await shell.refresh();
  };
  async function act(method: 'POST' | 'DELETE', path: string, body?: unknown) {
    try {
      await call(method, path, body);
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  async function mark() {
    marking = true;
    await act('POST', '/api/record', { do: 'mark', says: 'Mark' });
    marking = false;
  }
  const addRule = () =>
    act('POST', '/api/rules', { channel: channels[0]?.id ?? null, output: driven[0]?.id ?? null });
  const ruleState = (id: string) => {
    const state = feed.status.rules.find((r) => r.id === id);
    if (!state) return 'idle: its channel is not measured';
    if (!state.fired || !state.lastMs) return state.holds ? 'holds' : 'armed';
    const time = new Date(state.lastMs).toLocaleTimeString('en-GB');
    return `${state.holds ? 'holds' : 'armed'} · fired ${state.fired === 1 ? 'once' : `${state.fired} times`}, ${time}`;
  };
  function choose(ids: string[]) {
    chosen = ids;
    localStorage.setItem(key, JSON.stringify(ids));
  }
  const recent = $derived(feed.notes.slice(-3).reverse());
  const takesToday = $derived(
    overview.takes.filter((t) => new Date(t.startedAt).toDateString() === new Date().toDateString()).length,
  );
</script>

<div class="page">
  <div class="page-head">
    <h1>{overview.plan.name}</h1>
    <span class="aside">recording plan · {takesToday === 1 ? '1 take' : `${takesToday} takes`} today</span>
    <div class="actions">
      <Button size="sm" color="alternative" onclick={() => (changing = !changing)}>Choose strips</Button>
      <Button size="sm" color="alternative" onclick={() => (table = !table)}
        >{table ? 'Plan as a sentence' : 'Plan as a table'}</Button
      >
    </div>
  </div>
  {#if channels.length === 0}
    <Empty says="There is nothing to record yet: name what the rig measures first."
      ><Button href={resolve('/channels')}>To the channels</Button></Empty
    >
  {:else}
    <div class="plan" class:table>
      <SentenceView
        sentence={planSentence}
        value={overview.plan.plan}
        {names}
        {change}
        {table}
        size="large"
      />
    </div>
    <div class="columns">
      <section class="card live" aria-label="Live strips">
        <div class="strips">
          {#each strips as channel (`${channel.id} ${shell.night}`)}<LiveStrip
              {channel}
              {feed}
              spanMs={spanS * 1000}
              night={shell.night}
              {held}
            />{/each}
          <LiveMarks {feed} spanMs={spanS * 1000} {held} />
        </div>
        <TimeAxis from={-spanS} to={0} live />
        <div class="spans" role="radiogroup" aria-label="Time shown">
          {#each SPANS as s (s)}<button role="radio" aria-checked={s === spanS} onclick={() => (spanS = s)}
              >{s < 60 ? `${s} s` : `${s / 60} min`}</button
            >{/each}
          {#if held}<span class="held">Holding the view; recording goes on</span>{/if}
        </div>
      </section>
      <div class="side">
        <section class="card">
          <div class="row">
            <h2>Now</h2>
            <button
              class="dotted small"
              aria-pressed={shell.plusMinus}
              title="Show each reading with its uncertainty, about 95 % (U)"
              onclick={() => (shell.plusMinus = !shell.plusMinus)}
              >{shell.plusMinus ? 'without ±' : 'with ±'}</button
            >
          </div>
          {#each shown as channel (channel.id)}
            {@const state = feed.stateOf(channel.id)}
            <div class="value">
              <span class="name" title={channel.name}>{channel.name}</span><span
                class="mono number {state.replace(' ', '-')}"
                >{state === 'open' || state === 'lost'
                  ? state
                  : liveText(channel, feed.value(channel.id), shell.expanded(channel.id))}</span
              >{#if shell.plusMinus}<span class="mono muted pm"
                  >{plusMinusText(shell.expanded(channel.id))}</span
                >{/if}<span class="muted unit">{state === 'open' ? '' : unitText(channel)}</span>
            </div>
          {/each}
        </section>
        {#if driven.length}
          <section class="card">
            <div class="row">
              <h2>Driven by hand</h2>
              <button class="dotted small" onclick={() => void act('POST', '/api/record', { do: 'rest' })}
                >all to rest <kbd>R</kbd></button
              >
            </div>
            {#each driven as channel (channel.id)}<DrivenControl
                {channel}
                value={feed.value(channel.id)}
              />{/each}
          </section>
        {/if}
        <section class="card rules">
          <div class="row">
            <h2>Rules</h2>
            <button class="dotted small" onclick={() => void addRule()}>add a rule</button>
          </div>
          {#each overview.rules as { id, rule } (id)}
            <div class="rule">
              <SentenceView sentence={ruleSentence} value={rule} {names} change={changeRule(id)} />
              <p class="muted small">
                {ruleState(id)}
                <button
                  class="remove"
                  aria-label="Remove this rule"
                  onclick={() => void act('DELETE', `/api/rules/${id}`)}>remove</button
                >
              </p>
            </div>
          {:else}<p class="muted">Nothing happens by itself yet.</p>{/each}
        </section>
      </div>
    </div>
    <footer>
      <p class="muted" aria-live="polite">
        {#each recent as note (note.atMs + note.says)}<span
            ><span class="mono">{new Date(note.atMs).toLocaleTimeString('en-GB')}</span> {note.says}</span
          >{/each}
      </p>
      <Button size="sm" color="alternative" disabled={marking} onclick={() => void mark()}
        >Mark this moment <kbd>M</kbd></Button
      >
      <Button size="sm" color="alternative" aria-pressed={held} onclick={() => (held = !held)}
        >{held ? 'Let it run' : 'Hold the view'} <kbd>H</kbd></Button
      >
    </footer>
  {/if}
</div>
{#if changing}<StripChoice {channels} {chosen} {choose} close={() => (changing = false)} />{/if}

<style>
  .plan.table {
    max-height: 40%;
    overflow: auto;
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 262px;
    gap: 14px;
    flex: 1;
    min-height: 0;
  }
  .live {
    padding: 8px 4px 6px 0;
    display: flex;
    flex-direction: column;
    min-height: 0;
  }
  .strips {
    flex: 1;
    min-height: 0;
    display: flex;
    flex-direction: column;
    position: relative;
  }
  .spans {
    display: flex;
    gap: 2px;
    padding: 0 14px 0 58px;
    font-size: 12px;
    color: var(--muted);
  }
  .spans button {
    padding: 1px 8px;
    border-radius: 5px;
  }
  .spans button[aria-checked='true'] {
    background: var(--tint);
    color: var(--plum);
    font-weight: 600;
  }
  .held {
    margin-left: auto;
    color: var(--ochre);
  }
  .side {
    display: flex;
    flex-direction: column;
    gap: 12px;
    min-height: 0;
    overflow: auto;
  }
  .rules {
    flex: 1;
    min-height: 90px;
    overflow: auto;
  }
  .side section {
    padding: 10px 13px;
  }
  .value {
    display: flex;
    align-items: baseline;
    gap: 6px;
    border-bottom: 1px solid var(--hair);
    padding: 2.5px 0;
  }
  .pm {
    font-size: 12px;
  }
  .value .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    flex: 1;
    font-size: 13px;
  }
  .number {
    font-size: 16px;
  }
  .number.warning {
    color: var(--ochre);
  }
  .number.alarm {
    color: var(--red);
  }
  .number.open,
  .number.lost {
    color: var(--muted);
  }
  .unit {
    width: 36px;
    font-size: 12px;
    white-space: nowrap;
  }
  .row {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
  }
  .small {
    font-size: 12px;
  }
  .rule {
    padding: 4px 0 2px;
    border-bottom: 1px solid var(--hair);
  }
  .rule :global(.sentence) {
    font-size: 13px;
    line-height: 1.55;
  }
  .rule p {
    margin: 0;
  }
  .remove:hover {
    color: var(--red);
  }
  footer {
    display: flex;
    gap: 10px;
    align-items: center;
    border-top: 1px solid var(--line);
    padding-top: 10px;
  }
  footer p {
    flex: 1;
    min-width: 0;
    margin: 0;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
    font-size: 12.5px;
  }
  footer p > span + span::before {
    content: ' · ';
  }
  footer .mono {
    font-size: 12px;
  }
</style>
