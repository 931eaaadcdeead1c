<!-- A page to begin with, as a small drawing: what stands where. -->
<script lang="ts">
  type Props = { name: string };
  let { name }: Props = $props();

  type Shape = readonly [kind: 'words' | 'block' | 'lines', y: number, h: number];
  const HEAD: Shape[] = [['words', 6, 3], ['words', 11, 1.5]]; // prettier-ignore
  const SHAPES: Record<string, Shape[]> = {
    empty: [],
    summary: [
      ...HEAD,
      ['lines', 17, 8],
      ['block', 28, 30],
      ['lines', 61, 12],
      ['words', 77, 1.5],
      ['words', 80, 1.5],
    ],
    'spin-up': [...HEAD, ['block', 17, 30], ['words', 51, 1.5], ['words', 54, 1.5], ['lines', 60, 24]],
    duty: [...HEAD, ['block', 17, 30], ['lines', 51, 26], ['words', 81, 1.5]],
    recorder: [...HEAD, ['lines', 17, 12], ['block', 31, 34], ['words', 70, 1.5], ['lines', 74, 18]],
    series: [...HEAD, ['lines', 17, 46], ['words', 66, 1.5], ['block', 70, 22]],
    certificate: [
      ...HEAD,
      ['lines', 17, 8],
      ['words', 28, 1.5],
      ['lines', 31, 40],
      ['words', 75, 1.5],
      ['lines', 80, 8],
    ],
    'noise figure': [...HEAD, ['lines', 17, 62]],
    modes: [...HEAD, ['lines', 17, 34], ['words', 54, 1.5], ['block', 58, 32]],
    comparison: [...HEAD, ['lines', 17, 34], ['block', 55, 26]],
  };
  const shapes = $derived(SHAPES[name] ?? []);
</script>

<svg viewBox="0 0 70 99" aria-hidden="true">
  <rect class="paper" x="0.5" y="0.5" width="69" height="98" />
  {#each shapes as [kind, y, h], k (k)}
    {#if kind === 'block'}<rect class="block" x="7" {y} width="56" height={h} />
    {:else if kind === 'words'}<rect class="words" x="7" {y} width={h > 2 ? 34 : 48} height={h} />
    {:else}{#each Array.from({ length: Math.floor(h / 4) }, (_x, at) => at) as i (i)}<line
          x1="7"
          x2="63"
          y1={y + 2 + i * 4}
          y2={y + 2 + i * 4}
        />{/each}{/if}
  {/each}
</svg>

<style>
  svg {
    display: block;
    width: 100%;
  }
  .paper {
    fill: var(--card);
    stroke: var(--line);
  }
  .block {
    fill: var(--tint);
  }
  .words {
    fill: var(--muted);
  }
  line {
    stroke: var(--line);
  }
</style>
