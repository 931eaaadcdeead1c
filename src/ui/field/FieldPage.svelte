<!-- Who is out there and what wants a look: pocket recorders and their cradles, one of them opened or set up. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { Button } from 'flowbite-svelte';
  import { agoText, stateText, wantsVisit, type FieldView, type RecorderView } from '$contract/field';
  import { readingText } from '$core/readings';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import { useShell } from '../shell/shell.svelte';
  import Cradles from './Cradles.svelte';
  import Recorder from './Recorder.svelte';
  import SetUp from './SetUp.svelte';

  type Props = { field: FieldView; shown: string | null };
  let { field, shown }: Props = $props();
  const shell = useShell();

  let now = $state.raw(untrack(() => field));
  let nowMs = $state(Date.now());
  /** While the page is looked at it asks how things are. */
  $effect(() => {
    let ended = false;
    let timer: ReturnType<typeof setTimeout>;
    const ask = async () => {
      try {
        now = await call('GET /api/field');
        nowMs = Date.now();
      } catch {
        // the shell says that the server is gone
      }
      if (!ended) timer = setTimeout(() => void ask(), 700);
    };
    timer = setTimeout(() => void ask(), 300);
    return () => ((ended = true), clearTimeout(timer));
  });

  let chosen = $state<string | null>(untrack(() => shown));
  let settingUp = $state(false);
  const here = $derived(now.recorders.find((r) => r.here));
  const sorted = $derived([...now.recorders].sort((a, b) => Number(wantsVisit(b)) - Number(wantsVisit(a)) || Number(b.here) - Number(a.here) || nameOf(a).localeCompare(nameOf(b), undefined, { numeric: true }))); // prettier-ignore
  const nameOf = (r: RecorderView) => r.state.name || r.serial;
  /** What is opened: what was chosen, else what lies in the cradle, else what wants a look. */
  const recorder = $derived(now.recorders.find((r) => r.serial === chosen) ?? here ?? sorted[0]);
  const last = (r: RecorderView) => {
    const value = r.state.last?.[0];
    return value === undefined || value === null
      ? ''
      : `${readingText(value, { digits: 3 })} ${r.model.measures[0].unit}`;
  };
  const attention = $derived(now.recorders.filter(wantsVisit).length);
  async function doing(act: () => Promise<unknown>): Promise<boolean> {
    try {
      await act();
      now = await call('GET /api/field');
      return true;
    } catch (error) {
      shell.say(faultText(error));
      return false;
    }
  }
</script>

<div class="page">
  <div class="page-head">
    <h1>Field</h1>
    <span class="muted"
      >{now.recorders.length === 1
        ? '1 pocket recorder'
        : `${now.recorders.length} pocket recorders`}{attention
        ? ` · ${attention} ${attention === 1 ? 'wants' : 'want'} a look`
        : ''}</span
    >
    <div class="actions">
      {#if settingUp}
        <Button size="sm" color="alternative" onclick={() => (settingUp = false)}>Back to the readings</Button
        >
      {:else}
        <Button size="sm" disabled={!here && !now.batch} onclick={() => (settingUp = true)}
          >Set up a recorder</Button
        >
      {/if}
    </div>
  </div>

  <div class="columns">
    <nav class="card" aria-label="Instruments">
      <h2>Pocket recorders</h2>
      <ul>
        {#each sorted as r (r.serial)}
          <li>
            <button
              class="one"
              aria-current={recorder?.serial === r.serial}
              data-recorder={r.serial}
              onclick={() => (chosen = r.serial)}
            >
              <span
                class="mark"
                class:alarm={wantsVisit(r)}
                class:good={!wantsVisit(r) && r.state.phase === 'records'}
                >{wantsVisit(r) ? '■' : r.state.phase === 'records' ? '●' : '○'}</span
              >
              <strong>{nameOf(r)}</strong>
              <span class="mono value">{last(r)}</span>
              <span class="muted says">{r.here ? 'in the cradle, ' : ''}{stateText(r)}</span>
              {#if !r.here}<span class="muted says">seen {agoText(r.seenMs, nowMs)}</span>{/if}
            </button>
          </li>
        {:else}
          <li class="muted none">None has been seen yet.</li>
        {/each}
      </ul>
      <Cradles field={now} {doing} />
    </nav>

    <div class="right">
      {#if settingUp}
        <SetUp field={now} {doing} onset={() => (settingUp = false)} />
      {:else if recorder}
        {#key recorder.serial}<Recorder {recorder} {doing} />{/key}
      {:else}
        <Empty
          says={now.cradles.length
            ? 'Put a recorder into the cradle: it is seen within a second, and what it holds is fetched and drawn by itself.'
            : 'Say where the cradle is: at the left, as host:port. Recorders that are put into it are seen within a second.'}
        />
      {/if}
    </div>
  </div>
</div>

<style>
  .columns {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: 17rem minmax(0, 1fr);
    gap: var(--space-3);
  }
  nav {
    overflow: auto;
    padding: var(--space-3) 0;
  }
  nav h2 {
    padding: 0 var(--space-3);
  }
  ul {
    list-style: none;
    margin: var(--space-2) 0;
    padding: 0;
  }
  .one {
    display: grid;
    grid-template-columns: 1.2rem 1fr auto;
    gap: 0 var(--space-1);
    width: 100%;
    text-align: left;
    padding: var(--space-2) var(--space-3);
    border-top: 1px solid var(--hair);
  }
  .one[aria-current='true'] {
    background: var(--tint);
    box-shadow: inset 3px 0 var(--plum);
  }
  .says {
    grid-column: 2 / -1;
    font-size: var(--type-small);
  }
  .mark {
    color: var(--muted);
  }
  .mark.alarm {
    color: var(--red);
  }
  .mark.good {
    color: var(--moss);
  }
  .none {
    padding: 0 var(--space-3);
  }
  .right {
    overflow: auto;
    display: flex;
    flex-direction: column;
    gap: var(--space-3);
  }
</style>
