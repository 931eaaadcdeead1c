<!-- Points as a table; of thousands only those that are looked at are drawn. -->
<script lang="ts">
  import type { FrameBody, NamedFrame } from '$contract/wireframe';
  import { numberText } from '$core/sentence/sentence';
  import { parseNumber } from '../sentence/options';

  type Props = {
    frame: NamedFrame;
    marked: string | null;
    mark: (name: string) => void;
    edit: (change: Partial<FrameBody>, says: string) => void;
  };
  let { frame, marked, mark, edit }: Props = $props();
  const ROW = 29;
  let at = $state(0);
  let high = $state(400);
  let box: HTMLElement;
  const first = $derived(Math.max(0, Math.floor(at / ROW) - 10));
  const shown = $derived(frame.points.slice(first, first + Math.ceil(high / ROW) + 20));
  type Point = FrameBody['points'][number];

  const put = (k: number, point: Point, says: string) =>
    edit({ points: frame.points.map((p, i) => (i === k ? point : p)) }, says);
  /** A point that is renamed keeps its lines, surfaces and sensors. */
  function rename(k: number, to: string) {
    const from = frame.points[k].name;
    const name = to.trim();
    if (!name || name === from) return;
    const next = (n: string) => (n === from ? name : n);
    edit(
      {
        points: frame.points.map((p, i) => (i === k ? { ...p, name } : p)),
        lines: frame.lines.map(([a, b]) => [next(a), next(b)]),
        surfaces: frame.surfaces.map((s) => s.map(next)),
        sensors: frame.sensors.map((s) => ({ ...s, point: next(s.point) })),
        held: frame.held.map(next),
        follows: frame.follows.map((f) => ({ point: next(f.point), as: next(f.as) })),
      },
      `${from} is called ${name}`,
    );
  }
  function move(k: number, axis: number, input: HTMLInputElement) {
    const value = parseNumber(input.value);
    const p = frame.points[k];
    if (Number.isNaN(value)) return void (input.value = String(p.at[axis]));
    put(k, { ...p, at: p.at.map((v, i) => (i === axis ? value : v)) as Point['at'] }, `${p.name} moved`);
  }
  function add() {
    const used = new Set(frame.points.map((p) => p.name));
    let n = frame.points.length + 1;
    while (used.has(`P${n}`)) n++;
    const last = frame.points.at(-1);
    edit({ points: [...frame.points, { name: `P${n}`, part: last?.part ?? '', at: last ? [last.at[0] + 1, last.at[1], last.at[2]] : [0, 0, 0] }] }, `P${n} added`); // prettier-ignore
    requestAnimationFrame(() => box.scrollTo({ top: box.scrollHeight }));
  }
  /** With all that hangs on it. */
  function take(k: number) {
    const { name } = frame.points[k];
    const without = (n: string) => n !== name;
    edit(
      {
        points: frame.points.filter((_, i) => i !== k),
        lines: frame.lines.filter((l) => l.every(without)),
        surfaces: frame.surfaces.filter((s) => s.every(without)),
        sensors: frame.sensors.filter((s) => without(s.point)),
        held: frame.held.filter(without),
        follows: frame.follows.filter((f) => without(f.point) && without(f.as)),
      },
      `${name} taken away`,
    );
  }
  const movesAs = (name: string) =>
    frame.held.includes(name) ? 'held' : (frame.follows.find((f) => f.point === name)?.as ?? '');
  function follow(name: string, as: string) {
    edit(
      {
        held: [...frame.held.filter((h) => h !== name), ...(as === 'held' ? [name] : [])],
        follows: [
          ...frame.follows.filter((f) => f.point !== name),
          ...(as && as !== 'held' ? [{ point: name, as }] : []),
        ],
      },
      `${name} ${as === 'held' ? 'is held' : as ? `moves as ${as}` : 'moves as its neighbours do'}`,
    );
  }
</script>

<div
  class="scroll"
  bind:this={box}
  bind:clientHeight={high}
  onscroll={(e) => (at = e.currentTarget.scrollTop)}
>
  <table class="plain">
    <thead
      ><tr
        ><th>Name</th><th>x, m</th><th>y, m</th><th>z, m</th><th>part</th><th>without a sensor</th><th
        ></th></tr
      ></thead
    >
    <tbody>
      {#if first > 0}<tr style:height="{first * ROW}px"></tr>{/if}
      {#each shown as p, i (first + i)}
        {@const k = first + i}
        <tr class:marked={p.name === marked} onfocusin={() => mark(p.name)}>
          <td
            ><input
              aria-label="Name of point {k + 1}"
              value={p.name}
              maxlength="60"
              onchange={(e) => rename(k, e.currentTarget.value)}
            /></td
          >
          {#each [0, 1, 2] as axis (axis)}
            <td
              ><input
                class="num"
                aria-label="{'xyz'[axis]} of {p.name}"
                value={numberText(p.at[axis])}
                onchange={(e) => move(k, axis, e.currentTarget)}
              /></td
            >
          {/each}
          <td
            ><select
              aria-label="Part of {p.name}"
              value={p.part}
              onchange={(e) => put(k, { ...p, part: e.currentTarget.value }, `${p.name} in another part`)}
              ><option value="">–</option>{#each frame.parts as part (part.name)}<option>{part.name}</option
                >{/each}</select
            ></td
          >
          <td
            ><input
              aria-label="How {p.name} moves without a sensor"
              placeholder="as neighbours"
              value={movesAs(p.name)}
              list="frame-follow"
              onchange={(e) => follow(p.name, e.currentTarget.value.trim())}
            /></td
          >
          <td><button class="dotted" aria-label="Take {p.name} away" onclick={() => take(k)}>×</button></td>
        </tr>
      {/each}
      {#if first + shown.length < frame.points.length}<tr
          style:height="{(frame.points.length - first - shown.length) * ROW}px"
        ></tr>{/if}
    </tbody>
  </table>
</div>
<datalist id="frame-follow"
  ><option value="held"></option>{#each frame.points.slice(0, 200) as p (p.name)}<option value={p.name}
    ></option>{/each}</datalist
>
<p><button class="dotted" onclick={add}>add a point</button></p>

<style>
  .scroll {
    overflow: auto;
    flex: 1;
    min-height: 0;
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
    z-index: 1;
  }
  td {
    padding: 0 var(--space-1);
    height: 29px;
    box-sizing: border-box;
  }
  input,
  select {
    font: inherit;
    font-size: var(--type-small);
    width: 100%;
    min-width: 44px;
    border: 0;
    background-color: transparent;
    color: inherit;
    padding: var(--space-half) var(--space-1);
  }
  select {
    padding-right: var(--space-5);
  }
  .num {
    font-family: var(--font-mono);
    text-align: right;
  }
  .marked td {
    background: var(--tint);
  }
  p {
    margin: var(--space-2) 0 0;
  }
</style>
