import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { parseWords } from '$core/pages/words';
import { docOf, textOf, wordsSchema } from '$ui/report/words-doc';

// Words are edited as a document and kept as text: neither way loses anything.
describe('words as a document', () => {
  test('heads, items, marks and values stand as such, and are written as they were', () => {
    const text =
      '# Spin-up of {take}\n- 3 m^2^ of **blade {Blade set}**\nH~2~O\n\n## Then\n\\- no item, 2 \\* 3';
    const doc = docOf(text);
    expect(doc.children.map((line) => line.type.name)).toEqual(['heading', 'item', 'text_line', 'text_line', 'subheading', 'text_line']); // prettier-ignore
    const [head, item] = doc.children;
    expect(head.lastChild!.attrs.name).toBe('take');
    expect(item.children.map((n) => n.marks.map((m) => m.type.name).join())).toEqual(['', 'above', '', 'bold', 'bold']); // prettier-ignore
    expect(doc.child(5).textContent).toBe('- no item, 2 * 3');
    expect(textOf(doc)).toBe(text);
  });
  test('whatever was typed in a text means the same after it was opened and kept', () => {
    const unit = fc.constantFrom(
      'a',
      'µ',
      ' ',
      '*',
      '**',
      '^',
      '~',
      '{take}',
      '{',
      '}',
      '# ',
      '- ',
      '\\',
      '\n',
    );
    const meaning = (text: string) =>
      parseWords(text).map(({ kind, runs }) => ({
        kind: runs.length ? kind : 'text',
        letters: runs.flatMap(({ text = '', value, bold, raised }) => (value === undefined ? [...text].map((c) => `${c} ${bold ?? false} ${raised ?? ''}`) : [`{${value}} ${bold ?? false}`])), // prettier-ignore
      }));
    fc.assert(
      fc.property(fc.string({ unit, maxLength: 25 }), (text) => {
        const kept = textOf(docOf(text));
        expect(meaning(kept)).toEqual(meaning(text));
        expect(textOf(docOf(kept))).toBe(kept);
      }),
      { numRuns: 500 },
    );
  });
  test('the document of whatever text is a valid one', () => {
    fc.assert(fc.property(fc.string({ unit: 'grapheme', maxLength: 60 }), (text) => docOf(text).check()));
    expect(wordsSchema.nodes.doc.contentMatch.validEnd).toBe(false);
    expect(docOf('').childCount).toBe(1);
  });
});
