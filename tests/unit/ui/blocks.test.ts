import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { blockText, cellText } from '$contract/columns';
import { blockOf, filledDown, isIn, moved, pastedInto, stepOf, writtenInto } from '$ui/channels/blocks';
import { gridItems, gridOptions, gridText } from '$ui/channels/grid';
import { channel } from '../rig';

const rows = ['A', 'B', 'C', 'D'].map((name, k) => channel(name, 'strain bridge', `A1/${k + 1}`));
const computed = channel('E', 'computed', null, { formula: '"A" + 1' });
const keys = ['name', 'kind', 'gaugeFactor', 'range', 'now'];
const at = (top: number, left: number, bottom = top, right = left) => ({ top, left, bottom, right });

describe('a block of cells', () => {
  test('is the same from whichever corner it is drawn, and ends at the last channel', () => {
    const corner = fc.record({ row: fc.nat(9), column: fc.nat(4) });
    fc.assert(
      fc.property(corner, corner, (a, b) => {
        expect(blockOf(a, b, 4)).toEqual(blockOf(b, a, 4));
        const block = blockOf(a, b, 4);
        expect(block.bottom).toBeLessThan(4);
        for (const { row, column } of [a, b]) expect(isIn(block, row, column)).toBe(row < 4);
      }),
    );
  });

  test('what is copied of a block and pasted onto it changes nothing, whatever block it is', () => {
    fc.assert(
      fc.property(fc.nat(3), fc.nat(3), fc.nat(2), fc.nat(2), (r1, r2, c1, c2) => {
        const block = blockOf({ row: r1, column: c1 }, { row: r2, column: c2 }, rows.length);
        const text = blockText(
          rows
            .slice(block.top, block.bottom + 1)
            .map((c) => keys.slice(block.left, block.right + 1).map((key) => cellText(c, key))),
        );
        const { cells, rows: below } = pastedInto(rows, keys, block, text);
        expect(below).toEqual([]);
        for (const cell of cells)
          expect(cell.text).toBe(
            cellText(
              rows.find((c) => c.id === cell.id)!,
              cell.key,
            ),
          );
      }),
    );
  });

  test('one pasted cell goes into all of the block, a larger one begins at its top left and is cut at the last column', () => {
    expect(pastedInto(rows, keys, at(1, 2, 3), '2.1').cells).toEqual(
      rows.slice(1).map((c) => ({ id: c.id, key: 'gaugeFactor', text: '2.1' })),
    );
    expect(pastedInto(rows, keys, at(2, 3), '0 to 5\tx\ty\n0 to 6\tx\ty').cells.map((c) => c.key)).toEqual([
      'range',
      'now',
      'range',
      'now',
    ]);
  });

  test('rows below the last channel are new ones, like it; empty lines are none', () => {
    const block = pastedInto(
      rows,
      keys,
      at(3, 0),
      'D\tstrain bridge\t2.1\nE\tstrain bridge\t2.2\n\t\t\nF\t\t2.3\n',
    );
    expect(block.cells.map((c) => c.text)).toEqual(['D', 'strain bridge', '2.1']);
    expect(block.rows.map((r) => r.like)).toEqual([rows[3].id, rows[3].id]);
    expect(block.rows.map((r) => r.cells.map((c) => c.text))).toEqual([
      ['E', 'strain bridge', '2.2'],
      ['F', '', '2.3'],
    ]);
  });

  test('filling down and writing leave out what a channel does not have', () => {
    const all = [...rows.slice(0, 2), computed];
    expect(filledDown(all, keys, at(0, 2, 2)).map((c) => c.id)).toEqual([rows[1].id]);
    expect(writtenInto(all, keys, at(0, 2, 2, 4), '7').map((c) => [c.id, c.key])).toEqual([
      [rows[0].id, 'gaugeFactor'],
      [rows[0].id, 'range'],
      [rows[1].id, 'gaugeFactor'],
      [rows[1].id, 'range'],
      [computed.id, 'range'],
    ]);
  });

  test('moving keeps every channel once, those that move in their order, in front of the one that is named', () => {
    const ids = rows.map((c) => c.id);
    fc.assert(
      fc.property(
        fc.subarray(ids, { minLength: 1, maxLength: 3 }),
        fc.option(fc.constantFrom(...ids)),
        (some, before) => {
          fc.pre(before === null || !some.includes(before));
          const order = moved(rows, some, before);
          expect([...order].sort()).toEqual([...ids].sort());
          const first = order.indexOf(some[0]);
          expect(order.slice(first, first + some.length)).toEqual(some);
          expect(order[first + some.length]).toBe(before ?? undefined);
        },
      ),
    );
  });

  test.each([
    ['ArrowDown', false, [1, 0]],
    ['ArrowUp', true, [-40, 0]],
    ['PageDown', false, [15, 0]],
    ['End', false, [0, 5]],
    ['x', false, undefined],
  ] as const)('%s (to the end: %s) goes %j', (key, far, step) =>
    expect(stepOf(key, far, 40, 5)).toEqual(step),
  );
});

describe('rows of the grid', () => {
  const names = fc.constantFrom('Flap', 'Torque', 'Edge', 'Speed', 'Seal');
  const some = fc.array(fc.record({ name: names, group: fc.constantFrom('', 'Blades', 'Shaft') }), {
    maxLength: 20,
  });
  const made = (list: { name: string; group: string }[]) =>
    list.map(({ name, group }, k) => ({ ...channel(`${name} ${k}`, 'voltage', `A1/${k}`), group }));

  test('each channel stands once under its group, groups in the order of their first one, numbered through', () => {
    fc.assert(
      fc.property(some, (list) => {
        const channels = made(list);
        const items = gridItems(channels, '');
        const shown = items.flatMap((i) => ('channel' in i ? [i.channel] : []));
        expect([...shown].sort((a, b) => (a.id < b.id ? -1 : 1))).toEqual(
          [...channels].sort((a, b) => (a.id < b.id ? -1 : 1)),
        );
        const indices = items.flatMap((i) => ('index' in i ? [i.index] : []));
        expect(indices).toEqual(indices.map((_, k) => k));
        const heads = items.flatMap((i) => ('group' in i ? [i.group] : []));
        expect(new Set(heads).size).toBe(heads.length);
        expect(heads[0]).toBe(shown[0] && items[0] && 'group' in items[0] ? items[0].group : undefined);
      }),
    );
  });

  test('a search finds by name, group, terminal, sensor and kind, in any case, and leaves no empty group', () => {
    const channels = made([{ name: 'Flap', group: 'Blades' }, { name: 'Speed', group: 'Shaft' }]); // prettier-ignore
    channels[1].sensorSerial = 'TC-77';
    const found = (text: string) => gridItems(channels, text).flatMap((i) => ('channel' in i ? [i.channel.name] : [])); // prettier-ignore
    expect(found('fLAP')).toEqual(['Flap 0']);
    expect(found(' blades ')).toEqual(['Flap 0']);
    expect(found('a1/1')).toEqual(['Speed 1']);
    expect(found('tc-7')).toEqual(['Speed 1']);
    expect(found('voltage')).toHaveLength(2);
    expect(gridItems(channels, 'nothing is called so')).toEqual([]);
  });

  test('a cell is copied as it is read and offers what its setting allows', () => {
    const [bridge] = rows;
    expect(gridText(bridge, 'name', NaN)).toBe('A');
    expect(gridText(channel('V', 'voltage', 'A1/1', { unit: 'V' }), 'now', 1.25)).toMatch(/^1\.25\d* V$/);
    expect(gridOptions(bridge, 'scale', ['Tank'])).toEqual(['Tank']);
    expect(gridOptions(bridge, 'arrangement', [])).toContain('half, bending');
    expect(gridOptions(bridge, 'gaugeFactor', [])).toEqual([]);
  });
});
