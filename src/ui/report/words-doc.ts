import { Schema, type Mark, type Node } from 'prosemirror-model';
import { parseWords, writeWords, type ParagraphKind, type WrittenRun } from '$core/pages/words';

const block = (tag: string, parse: string[]) => ({
  content: 'inline*',
  group: 'block',
  parseDOM: parse.map((tag) => ({ tag })),
  toDOM: () => [tag, 0] as [string, 0],
});

/** What words of a page can be: lines of four kinds, bold, above and below the line, and values by their names. */
export const wordsSchema = new Schema({
  nodes: {
    doc: { content: 'block+' },
    // First the plain one: what is pasted without a kind becomes it.
    text_line: block('p', ['p', 'div']),
    heading: block('h3', ['h1', 'h2']),
    subheading: block('h4', ['h3', 'h4', 'h5', 'h6']),
    item: block('li', ['li']),
    text: { group: 'inline' },
    value: {
      inline: true,
      group: 'inline',
      atom: true,
      attrs: { name: { default: '' } },
      parseDOM: [
        { tag: 'span[data-value]', getAttrs: (dom) => ({ name: (dom as HTMLElement).dataset.value }) },
      ],
      toDOM: (node) => [
        'span',
        { 'data-value': node.attrs.name as string },
        `{${node.attrs.name as string}}`,
      ],
      leafText: (node) => `{${node.attrs.name as string}}`,
    },
  },
  marks: {
    bold: {
      parseDOM: [{ tag: 'strong' }, { tag: 'b' }, { style: 'font-weight', getAttrs: (v) => (/^(bold(er)?|[5-9]\d\d)$/.test(v) ? null : false) }], // prettier-ignore
      toDOM: () => ['strong', 0],
    },
    above: { parseDOM: [{ tag: 'sup' }], toDOM: () => ['sup', 0], excludes: 'below' },
    below: { parseDOM: [{ tag: 'sub' }], toDOM: () => ['sub', 0], excludes: 'above' },
  },
});

const NODES: Record<ParagraphKind, string> = { text: 'text_line', heading: 'heading', subheading: 'subheading', item: 'item' }; // prettier-ignore
const kindOf = (node: Node): ParagraphKind => (node.type.name === 'text_line' ? 'text' : (node.type.name as ParagraphKind)); // prettier-ignore

/** Written words as a document that is edited. */
export function docOf(text: string): Node {
  const { nodes, marks } = wordsSchema;
  const lines = parseWords(text).map(({ kind, runs }) => {
    const inside = runs.flatMap(({ text, value, bold, raised }: WrittenRun) => {
      const set: Mark[] = [
        ...(bold ? [marks.bold.create()] : []),
        ...(raised ? [marks[raised].create()] : []),
      ];
      if (value !== undefined) return [nodes.value.create({ name: value }, null, bold ? [marks.bold.create()] : [])]; // prettier-ignore
      return text ? [wordsSchema.text(text, set)] : [];
    });
    return nodes[NODES[kind]].create(null, inside);
  });
  return nodes.doc.create(null, lines);
}

/** A document as it is written. A head or an item without words is an empty line. */
export function textOf(doc: Node): string {
  const lines = doc.children.map((line) => ({
    kind: line.content.size === 0 ? ('text' as const) : kindOf(line),
    runs: line.children.map((node): WrittenRun => {
      const has = (name: string) => node.marks.some((m) => m.type.name === name);
      const bold = has('bold') ? { bold: true } : {};
      if (node.type.name === 'value') return { value: node.attrs.name as string, ...bold };
      return { text: (node.text ?? '').replaceAll('\n', ' '), ...bold, ...(has('above') ? { raised: 'above' as const } : has('below') ? { raised: 'below' as const } : {}) }; // prettier-ignore
    }),
  }));
  return writeWords(lines);
}
