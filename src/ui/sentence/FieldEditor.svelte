<!-- The small editor at a value of a sentence: unit, allowed range, why it matters, what is wrong. Enter takes, Esc leaves. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import {
    fieldUnit,
    numberText,
    type Names,
    type SentenceField,
    type SentenceValue,
  } from '$core/sentence/sentence';
  import type { FaultText } from '../api';
  import { parseNumber, type EditorOptions } from './options';
  import { useChoices } from './choices';
  import { beside } from '../kit/beside';
  import CheckList from '../kit/CheckList.svelte';
  import DayField from '../kit/DayField.svelte';

  type Props = {
    field: SentenceField;
    value: SentenceValue;
    names: Names;
    anchor: HTMLElement;
    options: EditorOptions;
    fault: FaultText | null;
    busy: boolean;
    take: (next: unknown) => void;
    close: () => void;
  };
  let { field, value, names, anchor, options, fault, busy, take, close }: Props = $props();

  const { key, info } = $derived(field);
  const held = $derived(value[key]);
  const unit = $derived(fieldUnit(info, value, names));
  const choices = $derived(
    (info.options === undefined
      ? []
      : 'ask' in (info.options as object)
        ? (options[(info.options as { ask: string }).ask] ?? [])
        : info.options) as readonly (string | number)[],
  );
  const channels = useChoices();

  /** The value as it is typed; the editor below begins with it. */
  function typed(): string {
    if (info.editor === 'names') return (held as string[]).join(', ');
    if (held === null || held === undefined || typeof held === 'object') return '';
    return typeof held === 'number' ? numberText(held) : String(held);
  }
  let text = $state(typed());
  let low = $state('');
  let high = $state('');
  let picked = $state<string[]>([]);
  let local = $state<string | null>(null);
  let box: HTMLElement;

  onMount(() => {
    if (info.editor === 'range') {
      const range = held as { min: number; max: number } | null;
      low = range ? numberText(range.min) : '';
      high = range ? numberText(range.max) : '';
    } else if (info.editor === 'channels' || info.editor === 'several') picked = [...(held as string[])];
    requestAnimationFrame(() => {
      const first = box.querySelector<HTMLElement>(
        info.editor === 'choice'
          ? '[aria-checked=true], input, button'
          : 'input, select, .cm-content, textarea, button',
      );
      first?.focus();
      if (first instanceof HTMLInputElement && first.type === 'text') first.select();
    });
  });

  const free = $derived(
    info.editor === 'choice' && (info.options as { free?: boolean } | undefined)?.free === true,
  );
  const nullable = $derived(info.none !== undefined && info.editor === 'number');

  function submit() {
    local = null;
    switch (info.editor) {
      case 'number': {
        if (text.trim() === '' && nullable) return take(null);
        const number = parseNumber(text.replace(unit, ''));
        if (Number.isNaN(number))
          return void (local = `“${text}” is no number.${unit ? ` Give a value in ${unit}.` : ''}`);
        return take(number);
      }
      case 'range': {
        if (low.trim() === '' && high.trim() === '' && info.none !== undefined) return take(null);
        const [min, max] = [parseNumber(low), parseNumber(high)];
        if (Number.isNaN(min) || Number.isNaN(max)) return void (local = 'Give two numbers.');
        return take({ min, max });
      }
      case 'names':
        return take(
          text
            .split(',')
            .map((t) => t.trim())
            .filter(Boolean),
        );
      case 'channels':
      case 'several':
        return take(picked);
      case 'choice': {
        const number = typeof held === 'number' ? parseNumber(text.replace(unit, '')) : NaN;
        if (typeof held === 'number' && Number.isNaN(number)) return void (local = `“${text}” is no number.`);
        return take(typeof held === 'number' ? number : text.trim());
      }
      default:
        return take(text);
    }
  }
  function keys(event: KeyboardEvent) {
    event.stopPropagation();
    if (event.key === 'Escape') close();
    if (
      event.key === 'Enter' &&
      (event.target as HTMLElement).tagName !== 'BUTTON' &&
      info.editor !== 'formula' &&
      info.editor !== 'day'
    ) {
      event.preventDefault();
      submit();
    }
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      const all = [...box.querySelectorAll<HTMLElement>('[role=radio]')];
      const at = all.indexOf(document.activeElement as HTMLElement);
      if (at >= 0) {
        event.preventDefault();
        all[(at + (event.key === 'ArrowDown' ? 1 : all.length - 1)) % all.length].focus();
      }
    }
  }
  const pickable = $derived(channels(key));
</script>

{#snippet none()}
  {#if info.empties}
    <button type="button" role="radio" aria-checked={held === null} onclick={() => take(null)}
      >{info.none}</button
    >
  {/if}
{/snippet}

<svelte:window onpointerdown={(e) => !box.contains(e.target as Node) && close()} />

<div
  class="editor"
  bind:this={box}
  role="dialog"
  tabindex="-1"
  aria-label={info.label}
  {@attach beside(anchor)}
  onkeydown={keys}
>
  <div class="label">{info.label}</div>
  {#if info.editor === 'choice'}
    <div class="choices" role="radiogroup" aria-label={info.label}>
      {@render none()}
      {#each choices as choice (choice)}
        <button type="button" role="radio" aria-checked={choice === held} onclick={() => take(choice)}
          >{choice}{info.unit ? ` ${info.unit}` : ''}</button
        >
      {/each}
    </div>
    {#if free}
      <div class="row">
        <input
          type="text"
          bind:value={text}
          aria-label="Another {info.label.toLowerCase()}"
          aria-invalid={fault !== null || local !== null}
          size="12"
          placeholder="another"
        /><span class="muted">{unit}</span>
      </div>
    {/if}
  {:else if info.editor === 'channel'}
    <div class="choices" role="radiogroup" aria-label={info.label}>
      {@render none()}
      {#each pickable as c (c.id)}
        <button type="button" role="radio" aria-checked={c.id === held} onclick={() => take(c.id)}
          >{c.name} <span class="muted">{c.unit}</span></button
        >
      {/each}
    </div>
  {:else if info.editor === 'channels'}
    <div class="choices">
      <CheckList
        items={pickable.map(({ id, name, unit }) => ({ id, name, about: unit }))}
        chosen={picked}
        change={(ids) => (picked = ids)}
      />
    </div>
    <div class="row">
      <button type="button" class="take" onclick={submit}
        >Take {picked.length ? `${picked.length}` : 'all'}</button
      ><button type="button" class="plainbutton" onclick={() => (picked = [])}>All</button>
    </div>
  {:else if info.editor === 'several'}
    <div class="choices">
      <CheckList
        items={choices.map((choice) => ({ id: String(choice), name: String(choice) }))}
        chosen={picked}
        change={(ids) => (picked = ids)}
      />
    </div>
    <div class="row">
      <button type="button" class="take" onclick={submit}>Take {picked.length || 'none'}</button>
    </div>
  {:else if info.editor === 'range'}
    <div class="row">
      <input type="text" inputmode="decimal" bind:value={low} aria-label="Lower end" size="8" /> to
      <input type="text" inputmode="decimal" bind:value={high} aria-label="Upper end" size="8" />
      <span class="muted">{unit}</span>
    </div>
  {:else if info.editor === 'day'}
    <DayField bind:value={text} label={info.label} onchange={take} />
  {:else if info.editor === 'formula'}
    <!-- The grammar and its editor are large: they come when a formula is opened. -->
    {#await import('./FormulaEditor.svelte')}
      <div class="opening" aria-busy="true"></div>
    {:then { default: FormulaEditor }}
      <FormulaEditor
        bind:text
        channels={pickable}
        unit={String(value.unit ?? '1')}
        label={info.label}
        {submit}
      />
    {/await}
  {:else}
    <div class="row">
      <input
        type={info.editor === 'secret' ? 'password' : 'text'}
        bind:value={text}
        inputmode={info.editor === 'number' ? 'decimal' : 'text'}
        aria-label={info.label}
        aria-invalid={fault !== null || local !== null}
        size={info.editor === 'number' ? 10 : 30}
        placeholder={info.none ?? ''}
      />
      <span class="muted">{unit === 'yes/no' ? '' : unit}</span>
    </div>
  {/if}
  {#if local || fault}<p class="wrong" role="alert">
      ◆ {local ?? [fault?.what, fault?.why, fault?.next].filter(Boolean).join(' ')}
    </p>{/if}
  {#if info.help}<p class="help">{info.help}</p>{/if}
  <p class="help keys">
    {busy ? 'Taking over…' : `Enter takes it, Esc leaves it.${nullable ? ` Empty: ${info.none}.` : ''}`}
  </p>
</div>

<style>
  .opening {
    height: 34px;
  }
  .editor {
    position: fixed;
    left: 0;
    top: 0;
    width: max-content;
    z-index: 60;
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    box-shadow: 0 8px 26px rgb(38 33 29 / 0.16);
    padding: var(--space-2) var(--space-3);
    max-width: 460px;
    font-size: var(--type-body);
    line-height: 1.4;
  }
  .label {
    font-weight: 650;
    margin-bottom: var(--space-1);
  }
  .row {
    display: flex;
    gap: var(--space-2);
    align-items: center;
  }
  input:not([type='checkbox']) {
    font-family: var(--font-mono);
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    color: var(--ink);
    padding: var(--space-1) var(--space-2);
    width: auto;
  }
  input[aria-invalid='true'] {
    border-color: var(--red);
  }
  .choices {
    display: flex;
    flex-direction: column;
    max-height: 260px;
    overflow: auto;
    margin: 0 calc(-1 * var(--space-1));
  }
  .choices button {
    display: flex;
    gap: var(--space-2);
    align-items: center;
    text-align: left;
    padding: var(--space-1) var(--space-2);
    border-radius: calc(var(--radius) / 3);
  }
  .choices button:hover,
  .choices button:focus-visible {
    background: var(--tint);
  }
  .choices button[aria-checked='true'] {
    color: var(--plum);
    font-weight: 650;
  }
  .choices button[aria-checked='true']::after {
    content: '✓';
    margin-left: auto;
  }
  .take {
    background: var(--plum-fill);
    color: var(--on-fill);
    border-radius: var(--radius);
    padding: var(--space-1) var(--space-3);
    margin-top: var(--space-1);
  }
  .plainbutton {
    margin-top: var(--space-1);
    color: var(--plum);
  }
  .help {
    color: var(--muted);
    font-size: var(--type-small);
    margin: var(--space-2) 0 0;
  }
  .keys {
    margin-top: var(--space-half);
  }
  .wrong {
    color: var(--red);
    margin: var(--space-2) 0 0;
    font-size: var(--type-small);
  }
</style>
