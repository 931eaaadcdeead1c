/** Which rows of a long table are drawn: those in view and some around them. */
export class WindowedRows {
  readonly first: number;
  readonly end: number;
  /** Heights that stand for the rows not drawn, px. */
  readonly above: number;
  readonly below: number;

  constructor(count: number, rowHeight: number, scrollTop: number, viewHeight: number, around = 8) {
    this.first = Math.max(0, Math.min(count, Math.floor(scrollTop / rowHeight) - around));
    this.end = Math.min(count, Math.ceil((scrollTop + viewHeight) / rowHeight) + around);
    this.above = this.first * rowHeight;
    this.below = Math.max(0, count - this.end) * rowHeight;
  }
}
