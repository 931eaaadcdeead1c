<!-- A page, small. -->
<script lang="ts">
  import { contentOf } from '$core/pages/sheet';
  import { pageMm, type Page, type Paper, type PaintedBlock } from '$contract/report';

  type Props = { page: Page; paper: Paper; drawn: ReadonlyMap<string, PaintedBlock> };
  let { page, paper, drawn }: Props = $props();

  const POINTS_A_MM = 72 / 25.4;
  const size = $derived(pageMm(paper));
</script>

<svg class="thumbnail" style:background="white" viewBox="0 0 {size[0]} {size[1]}" aria-hidden="true">
  {#each page.blocks as block (block.id)}
    <g transform="translate({block.x} {block.y}) scale({1 / POINTS_A_MM})">
      <!-- The server draws it, with every word escaped. -->
      <!-- eslint-disable-next-line svelte/no-at-html-tags -->
      {@html contentOf(drawn.get(block.id)?.svg ?? '<svg></svg>')}
    </g>
  {/each}
</svg>

<style>
  .thumbnail {
    display: block;
    width: 100%;
  }
</style>
