<!-- Values chosen from a unit as rows: fields of a line, registers, topics. Any row schema, edited in place. -->
<script lang="ts">
  import { fieldText, NO_NAMES, sentenceFields, type SentenceField } from '$core/sentence/sentence';
  import type { UnitState } from '$contract/unit';
  import type { UnitKind } from '$contract/units/kinds';
  import { Button } from 'flowbite-svelte';
  import { faultText, type FaultText } from '../api';
  import FieldEditor from '../sentence/FieldEditor.svelte';

  type Row = Record<string, unknown> & { id: string };
  type Props = {
    kind: UnitKind;
    rows: Row[];
    unit: UnitState;
    change: (rows: Record<string, unknown>[]) => Promise<void>;
  };
  let { kind, rows, unit, change }: Props = $props();

  const sources = $derived(kind.sources!);
  const fields = $derived(sentenceFields(sources.row));
  let open = $state<{ row: number; field: SentenceField; anchor: HTMLElement } | null>(null);
  let fault = $state<FaultText | null>(null);
  let busy = $state(false);

  async function put(next: Record<string, unknown>[]) {
    busy = true;
    try {
      await change(next);
      fault = null;
      return true;
    } catch (error) {
      fault = faultText(error);
      return false;
    } finally {
      busy = false;
    }
  }
  async function take(value: unknown) {
    const { row, field } = open!;
    const checked = sources.row.safeParse({ ...rows[row], [field.key]: value });
    const issue = checked.error?.issues.find((i) => i.path[0] === field.key);
    if (issue) return void (fault = { what: issue.message });
    if (await put(rows.map((r, k) => (k === row ? { ...r, [field.key]: value } : r)))) open = null;
  }
  const add = () => {
    const last = rows[rows.length - 1];
    const copy = Object.fromEntries(Object.entries(last ?? {}).filter(([key]) => key !== 'id'));
    const name = `${String(sources.defaults.name).replace(/\d+$/, '').trim()} ${rows.length + 1}`;
    const next =
      typeof copy.register === 'number'
        ? { register: (copy.register as number) + 1 }
        : typeof copy.field === 'string' && /^\d+$/.test(copy.field)
          ? { field: String(Number(copy.field) + 1) }
          : {};
    void put([...rows, { ...sources.defaults, ...copy, ...next, name }]);
  };
</script>

<div class="wrap">
  <table class="plain">
    <thead>
      <tr>
        {#each fields as { key, info } (key)}<th>{info.label}</th>{/each}<th></th>
      </tr>
    </thead>
    <tbody>
      {#each rows as row, k (row.id)}
        <tr data-row={row.name}>
          {#each fields as field (field.key)}
            <td
              ><button
                class="dotted"
                data-field={field.key}
                aria-label="{field.info.label}: {fieldText(field, row, NO_NAMES)}"
                onclick={(e) => ((fault = null), (open = { row: k, field, anchor: e.currentTarget }))}
                >{fieldText(field, row, NO_NAMES)}</button
              ></td
            >
          {/each}
          <td class="num"
            ><button
              class="muted"
              title="Take this row out"
              aria-label="Take {row.name} out"
              onclick={() => void put(rows.filter((_, i) => i !== k))}>×</button
            ></td
          >
        </tr>
      {:else}
        <tr
          ><td class="muted" colspan={fields.length + 1}
            >{sources.what}: none yet.
            {unit.description.abilities.includes('monitor') && 'how' in kind.defaults
              ? 'Let the assistant below propose them from the lines that arrive.'
              : 'Add the first one.'}</td
          ></tr
        >
      {/each}
    </tbody>
  </table>
</div>
{#if fault && !open}<p class="wrong" role="alert">◆ {fault.what} {fault.next ?? ''}</p>{/if}
<Button size="xs" color="alternative" disabled={busy} onclick={add}>Add a row</Button>

{#if open}
  {#key `${open.row} ${open.field.key}`}
    <FieldEditor
      field={open.field}
      value={rows[open.row]}
      names={NO_NAMES}
      anchor={open.anchor}
      options={{}}
      {fault}
      {busy}
      take={(v) => void take(v)}
      close={() => ((open = null), (fault = null))}
    />
  {/key}
{/if}

<style>
  .wrap {
    overflow: auto;
    max-height: 300px;
    margin: var(--space-2) 0;
  }
  td {
    white-space: nowrap;
  }
  .wrong {
    color: var(--red);
    margin: 0 0 var(--space-2);
    font-size: var(--type-small);
  }
</style>
