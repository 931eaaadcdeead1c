<!-- Sensors as a table, and the channels that sit nowhere yet: each is dragged onto a point, or given one in the table. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { placesOf, type Vec } from '$core/wireframe/wireframe';
  import type { FrameBody, NamedFrame } from '$contract/wireframe';
  import { parseNumber } from '../sentence/options';

  type Channel = { id: string; name: string; unit: string; moves: boolean; drives?: boolean; from: string };
  type Props = {
    frame: NamedFrame;
    channels: Channel[];
    takes: { id: string; name: string }[];
    pointAt: (x: number, y: number) => string | null;
    mark: (name: string) => void;
    edit: (change: Partial<FrameBody>, says: string) => void;
  };
  let { frame, channels, takes, pointAt, mark, edit }: Props = $props();

  const called = (id: string) => channels.find((c) => c.id === id)?.name ?? 'a channel that is not here';
  const open = $derived(
    channels.filter((c) => (c.moves || c.drives) && !frame.sensors.some((s) => s.channel === c.id)),
  );
  const AXES: [string, Vec][] = [['+x', [1, 0, 0]], ['−x', [-1, 0, 0]], ['+y', [0, 1, 0]], ['−y', [0, -1, 0]], ['+z', [0, 0, 1]], ['−z', [0, 0, -1]]]; // prettier-ignore
  const same = (a: readonly number[], b: readonly number[]) => {
    const [p, q] = [Math.hypot(...a), Math.hypot(...b)];
    return p > 0 && a.every((v, i) => Math.abs(v / p - b[i] / q) < 1e-9);
  };
  /** Directions along the lines of a point, toward its neighbours. */
  function along(point: string): [string, Vec][] {
    const places = placesOf(frame);
    const here = places.get(point);
    return frame.lines.flatMap((l): [string, Vec][] => {
      const other = l[0] === point ? l[1] : l[1] === point ? l[0] : null;
      const there = other && places.get(other);
      return here && there ? [[`toward ${other}`, there.map((v, i) => v - here[i]) as unknown as Vec]] : [];
    });
  }
  const wordOf = (point: string, direction: readonly number[]) =>
    [...AXES, ...along(point)].find(([, d]) => same(direction, d))?.[0] ?? 'a vector';
  const vectorText = (d: readonly number[]) => d.join(' ').replaceAll('-', '−');
  const put = (k: number, change: Partial<FrameBody['sensors'][number]>, says: string) =>
    edit({ sensors: frame.sensors.map((s, i) => (i === k ? { ...s, ...change } : s)) }, says);
  const place = (channel: string, point: string) =>
    edit({ sensors: [...frame.sensors, { channel, point, direction: [0, 0, 1] }] }, `${called(channel)} on ${point}`); // prettier-ignore
  function vector(k: number, input: HTMLInputElement) {
    const parts = input.value
      .split(/[\s;]+|,\s+/)
      .filter(Boolean)
      .map(parseNumber);
    if (parts.length !== 3 || parts.some(Number.isNaN) || !(Math.hypot(...parts) > 0))
      return void (input.value = frame.sensors[k].direction.join(' '));
    put(k, { direction: parts as [number, number, number] }, `${called(frame.sensors[k].channel)} looks along ${parts.join(' ')}`); // prettier-ignore
  }

  let list: HTMLElement | undefined = $state();
  let over = $state<string | null>(null);
  onMount(() => {
    let ended = false;
    let stop = () => undefined as void;
    void import('interactjs').then(({ default: interact }) => {
      if (ended || !list) return;
      let ghost: HTMLElement | null = null;
      const moves = interact('.channel[data-channel]', { context: list }).draggable({
        listeners: {
          start(e: Interact) {
            ghost = (e.target as HTMLElement).cloneNode(true) as HTMLElement;
            ghost.classList.add('ghost');
            list!.append(ghost);
          },
          move(e: Interact) {
            if (ghost) ghost.style.translate = `${e.clientX + 8}px ${e.clientY - 10}px`;
            over = pointAt(e.clientX, e.clientY);
            if (over) mark(over);
          },
          end(e: Interact) {
            ghost?.remove();
            ghost = null;
            const point = pointAt(e.clientX, e.clientY);
            const channel = (e.target as HTMLElement).dataset.channel!;
            over = null;
            if (point) place(channel, point);
          },
        },
      });
      stop = () => moves.unset();
    });
    return () => {
      ended = true;
      stop();
    };
  });
  interface Interact {
    target: EventTarget;
    clientX: number;
    clientY: number;
  }
</script>

<div class="scroll">
  {#if frame.sensors.length}
    <table class="plain">
      <thead><tr><th>Channel</th><th>point</th><th>direction</th><th></th></tr></thead>
      <tbody>
        {#each frame.sensors as s, k (k)}
          {@const word = wordOf(s.point, s.direction)}
          <tr onfocusin={() => mark(s.point)}>
            <td
              ><select
                aria-label="Channel of sensor {k + 1}"
                value={s.channel}
                onchange={(e) =>
                  put(
                    k,
                    { channel: e.currentTarget.value },
                    `${called(e.currentTarget.value)} on ${s.point}`,
                  )}
                ><option value={s.channel}>{called(s.channel)}</option>{#each open as c (c.id)}<option
                    value={c.id}>{c.name}</option
                  >{/each}</select
              ></td
            >
            <td class="point"
              ><input
                list="frame-points"
                aria-label="Point of {called(s.channel)}"
                value={s.point}
                onchange={(e) =>
                  put(
                    k,
                    { point: e.currentTarget.value },
                    `${called(s.channel)} on ${e.currentTarget.value}`,
                  )}
              /></td
            >
            <td class="direction">
              <select
                aria-label="Direction of {called(s.channel)}"
                value={word}
                onchange={(e) => {
                  const found = [...AXES, ...along(s.point)].find(([w]) => w === e.currentTarget.value);
                  if (found)
                    put(
                      k,
                      { direction: [...found[1]] as [number, number, number] },
                      `${called(s.channel)} looks ${found[0]}`,
                    );
                  else put(k, { direction: [1, 1, 0] }, `${called(s.channel)} looks askew`);
                }}
                >{#each [...AXES, ...along(s.point)] as [w] (w)}<option>{w}</option>{/each}<option
                  >a vector</option
                ></select
              >
              {#if word === 'a vector'}<input
                  aria-label="Vector of {called(s.channel)}"
                  value={vectorText(s.direction)}
                  onchange={(e) => vector(k, e.currentTarget)}
                />{/if}
            </td>
            <td
              ><button
                class="dotted"
                aria-label="Take {called(s.channel)} off"
                onclick={() =>
                  edit(
                    { sensors: frame.sensors.filter((_, i) => i !== k) },
                    `${called(s.channel)} taken off`,
                  )}>×</button
              ></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  <div class="open" bind:this={list}>
    <p class="muted">
      {open.length
        ? 'Drag a channel onto a point of the picture'
        : 'All channels that move sit somewhere'}{over ? ` – now over ${over}` : ''}.
      <label
        >Channels of <select
          class="plain"
          onchange={(e) =>
            void goto(resolve(`/study/modal/frames/${frame.id}?take=${e.currentTarget.value}` as '/study'), {
              keepFocus: true,
              noScroll: true,
            })}
          ><option value="">this job</option>{#each takes as t (t.id)}<option value={t.id}>{t.name}</option
            >{/each}</select
        ></label
      >
    </p>
    {#each open as c (c.id)}
      <span class="channel" data-channel={c.id}
        >{c.name} <span class="muted">{c.unit}</span>
        <button
          class="dotted"
          aria-label="Put {c.name} onto a point"
          disabled={frame.points.length === 0}
          onclick={() => place(c.id, frame.points[0].name)}>put on</button
        ></span
      >
    {/each}
  </div>
</div>
<datalist id="frame-points"
  >{#each frame.points as p (p.name)}<option value={p.name}></option>{/each}</datalist
>

<style>
  .scroll {
    overflow: auto;
    flex: 1;
    min-height: 0;
  }
  td {
    padding: 0 var(--space-1);
  }
  td input,
  td select {
    font: inherit;
    font-size: var(--type-small);
    width: 100%;
    min-width: 60px;
    border: 0;
    background-color: transparent;
    color: inherit;
    padding: var(--space-half) var(--space-1);
  }
  td select {
    padding-right: var(--space-5);
  }
  .direction {
    width: 116px;
  }
  .point {
    width: 84px;
  }
  .open {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-1) var(--space-2);
    padding-top: var(--space-3);
    font-size: var(--type-small);
  }
  .open p {
    width: 100%;
    margin: 0;
  }
  .channel {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: var(--space-half) var(--space-2);
    cursor: grab;
    touch-action: none;
    user-select: none;
    background: var(--card);
  }
  .open :global(.ghost) {
    position: fixed;
    left: 0;
    top: 0;
    pointer-events: none;
    z-index: 60;
    border-color: var(--plum);
  }
</style>
