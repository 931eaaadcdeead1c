<!-- Digital modulation: a capture read again and again; where symbols fall, the eye, errors, what the path did, numbers, bits. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { Button } from 'flowbite-svelte';
  import { resolve } from '$app/paths';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { bitsPerSymbol } from '$core/modulation/schemes';
  import type { RadioView } from '$contract/radio';
  import { MODULATION } from '$contract/radio-modulation';
  import Empty from '../../kit/Empty.svelte';
  import FloatBox from '../../kit/FloatBox.svelte';
  import SentenceView from '../../sentence/SentenceView.svelte';
  import { useShell } from '../../shell/shell.svelte';
  import AddPicture from '../AddPicture.svelte';
  import { logNumber } from '../out';
  import Pictures from '../Pictures.svelte';
  import Places from '../Places.svelte';
  import PlayBar from '../PlayBar.svelte';
  import { watchReceivers } from '../receivers';
  import Numbers from './Numbers.svelte';
  import OwnPoints from './OwnPoints.svelte';
  import OwnTaps from './OwnTaps.svelte';
  import { ReadDesk } from './read-desk.svelte';
  import { READ_PICTURES, type ReadPicture } from './read-plots';
  import ReadView from './ReadView.svelte';

  type Props = { views: RadioView[]; shown: string | null };
  let { views, shown }: Props = $props();
  const shell = useShell();
  const desk = new ReadDesk(shell);
  $effect.pre(() => void (desk.all = views));
  $effect.pre(() => void (desk.unit = shown ?? untrack(() => desk.unit)));
  const receivers = watchReceivers(shell);
  $effect(() => receivers(() => void desk.look()));
  $effect(() => untrack(() => desk.begin()));
  const view = $derived(desk.view);
  const unit = $derived(view?.unit);
  $effect(() => {
    const serial = unit;
    if (!serial) return;
    return untrack(() =>
      shell.feed.watchRadio(serial, 'captures', (kind, payload) => desk.take(kind, payload)),
    );
  });

  let pictures = $state<Pictures>();
  let ownAt = $state<HTMLElement | null>(null);
  let tapsAt = $state<HTMLElement | null>(null);
  let asBytes = $state(false);
  const read = $derived(desk.read);
  const each = $derived(read ? bitsPerSymbol(read.points) : 1);
  /** Bits in fours, or as bytes in hexadecimal; those of the pattern first. */
  const groups = $derived.by(() => {
    if (!read) return [];
    const known = read.match && (view?.modulation.after ?? 0) === 0 ? read.match.length * each : 0;
    const wide = asBytes ? 8 : 4;
    return Array.from({ length: Math.min(80, Math.floor(read.bits.length / wide)) }, (_, k) => {
      const part = read.bits.slice(k * wide, (k + 1) * wide);
      return {
        text: asBytes ? parseInt(part, 2).toString(16).padStart(2, '0') : part,
        known: (k + 1) * wide <= known,
      };
    });
  });
  function keys(e: KeyboardEvent) {
    if (
      (e.target as HTMLElement).closest('input, textarea, select, [role=dialog]') ||
      e.ctrlKey ||
      e.metaKey ||
      e.altKey
    )
      return;
    if (e.key === 'h') desk.held = !desk.held;
    else if (e.key === 'c') void desk.copyBits();
    else return;
    e.preventDefault();
  }
</script>

<svelte:window onkeydown={keys} />
<div class="page">
  <div class="page-head">
    <h1>Modulation</h1>
    {#if view}
      {#if desk.all.length > 1}
        <select class="plain" aria-label="Receiver" bind:value={desk.unit}>
          {#each desk.all as v (v.unit)}<option value={v.unit}>{v.name}</option>{/each}
        </select>
      {:else}<span class="muted">{view.name}</span>{/if}
      <span class="aside" role="status"
        >{desk.got === 0 ? 'waiting for a capture' : `${desk.got} captures read`}{desk.missed > 0
          ? `, nothing found in the last ${desk.missed}`
          : ''}</span
      >
    {/if}
    <div class="actions">
      {#if view}<AddPicture
          kinds={READ_PICTURES}
          add={(k) => void pictures?.add(k)}
          anew={() => pictures?.anew()}
        />{/if}
      <Places take={view?.recorded?.takeId} />
      <Button size="sm" color="alternative" disabled={!read} onclick={desk.save}>CSV</Button>
      <Button size="sm" color={desk.held ? 'primary' : 'alternative'} onclick={() => (desk.held = !desk.held)}
        >{desk.held ? 'Go on' : 'Hold'} <kbd>H</kbd></Button
      >
    </div>
  </div>
  {#if !view}
    <Empty
      says="No receiver is there yet: add one to the rig, and the modulation of what it hears is read here."
    >
      <Button href={resolve('/rig')}>Open the rig</Button>
    </Empty>
  {:else}
    <div class="says">
      <SentenceView
        sentence={MODULATION}
        value={view.modulation}
        names={NO_NAMES}
        size="large"
        change={(key, value) => desk.change({ [key]: value })}
      />
      {#if view.modulation.scheme.endsWith('own')}
        <button type="button" class="dotted" aria-haspopup="dialog" onclick={(e) => (ownAt = e.currentTarget)}
          >{view.modulation.own.length
            ? `${view.modulation.own.length} points of one’s own`
            : 'describe its points'}</button
        >
      {/if}
      {#if view.modulation.pulse === 'own taps'}
        <button
          type="button"
          class="dotted"
          aria-haspopup="dialog"
          onclick={(e) => (tapsAt = e.currentTarget)}
          >{view.modulation.ownTaps.length
            ? `${view.modulation.ownTaps.length} taps of one’s own`
            : 'describe its taps'}</button
        >
      {/if}
      {#if read?.taps}
        <button type="button" class="dotted" aria-pressed={desk.taps !== null} onclick={desk.holdTaps}
          >{desk.taps ? 'let the equaliser learn' : 'hold the equaliser'}</button
        >
      {/if}
    </div>
    {#if desk.fault}<p class="fault" role="alert">{desk.fault.says} {desk.fault.next}</p>{/if}
    {#if view.recorded}<PlayBar recorded={view.recorded} nowS={null} play={desk.play} />{/if}
    <Pictures bind:this={pictures} page="modulation" {view} told={(next) => (desk.all = next)}>
      {#snippet picture({ shows }, choose, remove)}
        <ReadView
          shows={shows in READ_PICTURES ? (shows as ReadPicture) : 'symbols'}
          {read}
          symbolHz={read?.numbers.symbolHz ?? 1}
          night={shell.night}
          {choose}
          {remove}
        />
      {/snippet}
      {#snippet numbers()}
        <Numbers
          {desk}
          modulation={view.modulation}
          log={view.recorded ? null : (of) => logNumber(view, of, shell)}
        />
      {/snippet}
    </Pictures>
    <section class="card bits" aria-label="Bits">
      <b>Bits</b>
      <div class="mono">
        {#each groups as g, k (k)}<span class:known={g.known}>{g.text}</span>{/each}
      </div>
      <span class="acts">
        <button type="button" class="dotted" onclick={() => (asBytes = !asBytes)}
          >{asBytes ? 'as bits' : 'as bytes'}</button
        >
        <button
          type="button"
          class="dotted"
          disabled={!read}
          onclick={() => void desk.doing(() => desk.change({ expected: read?.bits.slice(0, 4000) ?? '' }))}
          >expect these</button
        >
        <button type="button" class="dotted" disabled={!read} onclick={() => void desk.copyBits()}
          >copy</button
        >
      </span>
    </section>
  {/if}
</div>
{#if tapsAt && view}
  <FloatBox anchor={tapsAt} label="Taps of one’s own" close={() => (tapsAt = null)}>
    <OwnTaps
      taps={view.modulation.ownTaps}
      each={view.modulation.ownTapsEach}
      change={(ownTaps, ownTapsEach) => {
        tapsAt = null;
        void desk.doing(() => desk.change({ ownTaps, ownTapsEach }));
      }}
    />
  </FloatBox>
{/if}
{#if ownAt && view}
  <FloatBox anchor={ownAt} label="Points of one’s own" close={() => (ownAt = null)}>
    <OwnPoints
      points={view.modulation.own}
      change={(own) => {
        ownAt = null;
        void desk.doing(() => desk.change({ own }));
      }}
    />
  </FloatBox>
{/if}

<style>
  .says {
    line-height: 1.75;
  }
  .fault {
    color: var(--red);
  }
  .bits {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
    padding: var(--space-2) var(--space-3);
    white-space: nowrap;
  }
  .bits .mono {
    display: flex;
    gap: var(--space-2);
    overflow: hidden;
    flex: 1;
    font-size: var(--type-small);
  }
  .known {
    background: var(--tint);
  }
  .acts {
    display: flex;
    gap: var(--space-3);
    font-size: var(--type-small);
  }
</style>
