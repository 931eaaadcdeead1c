import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateSync, crc32 } from 'node:zlib';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { openApp, type App } from '$service/app';
import { addNote, logPdf } from '$service/logbook';
import { OTHER_LETTERS, runsOf, withAllLetters } from '$service/report/letters';

let folder: string;
let app: App;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-papers-'));
  app = openApp(folder);
});
afterEach(() => {
  app.db.$client.close();
  rmSync(folder, { recursive: true, force: true });
});

/** What an independent reader finds in a paper. */
function read(pdf: Buffer): { text: string; pictures: string[]; fonts: string } {
  const path = join(folder, 'paper.pdf');
  writeFileSync(path, pdf);
  const run = (program: string, ...args: string[]) => {
    const { stdout, stderr, status } = spawnSync(program, args, { encoding: 'utf8' });
    if (status !== 0) throw new Error(`${program}: ${stderr}`);
    return stdout;
  };
  return {
    text: run('pdftotext', '-layout', path, '-').replace(/\s+/g, ' '),
    pictures: run('pdfimages', '-list', path).trim().split('\n').slice(2),
    fonts: run('pdffonts', path),
  };
}

/** A picture of one colour, as a camera's program would write it. */
function png(width: number, height: number): Buffer {
  const chunk = (type: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(type), data]);
    const frame = Buffer.alloc(8);
    frame.writeUInt32BE(data.length, 0);
    frame.writeUInt32BE(crc32(body), 4);
    return Buffer.concat([frame.subarray(0, 4), body, frame.subarray(4)]);
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head.set([8, 2, 0, 0, 0], 8);
  const row = Buffer.concat([Buffer.from([0]), Buffer.alloc(3 * width, 0x7a)]);
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', head),
    chunk('IDAT', deflateSync(Buffer.concat(Array.from({ length: height }, () => row)))),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

describe('the letters of a paper', () => {
  test.each([
    ['Flap 240° ±5 µε', [{ text: 'Flap 240° ±5 µε' }]],
    ['Ω ≤ 3 Δφ', [{ text: 'Ω ≤ 3 Δφ' }]],
    ['זרם', [{ text: 'זרם', font: OTHER_LETTERS }]],
    ['a ⚠ b', [{ text: 'a ' }, { text: '⚠', font: OTHER_LETTERS }, { text: ' b' }]],
    ['力 1', [{ text: '[U+529B] 1' }]],
    ['🌊', [{ text: '[U+1F30A]' }]],
    ['two\nlines', [{ text: 'two\nlines' }]],
    ['', [{ text: '' }]],
  ])('“%s” is set as %j', (text, runs) => expect(runsOf(text, 'Words')).toEqual(runs));

  test('are looked for wherever text can stand, in the font that holds there; numbers and drawings are left', () => {
    const content = {
      stack: [
        'plain',
        { text: 'זרם', style: 'cell' },
        { ul: [{ text: ['a', 'זרם'] }] },
        { columns: ['זרם'] },
        { table: { headerRows: 1, body: [['זרם', { text: 'x', bold: true }]] }, layout: 'none' },
        { svg: '<svg>זרם</svg>', width: 10 },
      ],
    };
    const other = [{ text: 'זרם', font: OTHER_LETTERS }];
    expect(withAllLetters(content, { cell: { font: 'Mono' } })).toEqual({
      stack: [
        'plain',
        { text: other, style: 'cell' },
        { ul: [{ text: ['a', { text: other }] }] },
        { columns: [{ text: other }] },
        { table: { headerRows: 1, body: [[{ text: other }, { text: 'x', bold: true }]] }, layout: 'none' },
        { svg: '<svg>זרם</svg>', width: 10 },
      ],
    });
  });
});

describe('the logbook on paper', () => {
  test('keeps its pictures and every letter, whatever alphabet somebody writes in', async () => {
    addNote(app, 'Seal ok: Ω ✓ и Δφ ≤ 3°', 'Ada', png(64, 48));
    addNote(app, 'Pump 力 stopped ⚠', 'Grace');
    const { text, pictures, fonts } = read(await logPdf(app, {}));
    expect(text).toContain('Seal ok: Ω ✓ и Δφ ≤ 3°');
    expect(text).toContain('Pump [U+529B] stopped ⚠');
    expect(pictures).toHaveLength(1);
    expect(pictures[0]).toMatch(/\b64 +48\b/);
    expect(
      fonts
        .trim()
        .split('\n')
        .slice(2)
        .every((line) => line.includes(' yes yes ')),
    ).toBe(true); // embedded, subset
  });

  test('is made without pictures when one of them is damaged, and says where it is', async () => {
    const said = vi.spyOn(console, 'error').mockImplementation(() => undefined);
    addNote(app, 'Crack', 'Ada', Buffer.concat([png(8, 8).subarray(0, 30), Buffer.from('cut off')]));
    const { text, pictures } = read(await logPdf(app, {}));
    expect(text).toMatch(/Crack .*Its picture \(no\. 1\) is on the page of the logbook/);
    expect(pictures).toEqual([]);
    expect(said).toHaveBeenCalled();
    said.mockRestore();
  });
});
