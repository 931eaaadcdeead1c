<!-- A dialog that gives the focus back to where it was, or to the page when that is gone: never to nothing. -->
<script lang="ts">
  import { Modal } from 'flowbite-svelte';
  import type { ComponentProps, Snippet } from 'svelte';

  type Props = Omit<ComponentProps<typeof Modal>, 'children' | 'form'> & { children: Snippet };
  let { open = $bindable(), children, ...rest }: Props = $props();

  let opener: Element | null = null;
  $effect.pre(() => {
    if (open) opener ??= document.activeElement;
    else if (opener) {
      const back = opener;
      opener = null;
      giveBack(back);
    }
  });
  /** While it fades out nothing else can have the focus: it is tried until it stays, unless something else took it. */
  function giveBack(to: Element, tries = 60): void {
    requestAnimationFrame(() => {
      if (open) return; // opened again meanwhile
      const now = document.activeElement;
      if (now && now !== document.body && !now.closest('dialog')) return;
      const there = to.isConnected && to !== document.body ? to : document.getElementById('page');
      (there as HTMLElement | null)?.focus();
      if (document.activeElement !== there && tries > 0) giveBack(to, tries - 1);
    });
  }
</script>

<Modal bind:open {...rest}>{@render children()}</Modal>
