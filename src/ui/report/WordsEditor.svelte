<!-- Words of a page as they are written: heads, lists, bold, above and below the line, values put in by their names. -->
<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import { baseKeymap, chainCommands, setBlockType, splitBlockAs, toggleMark } from 'prosemirror-commands';
  import { history, redo, undo } from 'prosemirror-history';
  import { keymap } from 'prosemirror-keymap';
  import type { NodeType } from 'prosemirror-model';
  import { EditorState, type Command } from 'prosemirror-state';
  import { EditorView } from 'prosemirror-view';
  import { docOf, textOf, wordsSchema } from './words-doc';

  type Props = {
    text: string;
    values: { name: string; says: string }[];
    change: (text: string) => void;
  };
  let { text, values, change }: Props = $props();

  const { nodes, marks } = wordsSchema;
  const STARTS = { '#': nodes.heading, '##': nodes.subheading, '-': nodes.item };
  let place: HTMLElement;
  let view = $state.raw<EditorView | null>(null);
  /** Counts up with each step: what is pressed follows the place of the caret. */
  let steps = $state(0);
  let written = untrack(() => text);

  /** After a head comes a plain line, after an item another; an empty item ends the list. */
  const enter: Command = (state, dispatch, view) => {
    const line = state.selection.$from.parent;
    if (line.type === nodes.item && line.content.size === 0) return setBlockType(nodes.text_line)(state, dispatch, view); // prettier-ignore
    return splitBlockAs((node) => ({ type: node.type === nodes.item ? nodes.item : nodes.text_line }))(state, dispatch, view); // prettier-ignore
  };
  /** At the beginning of a head or an item backspace makes it a plain line first. */
  const plain: Command = (state, dispatch, view) =>
    state.selection.empty && state.selection.$from.parentOffset === 0 && state.selection.$from.parent.type !== nodes.text_line // prettier-ignore
      ? setBlockType(nodes.text_line)(state, dispatch, view)
      : false;

  const fresh = (text: string) =>
    EditorState.create({
      doc: docOf(text),
      plugins: [
        history(),
        keymap({
          'Mod-z': undo,
          'Mod-y': redo,
          'Mod-Shift-z': redo,
          'Mod-b': toggleMark(marks.bold),
          'Mod-.': toggleMark(marks.above),
          'Mod-,': toggleMark(marks.below),
          Enter: enter,
          Backspace: chainCommands(plain, baseKeymap.Backspace),
        }),
        keymap(baseKeymap),
      ],
    });

  onMount(() => {
    view = new EditorView(place, {
      state: fresh(text),
      attributes: { 'aria-label': 'Words', role: 'textbox', 'aria-multiline': 'true' },
      dispatchTransaction(step) {
        view!.updateState(view!.state.apply(step));
        steps++;
        if (!step.docChanged) return;
        written = textOf(view!.state.doc);
        change(written);
      },
      /** A name in braces becomes its value as the brace is closed; # or - and a blank make a head or an item of a line. */
      handleTextInput(view, from, _to, typed) {
        const at = view.state.doc.resolve(from);
        const before = at.parent.textBetween(0, at.parentOffset, undefined, '\ufffc');
        if (typed === ' ' && at.parent.type === nodes.text_line && before in STARTS) {
          const line = STARTS[before as keyof typeof STARTS];
          view.dispatch(view.state.tr.delete(from - before.length, from).setBlockType(from - before.length, undefined, line)); // prettier-ignore
          return true;
        }
        const [whole, name] = (typed === '}' && /\{([^{}\ufffc]{1,80})$/.exec(before)) || [];
        if (!whole || !name.trim()) return false;
        view.dispatch(view.state.tr.replaceWith(from - whole.length, from, nodes.value.create({ name: name.trim() }))); // prettier-ignore
        return true;
      },
      nodeViews: {
        value: (node) => {
          const name = node.attrs.name as string;
          const known = values.find((v) => v.name === name);
          const dom = document.createElement('span');
          dom.className = known ? 'value' : 'value gone';
          dom.textContent = known ? known.says : `${name}?`;
          dom.title = known ? name : `There is no value “${name}” here.`;
          return { dom };
        },
      },
    });
    return () => view?.destroy();
  });
  // What was changed elsewhere (taken back, or by somebody else) stands here, too.
  $effect(() => {
    const now = text;
    if (!view || now === written) return;
    written = now;
    view.updateState(fresh(now));
  });
  /** Values are drawn anew when they are known, or when another take is shown. */
  const known = $derived(values.map((v) => `${v.name}=${v.says}`).join('\n'));
  let drawn = untrack(() => known);
  $effect(() => {
    if (known === drawn) return;
    drawn = known;
    untrack(() => view?.updateState(fresh(written)));
  });

  const run = (command: Command) => (event: Event) => {
    event.preventDefault();
    command(view!.state, view!.dispatch, view!);
    view!.focus();
  };
  const within = (type: NodeType) => (void steps, view?.state.selection.$from.parent.type === type);
  const marked = (name: 'bold' | 'above' | 'below') => {
    void steps;
    if (!view) return false;
    const { $from: at, empty, from, to } = view.state.selection;
    return empty ? !!marks[name].isInSet(view.state.storedMarks ?? at.marks()) : view.state.doc.rangeHasMark(from, to, marks[name]); // prettier-ignore
  };
  function putIn(name: string) {
    if (!view || !name) return;
    view.dispatch(view.state.tr.replaceSelectionWith(nodes.value.create({ name }), false));
    view.focus();
  }
  const kinds = [
    ['Head', nodes.heading],
    ['Smaller head', nodes.subheading],
    ['List', nodes.item],
  ] as const;
</script>

<div class="bar" role="toolbar" aria-label="How words are set">
  {#each kinds as [label, type] (label)}
    <button
      aria-pressed={within(type)}
      onmousedown={(e) => e.preventDefault()}
      onclick={run((...at) => setBlockType(within(type) ? nodes.text_line : type)(...at))}>{label}</button
    >
  {/each}
  <button
    aria-pressed={marked('bold')}
    title="Bold (Ctrl+B)"
    onmousedown={(e) => e.preventDefault()}
    onclick={run(toggleMark(marks.bold))}><strong>b</strong></button
  >
  <button
    aria-pressed={marked('above')}
    title="Above the line (Ctrl+.)"
    aria-label="Above the line"
    onmousedown={(e) => e.preventDefault()}
    onclick={run(toggleMark(marks.above))}>x<sup>2</sup></button
  >
  <button
    aria-pressed={marked('below')}
    title="Below the line (Ctrl+,)"
    aria-label="Below the line"
    onmousedown={(e) => e.preventDefault()}
    onclick={run(toggleMark(marks.below))}>x<sub>2</sub></button
  >
  <select
    aria-label="Put in a value"
    value=""
    onchange={(e) => {
      putIn(e.currentTarget.value);
      e.currentTarget.value = '';
    }}
  >
    <option value="">put in a value …</option>
    {#each values as { name, says } (name)}<option value={name}>{name}: {says.slice(0, 40)}</option>{/each}
  </select>
</div>
<div class="words" bind:this={place}></div>

<style>
  .bar {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-1);
    margin: var(--space-2) 0 var(--space-1);
    font-size: var(--type-small);
  }
  .bar button {
    padding: var(--space-half) var(--space-2);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--card);
  }
  .bar button[aria-pressed='true'] {
    background: var(--tint);
    border-color: var(--plum);
    color: var(--plum);
  }
  .bar select {
    flex: 1 1 8rem;
    min-width: 0;
    font: inherit;
    background: var(--card);
    color: var(--plum);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: var(--space-half) var(--space-6) var(--space-half) var(--space-1);
  }
  .words :global(.ProseMirror) {
    min-height: 7rem;
    max-height: 22rem;
    overflow: auto;
    background: var(--paper);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: var(--space-2);
    white-space: pre-wrap;
    overflow-wrap: anywhere;
  }
  .words :global(.ProseMirror:focus) {
    outline: 2px solid var(--plum);
    outline-offset: -1px;
  }
  .words :global(:is(p, h3, h4, li)) {
    margin: 0;
    font-size: var(--type-body);
    min-height: 1.4em;
  }
  .words :global(h3) {
    font-size: var(--type-title);
    font-weight: 650;
  }
  .words :global(h4) {
    font-weight: 650;
  }
  .words :global(li) {
    list-style: disc inside;
  }
  .words :global(:is(sup, sub)) {
    font-size: 0.72em;
    line-height: 0;
    position: relative;
    vertical-align: baseline;
  }
  .words :global(sup) {
    top: -0.45em;
  }
  .words :global(sub) {
    bottom: -0.2em;
  }
  .words :global(.value) {
    color: var(--plum);
    border-bottom: 1px dotted var(--plum);
  }
  .words :global(.value.gone) {
    color: var(--ochre);
    border-color: var(--ochre);
  }
  .words :global(.ProseMirror-selectednode) {
    background: var(--tint);
  }
</style>
