<!-- The head of a strip (name in its colour, unit, aside) above its canvas. -->
<script lang="ts">
  import type { Snippet } from 'svelte';
  import { nameColour } from '$contract/palette';

  type Props = {
    name: string;
    unit: string;
    colour: number;
    night: boolean;
    aside?: string;
    canvas: Snippet;
  };
  let { name, unit, colour, night, aside = '', canvas }: Props = $props();
</script>

<section class="strip" aria-label={name}>
  <div class="head">
    <strong style:color={nameColour(colour, night)}>{name}</strong> <span class="muted">{unit}</span><span
      class="aside mono">{aside}</span
    >
  </div>
  <div class="area">{@render canvas()}</div>
</section>

<style>
  .strip {
    display: flex;
    flex-direction: column;
    min-height: 0;
    flex: 1 1 0;
  }
  .head {
    font-size: var(--type-small);
    line-height: 18px;
    display: flex;
    gap: var(--space-2);
    padding-left: var(--space-3);
    white-space: nowrap;
    overflow: hidden;
  }
  .head strong {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .aside {
    margin-left: auto;
    padding-right: var(--space-3);
    font-size: var(--type-small);
  }
  .area {
    position: relative;
    flex: 1;
    min-height: 0;
  }
</style>
