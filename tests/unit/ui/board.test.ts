import fc from 'fast-check';
import { afterEach, describe, expect, test } from 'vitest';
import { BoardChange, View, boardChange, withChange, type Board } from '$contract/board';
import { BoardDraft } from '$ui/board/draft.svelte';
import { BOARD_VIEWS, boardView, fittingView, needsOf } from '$ui/board/views/registry';
import type { BoardView } from '$ui/board/views/view';
import { render } from 'svelte/server';
import Stage from '../../fixtures/views/Stage.svelte';
import ThrowAwayView from '../../fixtures/views/ThrowAwayView.svelte';
import { channel } from '../rig';
import { oneAtATime } from '$ui/shell/one-at-a-time';

const view = (id: string, more: Partial<View> = {}): View =>
  View.parse({ id, kind: 'number', channels: ['c'], x: 0, y: 0, w: 5, h: 3, ...more });
const byId = (views: View[]) => [...views].sort((a, b) => (a.id < b.id ? -1 : 1));

const anyView = fc
  .record({
    id: fc.constantFrom('a', 'b', 'c', 'd', 'e'),
    x: fc.integer({ min: 0, max: 20 }),
    w: fc.integer({ min: 1, max: 24 }),
    title: fc.constantFrom('', 'Torque', 'Flap'),
    span: fc.constantFrom(10, 60),
    range: fc.constantFrom(null, { min: 0, max: 5 }),
  })
  .map(({ id, ...more }) => view(id, more));
const anyBoard = fc.uniqueArray(anyView, { selector: (v) => v.id, maxLength: 5 });

describe('what was changed of a board', () => {
  test('makes the one arrangement the other, whatever the two are', () => {
    fc.assert(
      fc.property(anyBoard, anyBoard, (before, after) => {
        const change = boardChange(before, after);
        const made = change ? withChange(before, BoardChange.parse(change)) : before;
        expect(byId(made)).toEqual(byId(after));
      }),
    );
  });

  test('holds only the fields that differ: none of them falls back to what a new view begins with', () => {
    const before = [view('a', { span: 10, title: 'Flap' }), view('b')];
    const change = boardChange(before, [{ ...before[0], x: 7 }, before[1]])!;
    expect(change).toEqual({ put: [{ id: 'a', x: 7 }], drop: [] });
    expect(withChange(before, BoardChange.parse(change))[0]).toEqual({ ...before[0], x: 7 });
  });

  test('a view that somebody took away meanwhile does not come back in part', () => {
    expect(withChange([view('b')], { put: [{ id: 'a', x: 7 }] })).toEqual([view('b')]);
  });

  test.each([
    [{ put: [{ x: 3 }] }, /named by its id/],
    [{ put: [{ id: 'a', colour: 'red' }] }, /colour/],
    [{ put: [{ id: 'a', w: 99 }] }, /24/],
    [{ put: [{ id: 'a', kind: '' }] }, /1 char/],
  ])('%j is refused', (change, why) => expect(() => BoardChange.parse(change)).toThrow(why));
});

/** A server that keeps a board and answers when it is let. */
class Keeper {
  board: Board = { id: 'x', name: 'Hall', views: [view('a'), view('b')] };
  sent: { change: BoardChange; leaving: boolean }[] = [];
  private waiting: (() => void)[] = [];
  send = async (change: BoardChange, leaving: boolean): Promise<Board> => {
    this.sent.push({ change, leaving });
    await new Promise<void>((resolve) => this.waiting.push(resolve));
    this.board = { ...this.board, views: withChange(this.board.views, change) };
    return this.board;
  };
  /** Answers what was sent first, once it was sent. */
  async answer(): Promise<void> {
    while (this.waiting.length === 0) await new Promise((resolve) => setTimeout(resolve, 5));
    this.waiting.shift()!();
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
}

describe('a board that two people arrange', () => {
  test('what the one moved and the other named both stand, on the server and on both pages', async () => {
    const keeper = new Keeper();
    const [one, other] = [0, 1].map(() => new BoardDraft(keeper.board.views, keeper.send, () => undefined));
    one.keep(one.views.map((v) => (v.id === 'a' ? { ...v, x: 9 } : v)));
    other.keep([
      ...other.views.map((v) => (v.id === 'a' ? { ...v, title: 'Torque' } : v)),
      view('n', { y: 5 }),
    ]);
    await keeper.answer();
    await keeper.answer();
    const wanted = [view('a', { x: 9, title: 'Torque' }), view('b'), view('n', { y: 5 })];
    expect(keeper.board.views).toEqual(wanted);
    one.follow(keeper.board.views);
    expect(one.views).toEqual(wanted);
    expect(other.views).toEqual(wanted);
    expect(one.saved && other.saved).toBe(true);
  });

  test('what comes from others while an edit is on its way does not undo it, nor the edit what came', async () => {
    const keeper = new Keeper();
    const draft = new BoardDraft(keeper.board.views, keeper.send, () => undefined);
    draft.keep(draft.views.map((v) => (v.id === 'a' ? { ...v, x: 9 } : v)));
    draft.follow([view('a', { title: 'Torque' }), view('b')]);
    expect(draft.views[0]).toMatchObject({ x: 9, title: 'Torque' });
    expect(draft.saved).toBe(false);
    // A second edit before the first is answered goes after it.
    while (keeper.sent.length === 0) await new Promise((resolve) => setTimeout(resolve, 5));
    draft.keep(draft.views.map((v) => (v.id === 'b' ? { ...v, w: 8 } : v)));
    await keeper.answer();
    await keeper.answer();
    expect(keeper.board.views).toMatchObject([{ x: 9 }, { w: 8 }]);
  });

  test('a page that is left sends at once what it has not sent', () => {
    const keeper = new Keeper();
    const draft = new BoardDraft(keeper.board.views, keeper.send, () => undefined);
    draft.leave();
    expect(keeper.sent).toEqual([]);
    draft.keep(draft.views.slice(1));
    draft.leave();
    expect(keeper.sent).toEqual([{ change: { put: [], drop: ['a'] }, leaving: true }]);
  });

  test('a refusal is told, and the edit stays on the page as not saved', async () => {
    const faults: unknown[] = [];
    const draft = new BoardDraft(
      [view('a')],
      () => Promise.reject(new Error('no room')),
      (f) => faults.push(f),
    );
    draft.keep([view('a', { x: 4 })]);
    while (faults.length === 0) await new Promise((resolve) => setTimeout(resolve, 5));
    expect(draft.saved).toBe(false);
    expect(draft.views[0].x).toBe(4);
  });
});

describe('work that is done one at a time', () => {
  test('who asks while it runs gets a run that began after the asking; all who wait share it', async () => {
    let held = 0;
    const seen: number[] = [];
    let go: (() => void)[] = [];
    const ask = oneAtATime(async () => {
      const began = held;
      await new Promise<void>((resolve) => go.push(resolve));
      seen.push(began);
    });
    const first = ask();
    held = 1;
    const [second, third] = [ask(), ask()];
    expect(second).toBe(third);
    go[0]();
    await first;
    while (go.length < 2) await Promise.resolve();
    expect(seen).toEqual([0]);
    go[1]();
    await second;
    expect(seen).toEqual([0, 1]);
    go = [];
  });

  test('a run that fails is told to those who asked for it, and hinders no later one', async () => {
    let runs = 0;
    const ask = oneAtATime(async () => {
      await Promise.resolve();
      if (runs++ === 0) throw new Error('no answer');
    });
    const first = ask();
    const second = ask();
    await expect(first).rejects.toThrow('no answer');
    await second;
    await ask();
    expect(runs).toBe(3);
  });
});

describe('kinds of live views', () => {
  const speed = channel('Speed', 'voltage', 'A1/1', { unit: 'rpm' });
  const door = channel('Door', 'contact', 'A1/2');
  const brake = channel('Brake', 'driven', 'A1/3');
  const channels = [speed, door, brake];
  const stage = (view: View) => render(Stage, { props: { view, channels } }).body;
  const throwAway: BoardView = {
    kind: 'throw-away',
    title: 'Two names',
    purpose: 'shows that a view needs one folder and one line',
    size: [3, 2],
    begins: { span: 10 },
    channels: 'several',
    suits: (c) => c.id !== door.id,
    wants: (c) => c.name === 'Speed',
    settings: [
      { of: 'span', spans: [10, 60] },
      { of: 'choice', key: 'sign', label: 'Sign', options: ['+', '*'], usual: '+' },
    ],
    needs: (view, id) => ({ strip: `${id}/${view.span}`, wave: id }),
    shows: ThrowAwayView,
  };
  afterEach(() => void (BOARD_VIEWS.includes(throwAway) && BOARD_VIEWS.pop()));
  const own = (more: Partial<View> = {}) =>
    view('t', { kind: 'throw-away', channels: ['speed', 'brake'], span: 10, ...more });

  test('one is added by a folder and a line: offered, fed, drawn in its frame, set up', () => {
    BOARD_VIEWS.push(throwAway);
    const html = stage(own({ own: { sign: '*' } }));
    expect(html).toContain('<strong>Two names</strong>'); // among the kinds
    expect(html).toMatch(/class="throw-away"[^>]*>\* Speed and Brake</);
    expect(html).toMatch(/<option value="\*" selected/);
    expect(html).toContain('1 min');
    expect(html).not.toMatch(/type="checkbox"[^>]*>\s*Door/); // does not suit
    expect(fittingView(speed)).toBe(throwAway);
    expect(needsOf(own())).toEqual({
      strips: ['speed/10', 'brake/10'],
      waves: ['speed', 'brake'],
    });
    // Kept like any other, with what only it knows.
    expect(View.parse(JSON.parse(JSON.stringify(own({ own: { sign: '*' } }))))).toEqual(
      own({ own: { sign: '*' } }),
    );
    expect(boardChange([own()], [own({ own: { sign: '*' } })])).toEqual({ put: [{ id: 't', own: { sign: '*' } }], drop: [] }); // prettier-ignore
  });

  test('one that is not known any more says so in its place and asks for nothing', () => {
    const html = stage(own());
    expect(html).toContain('A view that this version does not know');
    expect(html).toContain('aria-label="throw-away: throw-away"');
    expect(needsOf(own())).toEqual({ strips: [], waves: [] });
  });

  test('each has a word of its own, a place it fits in, and says what is missing without a channel', () => {
    expect(new Set(BOARD_VIEWS.map((v) => v.kind)).size).toBe(BOARD_VIEWS.length);
    for (const kind of BOARD_VIEWS) {
      expect(kind.size[0]).toBeLessThanOrEqual(24);
      const html = stage(view('v', { kind: kind.kind, channels: [] }));
      expect(html).toContain(`data-kind="${kind.kind}"`);
      if (!kind.standsAlone) expect(html).toContain('Choose a channel in the settings');
      // With channels it draws without falling over, whatever they are.
      for (const ids of [['speed'], ['speed', 'door', 'brake'], ['gone']])
        expect(stage(view('v', { kind: kind.kind, channels: ids }))).toContain('data-kind');
    }
  });

  test('a channel that is dropped gets the view that fits it', () => {
    expect(fittingView(speed).kind).toBe('strip');
    expect(fittingView(door).kind).toBe('lamp');
    expect(fittingView(brake).kind).toBe('control');
    expect(boardView('burst')!.begins).toMatchObject({ level: 0, span: 0.2 });
  });
});
