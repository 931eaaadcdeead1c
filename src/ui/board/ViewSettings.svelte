<!-- Settings of one view: its channels, what it shows, and what belongs to its kind. -->
<script lang="ts">
  import { commonOf, type Channel } from '$contract/channel';
  import type { View } from '$contract/board';
  import { call, faultText } from '../api';
  import { parseNumber } from '../sentence/options';
  import { useShell } from '../shell/shell.svelte';
  import { BOARD_VIEWS, boardView } from './views/registry';

  type Props = {
    view: View;
    channels: Channel[];
    change: (edit: Partial<View>) => void;
    remove: () => void;
    close: () => void;
  };
  let { view, channels, change, remove, close }: Props = $props();
  const shell = useShell();

  const kind = $derived(boardView(view.kind));
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
  const single = $derived(kind?.channels === 'one');
  const usable = $derived(channels.filter(kind?.suits ?? (() => true)));
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
      change({ picture: (await call('POST /api/pictures', { file })).id });
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
    <select
      value={view.kind}
      onchange={(e) => change({ ...boardView(e.currentTarget.value)?.begins, kind: e.currentTarget.value })}
    >
      {#each BOARD_VIEWS as { kind, title } (kind)}<option value={kind}>{title}</option>{/each}
    </select></label
  >
  <p class="muted">{kind?.purpose}</p>
  <label
    >Title <input
      value={view.title}
      placeholder="the channel’s name"
      onchange={(e) => change({ title: e.currentTarget.value })}
    /></label
  >
  {#each kind?.settings ?? [] as setting (setting.of === 'choice' ? setting.key : setting.of)}
    {#if setting.of === 'span'}
      <label
        >Time shown
        <select value={view.span} onchange={(e) => change({ span: Number(e.currentTarget.value) })}>
          {#each setting.spans as s (s)}<option value={s}>{spanText(s)}</option>{/each}
        </select></label
      >
    {:else if setting.of === 'level'}
      <label
        >Level <input
          value={view.level ?? 0}
          inputmode="decimal"
          onchange={(e) => change({ level: parseNumber(e.currentTarget.value) || 0 })}
        /></label
      >
    {:else if setting.of === 'choice'}
      {@const { key, label, options, usual } = setting}
      <label
        >{label}
        <select
          value={key === 'style' ? view.style : (view.own[key] ?? usual)}
          onchange={(e) =>
            change(
              key === 'style'
                ? { style: e.currentTarget.value }
                : { own: { ...view.own, [key]: e.currentTarget.value } },
            )}
        >
          {#each options as o (o)}<option value={o}>{o}</option>{/each}
        </select></label
      >
    {:else if setting.of === 'picture'}
      <label
        >Picture <input
          type="file"
          accept="image/png,image/jpeg,image/webp"
          onchange={(e) => void picture(e.currentTarget.files?.[0])}
        /></label
      >
    {:else}
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
  {/each}
  {#if kind?.channels !== 'none'}
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
    gap: var(--space-2);
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    box-shadow: 0 8px 26px rgb(38 33 29 / 0.16);
    padding: var(--space-3);
    font-size: var(--type-body);
  }
  .head {
    display: flex;
    justify-content: space-between;
  }
  p {
    margin: 0;
    font-size: var(--type-small);
  }
  label {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: var(--space-2);
  }
  .pick {
    justify-content: flex-start;
    padding: var(--space-half) 0;
  }
  select,
  input:not([type='checkbox']):not([type='radio']) {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--paper);
    padding: var(--space-half) var(--space-2);
    font-size: var(--type-body);
    width: 160px;
  }
  select {
    padding-right: var(--space-6);
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
    padding: var(--space-1) 0;
  }
</style>
