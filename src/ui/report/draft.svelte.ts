import { SvelteMap } from 'svelte/reactivity';
import type { Block, Page, PaintedBlock, ReportBody, ReportView } from '$contract/report';
import { Fault, call, faultText, type FaultText } from '../api';

const SAVE_MS = 500;
const MOST_STEPS = 100;

const bodyOf = ({ name, paper, pages, filter, takes, called }: ReportView): ReportBody => ({ name, paper, pages, filter, takes, called }); // prettier-ignore

/** What a block looks like depends on these of it. */
const looksLike = (a: Block, b: Block) =>
  a.kind === b.kind &&
  a.w === b.w &&
  a.h === b.h &&
  JSON.stringify(a.settings) === JSON.stringify(b.settings);

/** A report as it is edited: every change is shown at once, drawn, kept a moment later, and can be taken back. */
export class ReportDraft {
  body = $state.raw<ReportBody>() as ReportBody;
  private version = 0;
  private past = $state.raw<ReportBody[]>([]);
  private future = $state.raw<ReportBody[]>([]);
  /** What was drawn of each block last. */
  readonly drawn = new SvelteMap<string, PaintedBlock>();
  /** What the house puts on each page. */
  readonly frames = new SvelteMap<string, string>();
  values = $state.raw<{ name: string; says: string }[]>([]);
  unsaved = $state(false);
  /** Steps of one hand movement or one word are one. */
  private lastStep = '';
  private timer: ReturnType<typeof setTimeout> | undefined;
  private saving: Promise<void> = Promise.resolve();

  constructor(
    private readonly id: string,
    view: ReportView,
    private take: string | null,
    private readonly say: (fault: FaultText) => void,
  ) {
    this.body = bodyOf(view);
    this.version = view.version;
    void this.draw();
  }

  get canUndo(): boolean {
    return this.past.length > 0;
  }
  get canRedo(): boolean {
    return this.future.length > 0;
  }

  /** Shown for another take. */
  showFor(take: string | null): void {
    if (take === this.take) return;
    this.take = take;
    void this.draw();
  }

  /** @param step what it is a part of: changes of one name in a row are taken back at once */
  change(next: ReportBody, step = ''): void {
    if (step === '' || step !== this.lastStep) this.past = [...this.past.slice(-MOST_STEPS), this.body];
    this.lastStep = step;
    this.future = [];
    this.put(next);
  }
  page(id: string, change: (page: Page) => Page, step = ''): void {
    const pages = this.body.pages.map((p) => (p.id === id ? change(p) : p));
    this.change({ ...this.body, pages }, step);
  }
  undo(): void {
    const last = this.past.at(-1);
    if (!last) return;
    this.past = this.past.slice(0, -1);
    this.future = [...this.future, this.body];
    this.lastStep = '';
    this.put(last);
  }
  redo(): void {
    const next = this.future.at(-1);
    if (!next) return;
    this.future = this.future.slice(0, -1);
    this.past = [...this.past, this.body];
    this.lastStep = '';
    this.put(next);
  }

  private put(next: ReportBody): void {
    const before = new Map(this.body.pages.flatMap((p) => p.blocks).map((b) => [b.id, b]));
    const pagesMoved =
      this.body.pages.map((p) => p.id).join() !== next.pages.map((p) => p.id).join() ||
      JSON.stringify([this.body.filter, this.body.takes]) !== JSON.stringify([next.filter, next.takes]);
    this.body = next;
    this.unsaved = true;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.save(), SAVE_MS);
    const changed = next.pages
      .flatMap((p) => p.blocks)
      .filter((b) => {
        const was = before.get(b.id);
        return !was || !this.drawn.has(b.id) || !looksLike(was, b);
      });
    if (pagesMoved) void this.draw();
    else if (changed.length) void this.draw(changed.map((b) => b.id));
  }

  /** Draws blocks as they print; all where none are named. What was asked for later stands. */
  private asked = 0;
  private readonly newest = new Map<string, number>();
  async draw(only?: string[]): Promise<void> {
    const turn = ++this.asked;
    const ids = only ?? this.body.pages.flatMap((p) => p.blocks.map((b) => b.id));
    for (const id of ids) this.newest.set(id, turn);
    try {
      const { pages, values } = await call('POST /api/reports/[id]/drawn', { params: { id: this.id }, body: { body: this.body, take: this.take, only } }); // prettier-ignore
      for (const block of pages.flatMap((p) => p.blocks))
        if (this.newest.get(block.id) === turn) this.drawn.set(block.id, block);
      for (const { id, frame } of pages) this.frames.set(id, frame);
      this.values = values;
    } catch (error) {
      this.say(faultText(error));
    }
  }

  /** Blocks drawn by themselves, that stand on no page. @throws Fault */
  async drawnApart(blocks: Block[]): Promise<PaintedBlock[]> {
    const pages = [{ id: 'apart', name: '', blocks }];
    const drawn = await call('POST /api/reports/[id]/drawn', { params: { id: this.id }, body: { body: { ...this.body, pages }, take: this.take } }); // prettier-ignore
    return drawn.pages.flatMap((p) => p.blocks);
  }

  /** Keeps what has been changed; one at a time. */
  save(): Promise<void> {
    clearTimeout(this.timer);
    return (this.saving = this.saving.then(async () => {
      if (!this.unsaved) return;
      const body = this.body;
      try {
        const view = await call('PUT /api/reports/[id]', { params: { id: this.id }, body: { version: this.version, body, ...(this.take && { shown: this.take }) } }); // prettier-ignore
        this.version = view.version;
        if (this.body === body) {
          this.unsaved = false;
          this.body = { ...body, called: view.called };
        }
      } catch (error) {
        this.say(faultText(error));
        if (error instanceof Fault && error.status === 409) await this.adopt();
      }
    }));
  }
  /** Takes the report as somebody else has left it. */
  private async adopt(): Promise<void> {
    const view = await call('GET /api/reports/[id]', { params: { id: this.id } }).catch(() => null);
    if (!view) return;
    this.version = view.version;
    this.body = bodyOf(view);
    this.unsaved = false;
    [this.past, this.future] = [[], []];
    await this.draw();
  }
  leave(): void {
    if (this.unsaved) void this.save();
  }
}
