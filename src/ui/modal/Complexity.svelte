<!-- How complex a shape is: each response as a hand of its size and phase. A real shape lies along the line of mean phase. -->
<script lang="ts">
  import { meanPhase, phaseDeviation, realness } from '$core/modal/shape';

  type Props = { shape: { re: number[]; im: number[] }; names: string[] };
  let { shape, names }: Props = $props();
  const R = 46;
  const own = $derived({ re: Float64Array.from(shape.re), im: Float64Array.from(shape.im) });
  const largest = $derived(shape.re.reduce((most, re, i) => Math.max(most, Math.hypot(re, shape.im[i])), 0) || 1); // prettier-ignore
  const hands = $derived(
    shape.re.map((re, i) => ({
      x: (R * re) / largest,
      y: (-R * shape.im[i]) / largest,
      says: `${names[i] ?? i + 1}: ${(Math.hypot(re, shape.im[i]) / largest).toFixed(2)} at ${degrees(Math.atan2(shape.im[i], re))}`,
    })),
  );
  const along = $derived(meanPhase(own));
  function degrees(rad: number) {
    return `${String(Math.round((180 * rad) / Math.PI) || 0).replace('-', '−')}°`;
  }
</script>

<figure>
  <svg viewBox="-52 -52 104 104" role="img" aria-label="Size and phase of each response">
    <circle r={R} class="edge" />
    <circle r={R / 2} class="edge" />
    <line x1={-R} x2={R} y1="0" y2="0" class="edge" />
    <line y1={-R} y2={R} x1="0" x2="0" class="edge" />
    <line
      class="mean"
      x1={-R * Math.cos(along)}
      y1={R * Math.sin(along)}
      x2={R * Math.cos(along)}
      y2={-R * Math.sin(along)}
    />
    {#each hands as { x, y, says }, i (i)}
      <g class="hand"
        ><title>{says}</title><line x1="0" y1="0" x2={x} y2={y} /><circle cx={x} cy={y} r="2" /></g
      >
    {/each}
  </svg>
  <figcaption>
    realness {realness(own).toFixed(2)}, mean phase {degrees(along)}, off it by {degrees(phaseDeviation(own))}
  </figcaption>
</figure>

<style>
  figure {
    margin: 0;
    position: absolute;
    right: 0;
    bottom: 0;
    width: 132px;
    background: var(--card);
  }
  svg {
    display: block;
    width: 100%;
  }
  .edge {
    fill: none;
    stroke: var(--hair);
    stroke-width: 0.6;
  }
  .mean {
    stroke: var(--ink);
    stroke-width: 0.8;
    stroke-dasharray: 2 2;
  }
  .hand line {
    stroke: var(--plum);
    stroke-width: 1;
  }
  .hand circle {
    fill: var(--plum);
  }
  figcaption {
    font-size: var(--type-fine);
    line-height: 1.3;
    color: var(--muted);
    text-align: center;
  }
</style>
