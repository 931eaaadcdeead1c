<!-- How the sensors of a programme are wired: the strip of terminals with what goes where, and the same as a list. -->
<script lang="ts">
  import { freeOf, postsOf, wiringOf } from '$core/field/station/wiring';
  import type { Programme } from '$core/field/station/programme';

  type Props = { programme: Programme };
  let { programme }: Props = $props();

  const POST = 22;
  const GAP = 10;
  const wired = $derived(wiringOf(programme));
  const free = $derived(freeOf(programme));
  const placed = $derived.by(() => {
    let x = GAP;
    return wired.map((own) => {
      const posts = postsOf(own.terminal);
      // As wide as its name and its posts.
      const width = Math.max(posts.length * POST, 92);
      const at = { own, posts, x, width, from: x + (width - posts.length * POST) / 2 };
      x += width + GAP;
      return at;
    });
  });
  const width = $derived((placed.at(-1)?.x ?? 0) + (placed.at(-1)?.width ?? 0) + GAP);
</script>

<section class="card pad" data-testid="wiring">
  <h2>Wiring</h2>
  <p class="warning">▲ Power off first: take the battery out, and the cable.</p>
  <div class="scroll">
    <svg
      viewBox="0 0 {width} 150"
      style:width="max(100%, {Math.round(width * 0.7)}px)"
      style:max-width="{width}px"
      role="img"
      aria-label="Terminals {wired.map((w) => w.terminal).join(', ')} with what is wired to them"
    >
      {#each placed as p (p.own.terminal)}
        {@const middle = p.x + p.width / 2}
        <text class="label" x={middle} y="146">{p.own.terminal}</text>
        {#each p.posts as post, k (post)}
          {@const x = p.from + k * POST + POST / 2}
          {@const n = p.own.wires.findIndex((w) => w.to === post)}
          <rect x={x - 9} y="104" width="18" height="26" rx="3" />
          <text class:on={n >= 0} {x} y="121">{post}</text>
          {#if n >= 0}
            <path
              d="M{x} 104V{78 - n * 10}H{middle + (n - (p.own.wires.length - 1) / 2) * 8}V34"
              style:stroke="var(--{['red', 'plum', 'moss', 'ochre'][n]})"
            />
          {/if}
        {/each}
        <rect class="sensor" x={p.x} y="12" width={p.width} height="22" rx="4" />
        <text class="on" x={middle} y="27"
          >{p.own.names[0].length > 15 ? `${p.own.names[0].slice(0, 14)}…` : p.own.names[0]}</text
        >
      {/each}
    </svg>
  </div>
  <table>
    <tbody>
      {#each wired as w (w.terminal)}
        <tr>
          <th class="mono">{w.terminal}</th>
          <td><strong>{w.names.join(', ')}</strong></td>
          <td
            >{#each w.wires as { from, to }, k (to)}{k ? ', ' : ''}{from} to
              <span class="mono">{w.terminal}{to}</span>{/each}</td
          >
          <!-- prettier-ignore -->
          <td class="muted">{w.note}</td>
        </tr>
      {:else}<tr><td class="muted">Nothing is wired: it measures its supply and its board alone.</td></tr
        >{/each}
    </tbody>
  </table>
  {#if free.length}<p class="muted">Free: <span class="mono">{free.join(', ')}</span>.</p>{/if}
</section>

<style>
  .pad {
    padding: var(--space-3) var(--space-4);
  }
  .warning {
    color: var(--ochre);
    margin: var(--space-1) 0;
  }
  .scroll {
    overflow-x: auto;
  }
  svg {
    height: auto;
    display: block;
  }
  rect {
    fill: var(--stone);
    stroke: var(--line);
  }
  rect.sensor {
    fill: var(--tint);
    stroke: var(--plum);
  }
  path {
    fill: none;
    stroke-width: 1.6;
  }
  text {
    text-anchor: middle;
    font-size: var(--type-fine);
    fill: var(--muted);
  }
  text.on,
  text.label {
    fill: var(--ink);
  }
  table {
    width: 100%;
    border-collapse: collapse;
    margin-top: var(--space-2);
  }
  th {
    text-align: left;
  }
  th,
  td {
    padding: var(--space-1) var(--space-3) var(--space-1) 0;
    border-top: 1px solid var(--hair);
    vertical-align: top;
  }
</style>
