<!-- Settings of one view: its channels, what it shows, and what belongs to its kind. -->
<script lang="ts">
  import { commonOf, roleOf, type Channel } from '$contract/channel';
  import { VIEW_KINDS, VIEW_PURPOSES, VIEW_TITLES, type View, type ViewKind } from '$contract/board';
  import { faultText, upload } from '../api';
  import { parseNumber } from '../sentence/options';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    view: View;
    channels: Channel[];
    change: (edit: Partial<View>) => void;
    remove: () => void;
    close: () => void;
  };
  let { view, channels, change, remove, close }: Props = $props();
  const shell = useShell();

  const SPANS = [10, 60, 600, 3600, 10_800, 86_400, 259_200];
  const BURST_SPANS = [0.02, 0.05, 0.1, 0.2, 0.5, 1, 2];
  const spanText = (s: number) =>
    s < 1
      ? `${s * 1000} ms`
      : s < 60
        ? `${s} s`
        : s < 3600
          ? `${s / 60} min`
          : s < 86_400
            ? `${s / 3600} h`
            : `${s / 86_400} days`;
  const single = $derived(['burst', 'spectrum', 'dial', 'number'].includes(view.kind));
  const usable = $derived(channels.filter((c) => (view.kind === 'control' ? roleOf(c) === 'driven' : true)));
  const toggle = (id: string) =>
    change({
      channels: single
        ? [id]
        : view.channels.includes(id)
          ? view.channels.filter((c) => c !== id)
          : [...view.channels, id],
    });
  const number = (key: 'min' | 'max', text: string) => {
    const value = parseNumber(text);
    if (text.trim() === '') return change({ range: null });
    if (Number.isNaN(value)) return;
    const own = view.range ?? commonOf(channels.find((c) => c.id === view.channels[0]) ?? channels[0]).range;
    change({ range: { ...own, [key]: value } });
  };
  async function picture(file: File | undefined) {
    if (!file) return;
    try {
      change({ picture: (await upload<{ id: number }>('/api/pictures', file)).id });
    } catch (error) {
      shell.say(faultText(error));
    }
  }
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && close()} />
<div class="settings" role="dialog" aria-label="Settings of the view">
  <div class="head">
    <strong>View</strong><button onclick={close} aria-label="Close">✕</button>
  </div>
  <label
    >Shows
    <select value={view.kind} onchange={(e) => change({ kind: e.currentTarget.value as ViewKind })}>
      {#each VIEW_KINDS as kind (kind)}<option value={kind}>{VIEW_TITLES[kind]}</option>{/each}
    </select></label
  >
  <p class="muted">{VIEW_PURPOSES[view.kind]}</p>
  <label
    >Title <input
      value={view.title}
      placeholder="the channel’s name"
      onchange={(e) => change({ title: e.currentTarget.value })}
    /></label
  >
  {#if ['strip', 'level', 'xy'].includes(view.kind)}
    <label
      >Time shown
      <select value={view.span} onchange={(e) => change({ span: Number(e.currentTarget.value) })}>
        {#each SPANS.filter((s) => view.kind === 'strip' || s <= 600) as s (s)}<option value={s}
            >{spanText(s)}</option
          >{/each}
      </select></label
    >
  {:else if view.kind === 'burst'}
    <label
      >Time shown
      <select value={view.span} onchange={(e) => change({ span: Number(e.currentTarget.value) })}>
        {#each BURST_SPANS as s (s)}<option value={s}>{spanText(s)}</option>{/each}
      </select></label
    >
    <label
      >Level <input
        value={view.level}
        inputmode="decimal"
        onchange={(e) => change({ level: parseNumber(e.currentTarget.value) || 0 })}
      /></label
    >
  {:else if view.kind === 'control'}
    <label
      >As
      <select value={view.style} onchange={(e) => change({ style: e.currentTarget.value as View['style'] })}>
        {#each ['slider', 'switch', 'push', 'number'] as s (s)}<option value={s}>{s}</option>{/each}
      </select></label
    >
  {:else if view.kind === 'picture'}
    <label
      >Picture <input
        type="file"
        accept="image/png,image/jpeg,image/webp"
        onchange={(e) => void picture(e.currentTarget.files?.[0])}
      /></label
    >
  {/if}
  {#if ['strip', 'burst', 'dial', 'bar', 'level'].includes(view.kind)}
    <label
      >Range <span class="range"
        ><input
          value={view.range?.min ?? ''}
          placeholder="own"
          aria-label="Lower end"
          onchange={(e) => number('min', e.currentTarget.value)}
        />
        to
        <input
          value={view.range?.max ?? ''}
          placeholder="own"
          aria-label="Upper end"
          onchange={(e) => number('max', e.currentTarget.value)}
        /></span
      ></label
    >
  {/if}
  {#if view.kind !== 'text'}
    <div class="channels">
      {#each usable as c (c.id)}
        <label class="pick"
          ><input
            type={single ? 'radio' : 'checkbox'}
            name="channel-of-view"
            checked={view.channels.includes(c.id)}
            onchange={() => toggle(c.id)}
          />
          {c.name} <span class="muted">{commonOf(c).unit}</span></label
        >
      {/each}
    </div>
  {/if}
  <button class="dotted" onclick={remove}>Take this view off the board</button>
</div>

<style>
  .settings {
    position: fixed;
    right: 22px;
    top: 130px;
    bottom: 22px;
    width: 290px;
    z-index: 60;
    display: flex;
    flex-direction: column;
    gap: 8px;
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    box-shadow: 0 8px 26px rgb(38 33 29 / 0.16);
    padding: 12px 14px;
    font-size: 13px;
  }
  .head {
    display: flex;
    justify-content: space-between;
  }
  p {
    margin: 0;
    font-size: 12.5px;
  }
  label {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 10px;
  }
  .pick {
    justify-content: flex-start;
    padding: 2px 0;
  }
  select,
  input:not([type='checkbox']):not([type='radio']) {
    border: 1px solid var(--line);
    border-radius: 5px;
    background-color: var(--paper);
    padding: 3px 8px;
    font-size: 13px;
    width: 160px;
  }
  select {
    padding-right: 28px;
  }
  .range input:not([type='checkbox']):not([type='radio']) {
    width: 66px;
  }
  .channels {
    flex: 1;
    min-height: 0;
    overflow: auto;
    border-top: 1px solid var(--hair);
    border-bottom: 1px solid var(--hair);
    padding: 4px 0;
  }
</style>
