<!-- The head of the page: which takes, what can be done with them, the view as a sentence, and what has to be said of them. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { Button } from 'flowbite-svelte';
  import { clockText } from '$core/readings';
  import FaultNote from '../kit/FaultNote.svelte';
  import type { Desk } from './desk.svelte';
  import ViewSentence from './ViewSentence.svelte';

  type Props = { desk: Desk };
  let { desk }: Props = $props();
  const insp = $derived(desk.insp);
  const main = $derived(desk.insp.main);

  let naming = $state(false);
  function rename(name: string) {
    if (!naming) return;
    naming = false;
    if (name.trim() && name !== main.head.name) void desk.rename(name);
  }
  const title = $derived(
    insp.takes.length > 1 ? `${insp.takes.length} takes` : (main?.head.name ?? 'Inspect'),
  );
  const about = $derived.by(() => {
    if (!main) return '';
    if (insp.takes.length > 1) return `${insp.drawing.laid} · ${main.head.name} stands out`;
    const { head } = main;
    const start = new Date(Number(BigInt(head.startNs) / 1_000_000n));
    return [
      start.toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'medium' }),
      `${clockText(main.durationS)} long`,
      `${main.signals.length} channels`,
      ...(head.state === 'interrupted' ? ['interrupted'] : []),
      ...(head.folder ? [head.folder] : []),
    ].join(' · ');
  });
  const corrected = $derived(insp.takes.length === 1 && main?.corrected ? main : null);
  const instead = (name: string, other: string) =>
    insp.change({ channels: insp.names.map((n) => (n === name ? other : n)) });
</script>

<div class="page-head">
  {#if naming}
    <input
      class="rename"
      value={main.head.name}
      {@attach (input: HTMLInputElement) => input.select()}
      aria-label="Name of the take"
      maxlength="120"
      onblur={(e) => rename(e.currentTarget.value)}
      onkeydown={(e) => (e.key === 'Enter' ? e.currentTarget.blur() : e.key === 'Escape' && (naming = false))}
    />
  {:else}
    <h1>
      {#if insp.takes.length === 1}<button title="Rename" onclick={() => (naming = true)}>{title}</button
        >{:else}{title}{/if}
    </h1>
  {/if}
  <span class="aside">{about}</span>
  <div class="actions">
    <Button size="sm" color="alternative" onclick={() => (desk.dialog = 'bring')}>Bring in</Button>
    {#if main}
      <Button size="sm" color="alternative" onclick={() => (desk.dialog = 'export')}>Export</Button>
      <Button size="sm" color="alternative" href={resolve(`/report?take=${main.head.id}`)}>Report</Button>
      {#if main.signals.some((s) => s.width === 2)}
        <Button size="sm" color="alternative" href={resolve(`/radio?take=${main.head.id}`)}
          >Listen to it</Button
        >
      {/if}
      <Button size="sm" color="alternative" onclick={() => desk.make()}>Make a signal</Button>
      <Button size="sm" href={resolve(`/study/new?${desk.studied}`)}
        >{insp.takes.length > 1 ? 'Study these' : 'Study this'}</Button
      >
    {/if}
  </div>
</div>
{#each insp.unread as { name, fault } (name)}
  <FaultNote
    fault={{ ...fault, what: `${name}: ${fault?.what ?? 'it cannot be read.'}` }}
    onclose={() => (insp.unread = insp.unread.filter((u) => u.name !== name))}
  />
{/each}
{#if corrected}
  <p class="meaning">
    {#if insp.recorded}
      ▲ Read as on the day of the take, by conversions that were corrected since.
      <a class="dotted" data-sveltekit-reload href={resolve(`/inspect/${corrected.head.id}`)}
        >Read as corrected</a
      >
    {:else}
      △ Corrected since the take: {corrected.signals
        .filter((s) => s.corrected)
        .map((s) => s.name)
        .join(', ')}.
      <a class="dotted" data-sveltekit-reload href={resolve(`/inspect/${corrected.head.id}?as=recorded`)}
        >Read as on the day of the take</a
      >
    {/if}
  </p>
{/if}
{#if main}
  <div class="view">
    <ViewSentence {insp} kept={desk.kept} keep={desk.keep} lay={(ids) => desk.lay(ids)} />
    {#if desk.keptNow}<button class="muted forget" onclick={() => void desk.forget(desk.keptNow!.id)}
        >forget this view</button
      >{/if}
  </div>
{/if}
{#if insp.aligning}<FaultNote fault={insp.aligning} onclose={() => (insp.aligning = null)} />{/if}
{#if main && insp.drawn.missing.length}
  <p class="meaning">
    {#each insp.drawn.missing as { channel, takes } (channel)}
      <span
        >▲ {channel} is not in {takes.length > 2 ? `${takes.length} takes` : takes.join(' and ')}.
        <label
          >Draw <select
            aria-label="Instead of {channel}"
            onchange={(e) => instead(channel, e.currentTarget.value)}
            ><option value={channel}>another one …</option
            >{#each main.signals.filter((s) => !insp.names.includes(s.name)) as s (s.id)}<option
                >{s.name}</option
              >{/each}</select
          ></label
        ></span
      >
    {/each}
  </p>
{/if}
{#if desk.says}
  <p class="told" role="status">
    {desk.says}
    {#if desk.binned.length}<button class="dotted" onclick={() => void desk.unbin()}>Undo</button>{/if}
    <button class="muted" aria-label="Dismiss" onclick={desk.dismiss}>✕</button>
  </p>
{/if}

<style>
  .rename {
    font-size: var(--type-title);
    font-weight: 700;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-half) var(--space-1);
    min-width: 0;
    max-width: 340px;
  }
  h1 {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    unicode-bidi: plaintext;
  }
  .meaning,
  .told {
    margin: 0;
    color: var(--ochre);
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-1) var(--space-3);
  }
  .told {
    color: var(--ink);
  }
  select {
    font-size: var(--type-small);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--paper);
    padding: 0 var(--space-6) 0 var(--space-1);
  }
  .view {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
  }
  .forget {
    font-size: var(--type-small);
    white-space: nowrap;
  }
</style>
