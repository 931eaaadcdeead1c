<script lang="ts">
  import { resolve } from '$app/paths';
  import { Button } from 'flowbite-svelte';
  import { invalidate } from '$app/navigation';
  import { call, faultText } from '../api';
  import { useShell } from '../shell/shell.svelte';
  import Empty from '../kit/Empty.svelte';
  import { readingText } from '$core/readings';
  import type { Overview } from '$contract/overview';
  import type { StudyView } from '$contract/study';

  type Props = { overview: Overview; studies: StudyView[] };
  let { overview, studies }: Props = $props();
  const shell = useShell();
  const newest = $derived(overview.takes.find((t) => t.state !== 'recording'));
  const late = $derived(studies.filter((s) => s.outOfDate));
  const running = $derived(studies.filter((s) => s.state === 'running'));
  /** How many were begun together, while they run. */
  let begun = $state(0);
  async function refresh() {
    try {
      ({ begun } = await call('POST /api/studies/refresh'));
      await invalidate('farrier:page');
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  $effect(() => {
    if (running.length === 0) return;
    const timer = setInterval(() => void invalidate('farrier:page'), 500);
    return () => clearInterval(timer);
  });
  const done = $derived(
    Math.max(0, begun - running.length) + running.reduce((sum, s) => sum + s.progress, 0),
  );
  const STATES: Record<string, string> = {
    running: '… running',
    done: '✓ done',
    failed: '◆ failed',
    cancelled: '○ cancelled',
    interrupted: '○ interrupted',
  };
</script>

<div class="page">
  <div class="page-head">
    <h1>Study</h1>
    <span class="aside">{studies.length} kept beside their takes</span>
    <div class="actions">
      {#if running.length && begun > 1}<progress
          max={begun}
          value={done}
          aria-label="{running.length} of {begun} still run"
        ></progress>
      {:else if late.length}<Button size="sm" color="alternative" onclick={() => void refresh()}
          >Bring {late.length === 1 ? 'the late one' : `all ${late.length}`} up to date</Button
        >{/if}
      <Button size="sm" color="alternative" href={resolve('/study/modal')}>How structures move</Button>
      {#if newest}
        <Button size="sm" color="alternative" href={resolve(`/inspect/${newest.id}`)}>Choose a span</Button>
        <Button size="sm" href={resolve('/study/new')}>A new study</Button>
      {/if}
    </div>
  </div>
  {#if studies.length === 0}
    <Empty
      says={newest
        ? 'Choose a span of a take, then say what to make of it.'
        : 'Studies are made from takes. Record one first.'}
    >
      <Button href={newest ? resolve(`/inspect/${newest.id}`) : resolve('/record')}
        >{newest ? 'Open the newest take' : 'To the plan'}</Button
      >
    </Empty>
  {:else}
    <div class="list">
      {#each studies as study (study.id)}
        <a class="card" href={resolve(`/study/${study.id}`)}>
          <div class="head">
            <h2>{study.name}</h2>
            <span class="muted">{study.takeName}</span><span
              class="state"
              class:late={study.outOfDate}
              class:failed={study.state === 'failed'}
              >{study.outOfDate ? '◔ out of date' : STATES[study.state]}</span
            >
          </div>
          <p class="muted">{study.says}</p>
          {#if study.findings.length}<p class="findings">
              {#each study.findings.slice(0, 3) as f (f.label)}<span
                  >{f.label} <span class="mono">{readingText(f.value)}</span>
                  {f.unit === '1' ? '' : f.unit}</span
                >{/each}
            </p>{/if}
        </a>
      {/each}
    </div>
  {/if}
</div>

<style>
  .list {
    display: grid;
    gap: var(--space-2);
    grid-template-columns: repeat(auto-fill, minmax(430px, 1fr));
    overflow: auto;
  }
  a {
    padding: var(--space-3) var(--space-4);
  }
  a:hover {
    border-color: var(--plum);
  }
  .head {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
  }
  .state {
    margin-left: auto;
    color: var(--moss);
    font-size: var(--type-small);
  }
  .late {
    color: var(--ochre);
  }
  .failed {
    color: var(--red);
  }
  p {
    margin: var(--space-1) 0 0;
    font-size: var(--type-body);
  }
  .findings {
    display: flex;
    gap: var(--space-4);
    flex-wrap: wrap;
  }
</style>
