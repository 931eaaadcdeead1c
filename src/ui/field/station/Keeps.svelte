<!-- What a table keeps: values down, what is kept of them across. -->
<script lang="ts">
  import { KEEPS, stationModel, type KeepAs } from '$core/field/station/model';
  import { valuesOf, type Keep, type Programme, type Table } from '$core/field/station/programme';
  import { keptText } from './words';

  type Props = { programme: Programme; table: Table; change: (keeps: Keep[]) => void };
  let { programme, table, change }: Props = $props();

  const own = $derived(stationModel(programme.model)?.keeps ?? KEEPS);
  /** What the model cannot keep can be taken out where it is asked for. */
  const can = $derived(KEEPS.filter((as) => own.includes(as) || table.keeps.some((k) => k.as === as)));
  const values = $derived(valuesOf(programme));
  /** Asked for, but not measured any more: it can only be taken out. */
  const gone = $derived(table.keeps.filter((k) => !values.some((v) => v.name === k.of)));
  const found = (of: string, as: KeepAs) => table.keeps.find((k) => k.of === of && k.as === as);
  /** In the order of the values and of what is kept of them. */
  function put(keeps: Keep[]) {
    const place = ({ of, as }: Keep) => values.findIndex((v) => v.name === of) * 10 + KEEPS.indexOf(as);
    change([...keeps].sort((a, b) => place(a) - place(b)));
  }
  function toggle(of: string, as: KeepAs) {
    if (found(of, as)) return put(table.keeps.filter((k) => !(k.of === of && k.as === as)));
    const from = as === 'wind' ? (values.find((v) => v.unit === '°')?.name ?? '') : '';
    put([...table.keeps, { of, as, from, when: false }]);
  }
  const edit = (of: string, as: KeepAs, part: Partial<Keep>) =>
    put(table.keeps.map((k) => (k.of === of && k.as === as ? { ...k, ...part } : k)));
</script>

<div class="scroll">
  <table>
    <thead>
      <tr
        ><th></th>{#each can as as (as)}<th scope="col">{keptText(as)}</th>{/each}</tr
      >
    </thead>
    <tbody>
      {#each values as { name, unit } (name)}
        <tr>
          <th scope="row">{name} <span class="muted">{unit}</span></th>
          {#each can as as (as)}
            {@const kept = found(name, as)}
            <td>
              <input
                type="checkbox"
                aria-label="{keptText(as)} of {name}"
                checked={!!kept}
                onchange={() => toggle(name, as)}
              />
              {#if kept && (as === 'lowest' || as === 'highest')}
                <label class="when"
                  ><input
                    type="checkbox"
                    aria-label="time of the {as} {name}"
                    checked={kept.when}
                    onchange={() => edit(name, as, { when: !kept.when })}
                  /> when</label
                >
              {/if}
              {#if kept && as === 'wind'}
                <select
                  class="plain"
                  aria-label="Direction of {name}"
                  value={kept.from}
                  onchange={(e) => edit(name, as, { from: e.currentTarget.value })}
                >
                  <option value="">no direction</option>
                  {#each values as v (v.name)}<option value={v.name}>from {v.name}</option>{/each}
                </select>
              {/if}
            </td>
          {/each}
        </tr>
      {/each}
      {#each gone as k (`${k.as} ${k.of}`)}
        <tr class="gone">
          <th scope="row">{k.of}</th>
          <td colspan={can.length}
            >the {keptText(k.as)} is asked for, but it is never measured:
            <button class="dotted" onclick={() => put(table.keeps.filter((other) => other !== k))}
              >take it out</button
            ></td
          >
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<style>
  .scroll {
    overflow-x: auto;
    margin: var(--space-2) 0;
  }
  table {
    border-collapse: collapse;
    font-size: var(--type-small);
  }
  th {
    text-align: left;
    font-weight: 400;
    white-space: nowrap;
    padding-right: var(--space-4);
  }
  thead th {
    color: var(--muted);
    padding-right: var(--space-3);
  }
  td {
    padding: var(--space-half) var(--space-3) var(--space-half) 0;
    white-space: nowrap;
  }
  tbody tr {
    border-top: 1px solid var(--hair);
  }
  .when {
    color: var(--muted);
  }
  .gone {
    color: var(--red);
  }
</style>
