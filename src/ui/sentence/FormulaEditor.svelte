<!-- A formula in a code editor: completes channels and functions, marks what is wrong at its place, says the unit. -->
<script lang="ts">
  import {
    autocompletion,
    closeBrackets,
    completionKeymap,
    type CompletionContext,
  } from '@codemirror/autocomplete';
  import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
  import { linter, type Diagnostic } from '@codemirror/lint';
  import { EditorState, Prec } from '@codemirror/state';
  import { EditorView, keymap, placeholder } from '@codemirror/view';
  import { onMount } from 'svelte';
  import { FormulaError, compileExpression } from '$core/expression/expression';
  import { FUNCTIONS } from '$core/expression/functions';
  import { CONVERSIONS } from '$core/expression/node';
  import { asFarrierError } from '$core/errors';
  import type { ChannelChoice } from './choices';

  type Props = {
    text: string;
    channels: ChannelChoice[];
    /** Unit of the channel that the formula is for. */
    unit: string;
    label: string;
    submit: () => void;
  };
  let { text = $bindable(), channels, unit, label, submit }: Props = $props();
  let box: HTMLElement;
  let problem = $state('');

  /** What is wrong with a formula, and where. */
  function faultOf(formula: string): Diagnostic | null {
    if (!formula.trim()) return null;
    const at = (what: string, from = 0, to = formula.length): Diagnostic => ({
      from,
      to: Math.max(from + 1, to),
      severity: 'error',
      message: what,
    });
    try {
      const expression = compileExpression(formula);
      for (const name of expression.inputs) {
        if (channels.some((c) => c.name === name)) continue;
        const from = formula.indexOf(`"${name}"`);
        return at(
          `There is no channel “${name}”.`,
          Math.max(0, from),
          from < 0 ? undefined : from + name.length + 2,
        );
      }
      if (expression.inputs.length === 0) return at('Name at least one channel, in quotation marks.');
      expression.checkUnits((name) => channels.find((c) => c.name === name)!.unit, unit);
      return null;
    } catch (error) {
      const fault = asFarrierError(error, 'formula');
      const what = fault.text.what.replace(/^The formula “.*” is not understood: /s, '');
      return error instanceof FormulaError
        ? at(
            `${what} ${error.text.next ?? ''}`,
            Math.min(error.from, formula.length - 1),
            Math.min(error.to, formula.length),
          )
        : at(what);
    }
  }

  function complete(context: CompletionContext) {
    const quoted = context.matchBefore(/"[^"]*/);
    const word = context.matchBefore(/[a-z][a-z0-9]*/i);
    if (!quoted && !word && !context.explicit) return null;
    const inside =
      quoted !== null && (context.state.sliceDoc(0, context.pos).split('"').length - 1) % 2 === 1;
    const options = channels.map((c) => ({ label: `"${c.name}"`, detail: c.unit, type: 'variable' }));
    if (inside) return { from: quoted.from, options, validFor: /^"[^"]*$/ };
    return {
      from: word?.from ?? context.pos,
      options: [
        ...Object.entries(FUNCTIONS).map(([name, f]) => ({
          label: name,
          detail: `(${f.takes})`,
          info: f.says,
          apply: `${name}(`,
          type: 'function',
        })),
        ...Object.entries(CONVERSIONS).map(([name, says]) => ({
          label: name,
          detail: '(x, "unit")',
          info: says,
          apply: `${name}(`,
          type: 'function',
        })),
        ...options.map((o) => ({ ...o, boost: -1 })),
      ],
      validFor: /^[\w"]*$/,
    };
  }

  onMount(() => {
    const view = new EditorView({
      parent: box,
      state: EditorState.create({
        doc: text,
        extensions: [
          Prec.highest(
            keymap.of([
              {
                key: 'Enter',
                run: (v) => (v.state.doc.length > 0 ? (submit(), true) : false),
                shift: () => false,
              },
            ]),
          ),
          history(),
          closeBrackets(),
          autocompletion({ override: [complete], icons: false }),
          keymap.of([...completionKeymap, ...defaultKeymap, ...historyKeymap]),
          EditorView.lineWrapping,
          placeholder('"Shaft torque" * 2'),
          EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false' }),
          EditorView.updateListener.of((u) => u.docChanged && (text = u.state.doc.toString())),
          linter(
            (v) => {
              const fault = faultOf(v.state.doc.toString());
              problem = fault?.message ?? '';
              return fault ? [fault] : [];
            },
            { delay: 150 },
          ),
        ],
      }),
    });
    view.dispatch({ selection: { anchor: view.state.doc.length } });
    requestAnimationFrame(() => view.focus());
    insert = (name) => {
      view.dispatch(view.state.replaceSelection(`"${name}"`));
      view.focus();
    };
    return () => view.destroy();
  });
  let insert: (name: string) => void = () => undefined;
</script>

<div class="box" bind:this={box}></div>
{#if problem}<p class="wrong" role="status">◆ {problem}</p>{/if}
<div class="insert">
  {#each channels as c (c.id)}<button type="button" onclick={() => insert(c.name)}
      >{c.name} <span class="muted">{c.unit === '1' ? '' : c.unit}</span></button
    >{/each}
</div>

<style>
  .box {
    width: 430px;
    max-width: 100%;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
  }
  .box :global(.cm-editor) {
    font-family: var(--font-mono);
    font-size: var(--type-body);
    min-height: 58px;
  }
  .box :global(.cm-editor.cm-focused) {
    outline: 2px solid var(--plum);
    outline-offset: 1px;
    border-radius: var(--radius);
  }
  .box :global(.cm-content) {
    caret-color: var(--ink);
    font-family: var(--font-mono);
  }
  .box :global(.cm-cursor) {
    border-color: var(--ink);
  }
  .box :global(.cm-lintRange-error) {
    background: none;
    text-decoration: underline wavy var(--red);
    text-underline-offset: 3px;
  }
  .box :global(.cm-tooltip) {
    background: var(--card);
    color: var(--ink);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    font-family: var(--font-sans);
  }
  .box :global(.cm-tooltip-autocomplete ul li[aria-selected]) {
    background: var(--tint);
    color: var(--plum);
  }
  .box :global(.cm-completionDetail) {
    color: var(--muted);
    font-style: normal;
  }
  .box :global(.cm-placeholder) {
    color: var(--muted);
  }
  .wrong {
    color: var(--red);
    font-size: var(--type-small);
    margin: var(--space-1) 0 0;
    max-width: 430px;
  }
  .insert {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-half);
    max-height: 96px;
    overflow: auto;
    margin-top: var(--space-1);
    max-width: 430px;
  }
  .insert button {
    font-size: var(--type-small);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: 1px var(--space-1);
  }
</style>
