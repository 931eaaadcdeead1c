<!-- A box beside what opened it. Escape and a click elsewhere close it; Escape gives the focus back to where it was. -->
<script lang="ts">
  import type { Snippet } from 'svelte';
  import { beside } from './beside';

  type Props = {
    anchor: HTMLElement;
    label: string;
    role?: 'dialog' | 'menu';
    close: () => void;
    children: Snippet;
  };
  let { anchor, label, role = 'dialog', close, children }: Props = $props();

  let box: HTMLElement;
  $effect(() => {
    const waiting = requestAnimationFrame(() => {
      const first = box.querySelector<HTMLElement>('input, select, button');
      first?.focus();
      if (first instanceof HTMLInputElement) first.select();
    });
    return () => cancelAnimationFrame(waiting);
  });
  /** Editors that a value in the box opens stand beside it, not in it. */
  const outside = (target: EventTarget | null) =>
    !box.contains(target as Node) &&
    !(target as Element).closest('.editor') &&
    !anchor.contains(target as Node);
  function keys(event: KeyboardEvent) {
    event.stopPropagation();
    if (event.key !== 'Escape') return;
    const back = anchor;
    close();
    back.focus();
  }
</script>

<svelte:window onpointerdown={(e) => outside(e.target) && close()} />
<div
  class="box"
  bind:this={box}
  {role}
  tabindex="-1"
  aria-label={label}
  {@attach beside(anchor)}
  onkeydown={keys}
>
  {@render children()}
</div>

<style>
  .box {
    position: fixed;
    left: 0;
    top: 0;
    z-index: 50;
    width: max-content;
    max-width: 420px;
    white-space: normal;
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    box-shadow: 0 8px 26px rgb(38 33 29 / 0.16);
    padding: var(--space-2) var(--space-3);
  }
  .box :global(:is(input:not([type='checkbox'], [type='radio'], [type='file']), select)) {
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--paper);
    padding: var(--space-1) var(--space-2);
    max-width: 100%;
  }
  .box :global(select) {
    padding-right: var(--space-6);
  }
  .box :global(button:disabled) {
    opacity: 0.5;
  }
</style>
