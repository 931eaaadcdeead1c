<script lang="ts">
  import { resolve } from '$app/paths';
  import type { Channel } from '$contract/channel';
  import { clockText } from '$core/readings';
  import { Button } from 'flowbite-svelte';
  import { useShell } from './shell.svelte';
  import AlarmBell from './AlarmBell.svelte';
  import Comb from './Comb.svelte';
  import PeopleBox from './PeopleBox.svelte';

  type Props = {
    job: { name: string; place: string };
    channels: Channel[];
    startsByHand: boolean;
    onjob: () => void;
    act: (what: 'start' | 'end' | 'disarm') => void;
  };
  let { job, channels, startsByHand, onjob, act }: Props = $props();
  const { feed, arm } = useShell();

  const counts = $derived.by(() => {
    const of = (...states: string[]) => channels.filter((c) => states.includes(feed.stateOf(c.id))).length;
    const said = [
      [of('alarm'), 'in alarm'],
      [of('open', 'over range'), of('open', 'over range') === 1 ? 'open input' : 'open inputs'],
      [of('warning'), 'near limit'],
      [of('lost'), 'lost'],
    ] as const;
    return said
      .filter(([n]) => n > 0)
      .map(([n, what]) => `${n} ${what}`)
      .join(' · ');
  });
  const { state: acquisition, take } = $derived(feed.status);
  const provingText = $derived(
    feed.status.proving ? `reading ${feed.status.proving.step === 'zero' ? 'zeros' : 'shunts'}` : '',
  );
  const startText = $derived(
    take?.startsMs ? `, starts ${new Date(take.startsMs).toLocaleTimeString('en-GB')}` : '',
  );
  const elapsed = $derived(take?.startedMs && feed.values ? (feed.values.timeMs - take.startedMs) / 1000 : 0);
</script>

<header>
  <a class="brand" href={resolve('/rig')}><img src="/mark.svg" alt="" width="24" height="24" /> Farrier</a>
  <button class="job" onclick={onjob} title="Jobs: switch or create">
    <strong>{job.name}</strong>
    <span class="muted">{job.place}</span>
  </button>
  <div class="rule"></div>
  <Comb {channels} {feed} />
  <div class="counts muted" aria-live="polite">{feed.connected ? counts : ''}</div>
  <AlarmBell />
  <div class="rule"></div>
  <div class="state" role="status">
    {#if !feed.connected || feed.stale}
      <span class="dot cut"></span> <strong>{feed.connected ? 'Nothing comes' : 'Not connected'}</strong>
      <span class="muted"
        >{feed.stale
          ? `readings are of ${new Date(feed.lastAt).toLocaleTimeString('en-GB')}`
          : 'trying again'}</span
      >
    {:else if acquisition === 'Recording'}
      <span class="square"></span> <strong class="ember">Recording take {take?.number}</strong>
      {#if feed.status.proving}<span class="muted">{provingText}</span>
      {:else}<span class="mono ember clock">{clockText(elapsed)}</span>{/if}
    {:else if acquisition === 'Armed'}
      <span class="dot armed"></span> <strong>Armed</strong>
      <span class="muted">{feed.status.proving ? provingText : `${take?.name}${startText}`}</span>
    {:else}
      <span class="dot"></span> <strong>Watching</strong> <span class="muted">not recording</span>
    {/if}
  </div>
  {#if acquisition === 'Recording'}
    {#if take && (take.left !== 0 || take.follows)}<Button
        size="sm"
        color="alternative"
        title={take.follows ? `${take.follows} follows` : 'It is armed again after this take'}
        onclick={() => act('disarm')}>{take.left > 0 ? `${take.left} more` : 'Goes on'} ✕</Button
      >{/if}
    <Button class="ember-button" size="sm" onclick={() => act('end')}>End take <kbd>E</kbd></Button>
  {:else if acquisition === 'Armed'}
    <Button size="sm" color="alternative" onclick={() => act('disarm')}>Disarm</Button>
    <Button size="sm" onclick={() => act('start')}>{startsByHand ? 'Start' : 'Start now'} <kbd>S</kbd></Button
    >
  {:else}
    <Button size="sm" onclick={arm} disabled={!feed.connected}>Arm <kbd>A</kbd></Button>
  {/if}
  <PeopleBox />
</header>

<style>
  header {
    display: flex;
    align-items: center;
    gap: var(--space-2);
    height: 51px;
    padding: 0 var(--space-4);
    background: var(--card);
    border-bottom: 1px solid var(--line);
    flex-shrink: 0;
  }
  .brand {
    display: flex;
    align-items: center;
    gap: var(--space-3);
    width: 166px;
    font-size: var(--type-reading);
    font-weight: 700;
    flex-shrink: 0;
  }
  .job {
    text-align: left;
    line-height: 1.3;
    display: flex;
    flex-direction: column;
    max-width: 190px;
    background: none;
    border-radius: var(--radius);
    padding: var(--space-half) var(--space-1);
  }
  .job:hover {
    background: var(--stone);
  }
  .job > * {
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .job span {
    font-size: var(--type-small);
  }
  .rule {
    width: 1px;
    height: 31px;
    background: var(--line);
    flex-shrink: 0;
  }
  .counts {
    flex-shrink: 0;
    margin-left: auto;
    font-size: var(--type-small);
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .state {
    display: flex;
    align-items: center;
    gap: var(--space-2);
    white-space: nowrap;
    max-width: 310px;
    flex-shrink: 0;
    overflow: hidden;
    padding-left: var(--space-1);
  }
  .state .muted {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .dot {
    width: 13px;
    height: 13px;
    border-radius: 50%;
    border: 3px solid var(--moss);
    flex-shrink: 0;
  }
  .dot.armed {
    border-color: var(--ochre-fill);
    border-style: double;
  }
  .dot.cut {
    border: 2px dashed var(--red);
  }
  .square {
    width: 12px;
    height: 12px;
    background: var(--ember);
    border-radius: calc(var(--radius) / 3);
  }
  .ember {
    color: var(--ember);
  }
  .clock {
    font-size: var(--type-reading);
    min-width: 74px;
  }
  header :global(.ember-button) {
    background: var(--ember-fill);
    color: var(--on-fill);
  }
  @media (max-width: 1100px) {
    .counts {
      display: none;
    }
    .brand {
      width: 44px;
      font-size: 0;
    }
  }
</style>
