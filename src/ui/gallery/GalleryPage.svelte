<!-- For developers: every mark and scale by day, by night and on paper, side by side. Not in the rail. -->
<script lang="ts">
  import { paintFigure } from '$core/figures/paper';
  import { PAPER_INK } from '$contract/palette';
  import FigureView from '../plot/FigureView.svelte';
  import { SAMPLES } from './samples';

  const ink = { ...PAPER_INK, words: 'sans-serif', mono: 'monospace' };
  const printed = (figure: (typeof SAMPLES)[number]) =>
    `data:image/svg+xml,${encodeURIComponent(paintFigure(figure, ink, { width: 380, height: 190 }))}`;
</script>

<div class="page">
  <div class="page-head">
    <h1>Figures</h1>
    <span class="aside">day, night, paper</span>
  </div>
  <div class="rows">
    {#each SAMPLES as figure (figure.title)}
      <section>
        <h2>{figure.title}</h2>
        <div class="three">
          <div class="day card"><FigureView {figure} night={false} /></div>
          <div class="dark card"><FigureView {figure} night /></div>
          <div class="paper"><img src={printed(figure)} alt="{figure.title} on paper" /></div>
        </div>
      </section>
    {/each}
  </div>
</div>

<style>
  .rows {
    overflow: auto;
    display: grid;
    gap: var(--space-4);
  }
  .three {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: var(--space-3);
    margin-top: var(--space-1);
  }
  .three > div {
    height: 230px;
    padding: var(--space-2) 0;
    background: var(--card);
    color: var(--ink);
  }
  .paper img {
    width: 100%;
    background: white;
  }
</style>
