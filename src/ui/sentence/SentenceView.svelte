<!-- Any setting schema as its sentence: values are the controls. Also as a table of the same values. -->
<script lang="ts" generics="S extends import('zod').ZodObject">
  import {
    fieldText,
    sentenceFields,
    sentenceParts,
    type Names,
    type Sentence,
    type SentenceField,
    type SentenceValue,
  } from '$core/sentence/sentence';
  import { faultText, type FaultText } from '../api';
  import FieldEditor from './FieldEditor.svelte';
  import type { EditorOptions } from './options';

  type Props = {
    sentence: Sentence<S>;
    value: SentenceValue;
    names: Names;
    /** Takes one changed value over; a rejection is shown at the editor. */
    change: (key: string, value: unknown) => Promise<unknown>;
    options?: EditorOptions;
    table?: boolean;
    size?: 'small' | 'normal' | 'large';
  };
  let { sentence, value, names, change, options = {}, table = false, size = 'normal' }: Props = $props();

  let open = $state<{ field: SentenceField; anchor: HTMLElement } | null>(null);
  let fault = $state<FaultText | null>(null);
  let busy = $state(false);

  const parts = $derived(sentenceParts(sentence, value as never, names));
  const fields = $derived(sentenceFields(sentence.schema));

  /** A sign stays on the line of the value before it. */
  const signAfter = (i: number): string => {
    const next = parts[i + 1];
    return next && 'text' in next && !('field' in next) ? (/^[.,;:)]+/.exec(next.text)?.[0] ?? '') : '';
  };
  const withoutSign = (text: string, i: number) =>
    i > 0 && 'field' in parts[i - 1] ? text.replace(/^[.,;:)]+/, '') : text;
  function edit(field: SentenceField, anchor: EventTarget | null) {
    fault = null;
    open = { field, anchor: anchor as HTMLElement };
  }
  function close() {
    const anchor = open?.anchor;
    open = null;
    fault = null;
    anchor?.focus();
  }
  async function take(next: unknown) {
    const mine = open!;
    const { key } = mine.field;
    // The same schema as on the server refuses at once, in place.
    const checked = sentence.schema.safeParse({ ...value, [key]: next });
    const issue = checked.error?.issues.find((i) => i.path[0] === key);
    if (issue) return void (fault = { what: issue.message });
    busy = true;
    try {
      await change(key, next);
      // Another value may have been opened meanwhile: that stays.
      if (open === mine) close();
    } catch (error) {
      // What was refused comes back to be mended, whatever was opened meanwhile.
      open = mine;
      fault = faultText(error);
    } finally {
      busy = false;
    }
  }
</script>

{#snippet control(field: SentenceField, text: string)}
  <button
    type="button"
    class="dotted"
    data-field={field.key}
    aria-haspopup="dialog"
    aria-label="{field.info.label}: {text}"
    onclick={(e) => edit(field, e.currentTarget)}>{text}</button
  >
{/snippet}

{#if table}
  <table class="plain">
    <tbody>
      {#each fields as field (field.key)}
        <tr>
          <td class="muted">{field.info.label}</td>
          <td>{@render control(field, fieldText(field, value, names))}</td>
          <td class="muted help">{field.info.help ?? ''}</td>
        </tr>
      {/each}
    </tbody>
  </table>
{:else}
  <p class="sentence {size}">
    {#each parts as part, i (i)}{#if 'field' in part}<span class="held"
          >{@render control(part.field, part.text)}{signAfter(i)}</span
        >{:else}{withoutSign(part.text, i)}{/if}{/each}
  </p>
{/if}

{#if open}
  {#key open.field.key}
    <FieldEditor
      field={open.field}
      {value}
      {names}
      anchor={open.anchor}
      {options}
      {fault}
      {busy}
      {take}
      {close}
    />
  {/key}
{/if}

<style>
  .sentence {
    margin: 0;
    line-height: 1.95;
    font-size: var(--type-body);
  }
  /* Long names are shortened; the box that opens has them whole. */
  .sentence .dotted {
    display: inline-block;
    max-width: min(46ch, 100%);
    overflow: clip;
    text-overflow: ellipsis;
    white-space: nowrap;
    line-height: 1.4;
  }
  .held {
    white-space: nowrap;
  }
  /* Within other words. */
  .sentence.small {
    display: inline;
    font-size: var(--type-small);
    line-height: 1.5;
  }
  .sentence.large {
    font-size: var(--type-reading);
    line-height: 1.75;
  }
  .help {
    font-size: var(--type-small);
  }
</style>
