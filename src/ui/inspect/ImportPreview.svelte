<!-- What a file would become: its first rows as channels, with the way it is read. -->
<script lang="ts">
  import type { FormatKind } from '$core/formats/format';
  import type { FaultText } from '../api';
  import { previewOf, type Preview } from './preview';

  type Props = { file: File; format: FormatKind; options: Record<string, unknown> };
  let { file, format, options }: Props = $props();
  let preview = $state.raw<Preview | null>(null);
  let fault = $state.raw<FaultText | null>(null);

  const rows = $derived(
    Array.from({ length: Math.max(0, ...(preview?.columns ?? []).map((c) => c.values.length)) }, (_, r) => r),
  );
  $effect(() => {
    let wanted = true;
    void previewOf(file, format, options).then((found) => {
      if (!wanted) return;
      preview = found && 'preview' in found ? found.preview : null;
      fault = found && 'fault' in found ? found.fault : null;
    });
    return () => (wanted = false);
  });
</script>

<div class="preview" data-testid="preview">
  {#if fault}
    <p class="warning" role="status">{fault.what} {fault.why ?? ''} {fault.next ?? ''}</p>
  {:else if preview}
    <div class="scroll">
      <table class="plain">
        <thead>
          <tr>
            {#each preview.columns as column, k (k)}<th class="num"
                >{column.name}{column.unit === '1' ? '' : `, ${column.unit}`}<span class="muted"
                  >{column.rate} S/s</span
                ></th
              >{/each}
          </tr>
        </thead>
        <tbody>
          {#each rows as r (r)}
            <tr
              >{#each preview.columns as column, k (k)}<td class="num"
                  >{r < column.values.length && Number.isFinite(column.values[r])
                    ? String(Number(column.values[r].toPrecision(7)))
                    : '–'}</td
                >{/each}</tr
            >
          {/each}
        </tbody>
      </table>
    </div>
    <p class="muted">
      {preview.start ? `Begins ${preview.start.slice(0, 23).replace('T', ' ')} UTC.` : 'Says no date.'}
      {preview.more ? `${preview.more} more channels.` : ''}
      {preview.facts.map(([name, value]) => `${name}: ${value}.`).join(' ')}
    </p>
  {/if}
</div>

<style>
  .preview {
    width: 100%;
    font-size: var(--type-small);
    min-height: 6rem;
  }
  .scroll {
    overflow-x: auto;
  }
  th .muted {
    display: block;
    font-weight: 400;
  }
  th,
  td {
    white-space: nowrap;
  }
  p {
    margin: var(--space-1) 0 0;
  }
</style>
