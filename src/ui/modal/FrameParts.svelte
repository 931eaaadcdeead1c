<script lang="ts">
  import type { FrameBody, NamedFrame } from '$contract/wireframe';
  import { parseNumber } from '../sentence/options';

  type Props = { frame: NamedFrame; edit: (change: Partial<FrameBody>, says: string) => void };
  let { frame, edit }: Props = $props();
  type Part = FrameBody['parts'][number];
  const put = (k: number, part: Part, says: string) =>
    edit({ parts: frame.parts.map((p, i) => (i === k ? part : p)) }, says);
  function number(k: number, key: 'at' | 'turn', axis: number, input: HTMLInputElement) {
    const value = parseNumber(input.value);
    const p = frame.parts[k];
    if (Number.isNaN(value)) return void (input.value = String(p[key][axis]));
    put(k, { ...p, [key]: p[key].map((v, i) => (i === axis ? value : v)) }, `${p.name} ${key === 'at' ? 'moved' : 'turned'}`); // prettier-ignore
  }
  function rename(k: number, to: string) {
    const from = frame.parts[k].name;
    const name = to.trim();
    if (!name || name === from) return;
    edit(
      {
        parts: frame.parts.map((p, i) => (i === k ? { ...p, name } : p)),
        points: frame.points.map((p) => (p.part === from ? { ...p, part: name } : p)),
      },
      `the part ${from} is called ${name}`,
    );
  }
  function add() {
    const used = new Set(frame.parts.map((p) => p.name));
    let n = 1;
    while (used.has(`part ${n}`)) n++;
    edit({ parts: [...frame.parts, { name: `part ${n}`, at: [0, 0, 0], turn: [0, 0, 0], rigid: false }] }, `part ${n} added`); // prettier-ignore
  }
</script>

<p class="muted">
  A part has axes of its own: its points are given in them. Of a rigid part, points without sensors follow as
  one body.
</p>
{#if frame.parts.length}
  <table class="plain">
    <thead
      ><tr
        ><th>Part</th><th colspan="3">origin x, y, z, m</th><th colspan="3">turned about x, y, z, °</th><th
          >rigid</th
        ><th></th></tr
      ></thead
    >
    <tbody>
      {#each frame.parts as p, k (k)}
        <tr>
          <td
            ><input
              aria-label="Name of part {k + 1}"
              value={p.name}
              onchange={(e) => rename(k, e.currentTarget.value)}
            /></td
          >
          {#each ['at', 'turn'] as const as key (key)}{#each [0, 1, 2] as axis (axis)}<td
                ><input
                  class="num"
                  aria-label="{key === 'at' ? 'Origin' : 'Turn'} {'xyz'[axis]} of {p.name}"
                  value={p[key][axis]}
                  onchange={(e) => number(k, key, axis, e.currentTarget)}
                /></td
              >{/each}{/each}
          <td
            ><input
              type="checkbox"
              aria-label="{p.name} is rigid"
              checked={p.rigid}
              onchange={(e) =>
                put(
                  k,
                  { ...p, rigid: e.currentTarget.checked },
                  `${p.name} is ${e.currentTarget.checked ? '' : 'not '}rigid`,
                )}
            /></td
          >
          <td
            ><button
              class="dotted"
              aria-label="Take {p.name} away"
              onclick={() =>
                edit(
                  {
                    parts: frame.parts.filter((_, i) => i !== k),
                    points: frame.points.map((q) => (q.part === p.name ? { ...q, part: '' } : q)),
                  },
                  `the part ${p.name} taken away`,
                )}>×</button
            ></td
          >
        </tr>
      {/each}
    </tbody>
  </table>
{/if}
<p><button class="dotted" onclick={add}>add a part</button></p>

<style>
  td {
    padding: 0 var(--space-1);
  }
  input:not([type='checkbox']) {
    font: inherit;
    font-size: var(--type-small);
    width: 100%;
    min-width: 36px;
    border: 0;
    background: none;
    color: inherit;
    padding: var(--space-half) var(--space-1);
  }
  .num {
    font-family: var(--font-mono);
    text-align: right;
  }
  p {
    margin: var(--space-2) 0;
    font-size: var(--type-small);
  }
</style>
