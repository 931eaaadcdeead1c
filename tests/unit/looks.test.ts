import { readFileSync, readdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { describe, expect, test } from 'vitest';

// The measures of the interface: docs/house.md, “Hands and eyes”.
const root = resolve(import.meta.dirname, '../../src');
const files = readdirSync(root, { recursive: true, encoding: 'utf8' }).filter((path) =>
  /\.(svelte|css)$/.test(path),
);
/** Every declaration of a file's styles. */
const declarations = files.flatMap((path) => {
  const text = readFileSync(join(root, path), 'utf8');
  const css = path.endsWith('.css')
    ? text
    : [...text.matchAll(/<style>([\s\S]*?)<\/style>/g)].map((m) => m[1]).join('\n');
  return [...css.replace(/\/\*[\s\S]*?\*\//g, '').matchAll(/(?<![\w-])([a-z-][a-z0-9-]*):\s*([^;{}]+);/g)].map(([, property, value]) => ({ path, property, value: value.trim() })); // prettier-ignore
});
const of = (property: RegExp) => declarations.filter((d) => property.test(d.property));
const said = ({ path, property, value }: (typeof declarations)[number]) => `${path}: ${property}: ${value}`;

describe('the looks keep one set of measures', () => {
  test('six sizes of type; only what grows with its view, or is drawn in a picture, has others', () => {
    expect(of(/^--type-/).map((d) => parseFloat(d.value))).toEqual([11.5, 12.5, 13.5, 16, 20, 28]);
    const other = of(/^font-size$/).filter(({ value }) => !/^var\(--type-\w+\)$/.test(value));
    const GROWS = /^(min|clamp)\(|em$|^0$/;
    const DRAWN =
      /^(rig\/BridgeDrawing|board\/views\/dial\/DialView|calibrate\/\w+|shell\/Comb|plot\/\w+|record\/\w+|board\/views\/\w+\/\w+|board\/\w+)\.svelte$/;
    expect(
      other.filter(({ path, value }) => !GROWS.test(value) && !DRAWN.test(path.replace('ui/', ''))).map(said),
    ).toEqual([]);
    expect(other.length).toBeLessThanOrEqual(11);
  });

  test('distances are steps of 4 px, or half of one; a hairline is 1 px, and what stands under a plot stands under its axis', () => {
    const lengths = of(/^((row-|column-)?gap|(padding|margin)(-[a-z-]+)?)$/).flatMap((d) =>
      [...d.value.matchAll(/-?[\d.]+px/g)].map(([px]) => ({ ...d, px: Math.abs(parseFloat(px)) })),
    );
    expect(lengths.filter(({ px }) => px > 1 && px < 40).map(said)).toEqual([]);
    expect(of(/^--space-/).map((d) => parseFloat(d.value))).toEqual([2, 4, 8, 12, 16, 20, 24, 32]);
  });

  test('one radius', () => {
    const radii = of(/^border(-[a-z]+)*-radius$/).filter(
      ({ value }) => !/^(50%|0|var\(--radius\)|(calc\(var\(--radius\) \/ 3\) ?|0 ?)+)$/.test(value),
    );
    expect(radii.map(said)).toEqual([]);
  });

  test('colours are tokens: no style writes one of its own', () => {
    const own = declarations.filter(
      ({ property, value }) => !property.startsWith('--') && /#[0-9a-f]{3,8}\b/i.test(value),
    );
    expect(own.map(said)).toEqual([]);
  });
});
