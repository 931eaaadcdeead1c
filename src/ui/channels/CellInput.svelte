<!-- The field of a cell that is being typed, with what its column offers, and why it was refused. -->
<script lang="ts">
  type Props = { text: string; label: string; options: string[]; fault: string; leave: () => void };
  let { text = $bindable(), label, options, fault, leave }: Props = $props();
</script>

<input
  class="cell"
  bind:value={text}
  aria-label={label}
  aria-invalid={fault !== ''}
  list={options.length ? 'cell-options' : undefined}
  onblur={leave}
/>
{#if options.length}<datalist id="cell-options"
    >{#each options as option (option)}<option value={option}></option>{/each}</datalist
  >{/if}
{#if fault}<div class="why" role="alert">◆ {fault}</div>{/if}

<style>
  input {
    position: absolute;
    inset: 1px;
    width: calc(100% - 2px);
    font: inherit;
    background: var(--paper);
    border: 0;
    padding: 0 var(--space-2);
    text-align: inherit;
  }
  .why {
    position: absolute;
    top: 100%;
    left: 0;
    z-index: 3;
    background: var(--card);
    color: var(--red);
    border: 1px solid var(--red);
    border-radius: var(--radius);
    padding: var(--space-1) var(--space-2);
    white-space: normal;
    width: max-content;
    max-width: 300px;
    font-family: var(--font-sans);
    font-size: var(--type-small);
    font-weight: 400;
    text-align: left;
  }
</style>
