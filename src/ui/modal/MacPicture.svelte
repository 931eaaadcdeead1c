<!-- How alike shapes are: a square for each pair, paper to plum; its value where one points or goes by keys. -->
<script lang="ts">
  import { macMatrix, type Shape } from '$core/modal/shape';

  type Props = {
    rows: readonly { name: string; shape: Shape }[];
    columns: readonly { name: string; shape: Shape }[];
    label: string;
    title: string;
    /** Pixels that a square may have at the most. */
    most?: number;
  };
  let { rows, columns, label, title, most = 22 }: Props = $props();
  const values = $derived(macMatrix(rows.map((r) => r.shape), columns.map((c) => c.shape))); // prettier-ignore
  let at = $state.raw<[number, number] | null>(null);
  const says = $derived(
    at && values[at[0]]?.[at[1]] !== undefined
      ? `${rows[at[0]].name} · ${columns[at[1]].name}: ${values[at[0]][at[1]].toFixed(3)}`
      : '',
  );
</script>

<div class="mac">
  <h2>{title} <span class="muted" role="status">{says}</span></h2>
  <table aria-label={label} style:--side="{most}px">
    <tbody>
      {#each values as row, i (i)}
        <tr>
          <th scope="row">{i + 1}</th>
          {#each row as value, j (j)}
            <td
              style:--share={value}
              tabindex={i === 0 && j === 0 ? 0 : -1}
              aria-label="{rows[i].name} and {columns[j].name}: {value.toFixed(2)}"
              onpointerenter={() => (at = [i, j])}
              onpointerleave={() => (at = null)}
              onfocus={() => (at = [i, j])}
              onblur={() => (at = null)}
              onkeydown={(e) => {
                const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: columns.length, ArrowUp: -columns.length }[e.key]; // prettier-ignore
                if (by === undefined) return;
                e.preventDefault();
                const cells = (e.currentTarget as HTMLElement).closest('table')!.querySelectorAll('td');
                cells[i * columns.length + j + by]?.focus();
              }}
            ></td>
          {/each}
        </tr>
      {/each}
    </tbody>
    <tfoot>
      <tr
        ><td class="corner"></td>{#each columns.keys() as j (j)}<th scope="col">{j + 1}</th>{/each}</tr
      >
    </tfoot>
  </table>
</div>

<style>
  .mac {
    min-width: 0;
  }
  table {
    border-collapse: separate;
    border-spacing: 1px;
  }
  tbody td {
    width: var(--side);
    height: var(--side);
    padding: 0;
    background: color-mix(in srgb, var(--plum-fill) calc(var(--share) * 100%), var(--hair));
  }
  th {
    font-weight: 400;
    font-size: var(--type-fine);
    font-family: var(--font-mono);
    color: var(--muted);
    text-align: center;
    padding: 0 var(--space-1);
  }
  h2 {
    margin: 0 0 var(--space-1);
    white-space: nowrap;
  }
  h2 span {
    font-weight: 400;
    font-size: var(--type-fine);
  }
</style>
