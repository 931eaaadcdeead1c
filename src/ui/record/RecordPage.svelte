<script lang="ts">
  import { resolve } from '$app/paths';
  import { onMount } from 'svelte';
  import { roleOf, type Channel } from '$contract/channel';
  import { waitedFor } from '$contract/plan';
  import { stripKey } from '$contract/live';
  import { Button } from 'flowbite-svelte';
  import { tinykeys } from 'tinykeys';
  import type { BodyIn } from '$contract/api';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import LiveStrip from '../plot/LiveStrip.svelte';
  import TimeAxis from '../plot/TimeAxis.svelte';
  import DrivenControl from './DrivenControl.svelte';
  import LiveMarks from './LiveMarks.svelte';
  import PlanPicker from './PlanPicker.svelte';
  import PlanView from './PlanView.svelte';
  import RecordTabs from './RecordTabs.svelte';
  import RehearsalView from './RehearsalView.svelte';
  import RuleList from './RuleList.svelte';
  import StripChoice from './StripChoice.svelte';
  import { liveText, namesOf, plusMinusText, unitText } from '../shell/reading';
  import { useShell } from '../shell/shell.svelte';
  import type { Overview } from '$contract/overview';

  type Props = { overview: Overview };
  let { overview }: Props = $props();
  const shell = useShell();
  const { feed } = shell;

  const SPANS = [10, 60, 600, 3600, 86_400];
  const spanText = (s: number) =>
    s < 60 ? `${s} s` : s < 3600 ? `${s / 60} min` : s < 86_400 ? `${s / 3600} h` : `${s / 86_400} d`;
  const channels = $derived(overview.channels);
  const names = $derived(namesOf(channels));
  let table = $state(false);
  let held = $state(false);
  let spanS = $state(60);
  let chosen = $state<string[]>([]);
  let changing = $state(false);
  let marking = $state(false);
  let rehearsing = $state(false);

  /** The start's channel first, then one of each group, so that the first look shows something of everything. */
  function usual(all: Channel[]): string[] {
    const waited = waitedFor(overview.plan.plan);
    const seen = new Set<string>();
    const perGroup = all.filter(
      (c) =>
        roleOf(c) === 'measured' && feed.stateOf(c.id) !== 'open' && !seen.has(c.group) && seen.add(c.group),
    );
    return [...new Set([...waited, ...perGroup.map((c) => c.id)])].slice(0, 4);
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
  // As text: what stays the same is not asked for anew.
  const watched = $derived(
    chosen
      .filter((id) => channels.some((c) => c.id === id))
      .map((id) => stripKey(id, spanS))
      .join(),
  );
  $effect(() => {
    const keys = watched ? watched.split(',') : [];
    return feed.watch(keys);
  });
  const strips = $derived(chosen.flatMap((id) => channels.find((c) => c.id === id) ?? []));
  const shown = $derived(
    [...strips, ...channels.filter((c) => !chosen.includes(c.id) && roleOf(c) !== 'driven')].slice(0, 7),
  );
  const driven = $derived(channels.filter((c) => roleOf(c) === 'driven'));

  const change = async (field: string, value: unknown) => {
    await call('PATCH /api/plans/[id]', { params: { id: overview.plan.id }, body: { [field]: value } });
    await shell.refresh();
  };
  async function act(body: BodyIn<'POST /api/record'>) {
    try {
      await call('POST /api/record', { body });
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  async function mark() {
    marking = true;
    await act({ do: 'mark', says: 'Mark' });
    marking = false;
  }
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
  <RecordTabs boards={overview.boards} />
  <div class="page-head">
    <PlanPicker plans={overview.plans} current={overview.plan} />
    <span class="aside">{takesToday === 1 ? '1 take' : `${takesToday} takes`} today</span>
    <div class="actions">
      <Button
        size="sm"
        color="alternative"
        aria-pressed={rehearsing}
        onclick={() => (rehearsing = !rehearsing)}>Rehearse</Button
      >
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
    <div class="setup" class:table>
      <div class="plan">
        <PlanView plan={overview.plan.plan} {names} {change} {table} />
      </div>
      <section class="rules" aria-label="Rules">
        <RuleList
          rules={overview.rules}
          hosts={overview.hosts}
          {names}
          firstChannel={channels[0]?.id ?? null}
        />
      </section>
    </div>
    <div class="columns">
      {#if rehearsing}<RehearsalView {overview} close={() => (rehearsing = false)} />{:else}
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
                >{spanText(s)}</button
              >{/each}
            {#if held}<span class="held">Holding the view; recording goes on</span>{/if}
          </div>
        </section>
      {/if}
      <div class="side">
        <section class="card values">
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
          <section class="card driven">
            <div class="row">
              <h2>Driven by hand</h2>
              <button class="dotted small" onclick={() => void act({ do: 'rest' })}
                >all to rest <kbd>R</kbd></button
              >
            </div>
            {#each driven as channel (channel.id)}<DrivenControl
                {channel}
                value={feed.value(channel.id)}
              />{/each}
          </section>
        {/if}
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
  .setup {
    display: grid;
    grid-template-columns: minmax(0, 1.05fr) minmax(0, 1fr);
    gap: var(--space-6);
    max-height: 38%;
    min-height: 0;
    flex-shrink: 0;
  }
  .setup > * {
    overflow: auto;
    min-height: 0;
  }
  .rules {
    border-left: 1px solid var(--line);
    padding-left: var(--space-5);
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 262px;
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  /* On a low screen the strips keep a height that can be read, and the page scrolls. */
  @media (max-height: 720px) {
    .setup {
      max-height: 220px;
    }
    .columns {
      min-height: 320px;
    }
  }
  .live {
    padding: var(--space-2) var(--space-1) var(--space-1) 0;
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
    gap: var(--space-half);
    padding: 0 var(--space-3) 0 58px;
    font-size: var(--type-small);
    color: var(--muted);
  }
  .spans button {
    padding: 1px var(--space-2);
    border-radius: var(--radius);
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
    gap: var(--space-3);
    min-height: 0;
    overflow: auto;
  }
  .side section {
    padding: var(--space-2) var(--space-3);
  }
  /* What drives the rig stays in reach: the values give way first. */
  .values {
    flex: 0 1 auto;
    min-height: 92px;
    overflow: auto;
  }
  .driven {
    flex: none;
    max-height: 65%;
    overflow: auto;
  }
  .value {
    display: flex;
    align-items: baseline;
    gap: var(--space-1);
    border-bottom: 1px solid var(--hair);
    padding: var(--space-half) 0;
  }
  .pm {
    font-size: var(--type-small);
  }
  .value .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    flex: 1;
    font-size: var(--type-body);
  }
  .number {
    font-size: var(--type-reading);
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
    font-size: var(--type-small);
    white-space: nowrap;
  }
  .row {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
  }
  .small {
    font-size: var(--type-small);
  }
  .rule {
    padding: var(--space-1) 0 var(--space-half);
    border-bottom: 1px solid var(--hair);
  }
  .rule :global(.sentence) {
    font-size: var(--type-body);
    line-height: 1.55;
  }
  .remove:hover {
    color: var(--red);
  }
  footer {
    display: flex;
    gap: var(--space-2);
    align-items: center;
    border-top: 1px solid var(--line);
    padding-top: var(--space-2);
  }
  footer p {
    flex: 1;
    min-width: 0;
    margin: 0;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
    font-size: var(--type-small);
  }
  footer p > span + span::before {
    content: ' · ';
  }
  footer .mono {
    font-size: var(--type-small);
  }
</style>
