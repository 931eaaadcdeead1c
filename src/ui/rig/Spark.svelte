<!-- The last readings as a small line; it says nothing of scale, only of movement. -->
<script lang="ts">
  type Props = { values: number[]; colour?: string };
  let { values, colour = 'var(--plum)' }: Props = $props();

  const path = $derived.by(() => {
    const good = values.filter((v) => !Number.isNaN(v));
    const low = Math.min(...good);
    const span = Math.max(...good) - low || 1;
    let pen = 'M';
    let out = '';
    values.forEach((v, i) => {
      if (Number.isNaN(v)) return void (pen = 'M');
      out += `${pen}${(300 - (values.length - 1 - i) * 2.5).toFixed(1)} ${(32 - ((v - low) / span) * 28).toFixed(1)}`;
      pen = 'L';
    });
    return out;
  });
</script>

<svg viewBox="0 0 300 36" preserveAspectRatio="none" aria-hidden="true"
  ><path d={path} fill="none" stroke={colour} stroke-width="1.2" vector-effect="non-scaling-stroke" /></svg
>

<style>
  svg {
    width: 100%;
    height: 36px;
    border-bottom: 1px solid var(--hair);
  }
</style>
