<!-- A figure on the screen, with the reading under its cursor. Drag to look at a part, Backspace or a double click for all of it. -->
<script lang="ts">
  import { isNamed, type Figure } from '$core/figures/figure';
  import { nextPlace, readFigure } from '$core/figures/reading';
  import { axisText } from '$core/figures/scale';
  import { horizontalEnds, type Box, type Layout, type Part } from '$core/figures/layout';
  import { nameColour } from '$contract/palette';
  import { heatColours, heatEnds } from '$core/figures/heat';
  import { HEAT, NIGHT_HEAT } from '$contract/palette';
  import { readingText } from '$core/readings';
  import FigureCanvas from './FigureCanvas.svelte';

  type Props = {
    figure: Figure;
    night: boolean;
    /** Without names and readings above it. */
    bare?: boolean;
    /** Whether parts of it can be looked at. */
    zoomable?: boolean;
    /** Place on the horizontal axis that is touched in another drawing of the same axis. */
    touched?: number | null;
    ontouch?: (place: number | null) => void;
    /** Takes over which part is looked at, for drawings that show the same part of one axis; null is all of it. */
    onpart?: (ends: [number, number] | null) => void;
  };
  let { figure, night, bare = false, zoomable = true, touched = null, ontouch, onpart }: Props = $props();

  let laid = $state.raw<{ layout: Layout; box: Box } | null>(null);
  /** The cursor of this drawing. */
  let own = $state.raw<{ x: number; y: number } | null>(null);
  const cursor = $derived(own ?? (touched === null ? null : { x: touched, y: NaN }));
  function touch(place: { x: number; y: number } | null) {
    if (!own && !place) return;
    own = place;
    ontouch?.(place?.x ?? null);
  }
  let wanted = $state.raw<Part>({});
  /** A cursor that was put by keys stays until the pointer moves. */
  let byKeys = false;
  /** Where the pointer is: a page that shifts beneath it is no move of it. */
  let pointer = '';
  let drag = $state.raw<{ from: number; to: number } | null>(null);

  const readings = $derived(cursor ? readFigure(figure, cursor.x, cursor.y) : []);
  const named = $derived(figure.marks.filter(isNamed).filter((m) => m.name));
  const unit = $derived(figure.y.scale === 'decibel' ? 'dB' : figure.y.unit === '1' ? '' : figure.y.unit);
  const across = $derived(
    [figure.x.label, figure.x.unit === '1' ? '' : figure.x.unit].filter(Boolean).join(', '),
  );
  const colourOf = (mark: (typeof named)[number]) =>
    mark.mark === 'heat'
      ? 'var(--ink)'
      : mark.tone && mark.tone !== 'trace'
        ? `var(--${{ muted: 'muted', accent: 'plum', good: 'moss', warning: 'ochre', alarm: 'red' }[mark.tone]})`
        : nameColour(mark.colour ?? figure.marks.indexOf(mark), night);
  const shown = (mark: (typeof named)[number]) => {
    const found = readings.find((r) => r.mark === mark);
    if (!found) return '';
    if (figure.y.scale === 'decibel' && mark.mark !== 'heat') return axisText(figure.y, found.value);
    return found.to === undefined
      ? readingText(found.value)
      : `${readingText(found.value)} to ${readingText(found.to)}`;
  };
  const heat = $derived(night ? NIGHT_HEAT : HEAT);
  const colours = $derived(heatColours(heat[0], heat[1], 9).map(([r, g, b]) => `rgb(${r} ${g} ${b})`));
  const places = $derived([...new Set(readings.map((r) => r.x))]);

  function at(event: PointerEvent | MouseEvent): { x: number; y: number } | null {
    const area = (event.currentTarget as HTMLElement).getBoundingClientRect();
    if (!laid) return null;
    return {
      x: laid.layout.x.valueAt(event.clientX - area.left),
      y: laid.layout.y.valueAt(event.clientY - area.top),
    };
  }
  /** What is looked at stays as long as the axis does: a result that is computed anew is seen where the former was. */
  const axis = $derived(JSON.stringify([figure.title, figure.x.label, figure.x.unit, figure.x.scale]));
  $effect(() => {
    void axis;
    return () => (touch(null), (wanted = {}));
  });

  /** What is looked at, as long as it lies within what there is. */
  const part = $derived.by((): Part => {
    const [low, high] = horizontalEnds(figure);
    return wanted.x && wanted.x[0] < high && wanted.x[1] > low ? wanted : {};
  });

  function move(event: PointerEvent) {
    const here = `${event.clientX} ${event.clientY}`;
    if (here === pointer) return;
    pointer = here;
    const place = at(event);
    if (!place || !laid) return;
    const { low, high } = laid.layout.x;
    touch(place.x >= low && place.x <= high ? place : null);
    byKeys = false;
    if (drag) drag = { ...drag, to: Math.min(high, Math.max(low, place.x)) };
  }
  function press(event: PointerEvent) {
    const place = at(event);
    if (!zoomable || !place || event.button !== 0) return;
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    drag = { from: place.x, to: place.x };
  }
  function release() {
    if (drag && laid) {
      const [a, b] = [laid.layout.x.at(drag.from), laid.layout.x.at(drag.to)];
      if (Math.abs(b - a) > 6) look([Math.min(drag.from, drag.to), Math.max(drag.from, drag.to)]);
    }
    drag = null;
  }
  function look(ends: [number, number] | null) {
    if (onpart) onpart(ends);
    else wanted = ends ? { x: ends } : {};
  }
  const all = () => look(null);
  function keys(event: KeyboardEvent) {
    if (!laid) return;
    const { low, high } = laid.layout.x;
    const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key] as 1 | -1 | undefined;
    if (step) {
      const next = cursor ? nextPlace(figure, cursor.x, step) : (low + high) / 2;
      if (next !== null && next >= low && next <= high) touch({ x: next, y: cursor?.y ?? NaN });
    } else if (event.key === 'Home') touch({ x: low, y: NaN });
    else if (event.key === 'End') touch({ x: high, y: NaN });
    else if (event.key === 'Escape') touch(null);
    else if (zoomable && (event.key === 'Backspace' || event.key === '-')) all();
    else if (zoomable && event.key === '+') {
      const middle = cursor?.x ?? (low + high) / 2;
      const quarter = (high - low) / 4;
      look([Math.max(low, middle - quarter), Math.min(high, middle + quarter)]);
    } else return;
    byKeys = true;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<div class="figure">
  {#if !bare}
    <div class="legend">
      {#each named as mark, k (k)}
        <span style:color={colourOf(mark)}><strong>{mark.name}</strong></span>
        {#if mark.mark === 'heat'}{@const ends = heatEnds(mark)}<span class="mono muted">{ends[0]}</span><span
            class="colours"
            style:background="linear-gradient(to right, {colours.join()})"
          ></span><span class="mono muted">{ends[1]}</span>{/if}
        {#if cursor && shown(mark)}<span class="mono">{shown(mark)}</span>
          <span class="muted">{figure.y.scale === 'decibel' ? '' : (mark.unit ?? '')}</span>{/if}
      {/each}
      <span class="muted aside"
        >{unit}{#if cursor && places.length}<span class="mono"
            >&ensp;at {axisText(figure.x, places.length === 1 ? places[0] : cursor.x)}</span
          >{/if}</span
      >
    </div>
  {/if}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <div
    class="area"
    role="application"
    tabindex="0"
    aria-label="{figure.title}: {named.map((m) => m.name).join(', ')}. Arrows move the cursor."
    onpointermove={move}
    onpointerdown={press}
    onpointerup={release}
    onpointercancel={release}
    onpointerenter={(e) => (pointer = `${e.clientX} ${e.clientY}`)}
    onpointerleave={() => !drag && !byKeys && touch(null)}
    ondblclick={all}
    onkeydown={keys}
  >
    <FigureCanvas {figure} {night} {part} laid={(layout, box) => (laid = { layout, box })} />
    {#if laid && cursor && !drag}<div
        class="line"
        style:left="{laid.layout.x.at(places.length === 1 ? places[0] : cursor.x)}px"
      ></div>{/if}
    {#if laid && drag}{@const ends = [laid.layout.x.at(drag.from), laid.layout.x.at(drag.to)]}
      <div
        class="span"
        style:left="{Math.min(...ends)}px"
        style:width="{Math.abs(ends[1] - ends[0])}px"
      ></div>{/if}
    {#if part.x}<button class="all" onclick={all} onpointerdown={(e) => e.stopPropagation()}>all of it</button
      >{/if}
  </div>
  {#if !bare}<div class="x muted">{across}</div>{/if}
</div>

<style>
  .figure {
    display: flex;
    flex-direction: column;
    height: 100%;
    flex: 1;
    min-height: 0;
  }
  .legend {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
    padding: 0 var(--space-3) var(--space-half);
    font-size: var(--type-small);
    flex-wrap: wrap;
  }
  .aside {
    margin-left: auto;
  }
  .area {
    position: relative;
    flex: 1;
    min-height: 0;
    touch-action: pan-y;
    cursor: crosshair;
  }
  .area:focus-visible {
    outline: 2px solid var(--plum);
    outline-offset: -2px;
  }
  .colours {
    width: 56px;
    height: 9px;
    align-self: center;
    border: 1px solid var(--line);
  }
  .line {
    position: absolute;
    top: 6px;
    bottom: 24px;
    width: 1px;
    background: var(--plum);
    pointer-events: none;
  }
  .span {
    position: absolute;
    top: 6px;
    bottom: 24px;
    background: color-mix(in srgb, var(--plum) 12%, transparent);
    border-inline: 1px solid var(--plum);
    pointer-events: none;
  }
  .all {
    position: absolute;
    top: 8px;
    right: 18px;
    padding: var(--space-half) var(--space-2);
    font-size: var(--type-small);
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
  }
  .x {
    text-align: right;
    font-size: var(--type-small);
    padding: 0 var(--space-3);
  }
</style>
