// Reads charts of a page that stands alone: what is under the pointer, or the next place by arrow keys.
(() => {
  const box = document.body.appendChild(
    Object.assign(document.createElement('div'), { id: 'reading', hidden: true }),
  );
  const line = document.body.appendChild(
    Object.assign(document.createElement('div'), { id: 'line', hidden: true }),
  );
  box.setAttribute('role', 'status');
  const hide = () => (box.hidden = line.hidden = true);
  /**
   * @typedef {{ kind: 'columns', box: number[], at: number[], says: string[][] }} Columns
   * @typedef {{ kind: 'pairs', box: number[], at: [number, number][], says: string[] }} Pairs
   * @typedef {{ kind: 'cells', box: number[], x: number[], y: number[], across: string[], up: string[], says: string[] }} Cells
   * @typedef {Columns | Pairs | Cells} Figure
   */
  /** @param {number[]} places @param {number} at */
  const nearest = (places, at) => {
    let [low, high] = [0, places.length - 1];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (places[middle] <= at) low = middle;
      else high = middle;
    }
    return at - places[low] < places[high] - at ? low : high;
  };
  /** @param {number[]} edges @param {number} at */
  const cell = (edges, at) => {
    for (let i = 0; i + 1 < edges.length; i++)
      if (at >= Math.min(edges[i], edges[i + 1]) && at <= Math.max(edges[i], edges[i + 1])) return i;
    return -1;
  };
  /** @param {Figure} figure @param {number} px @param {number} py */
  const within = ({ box: [x, y, w, h] }, px, py) => px >= x && px <= x + w && py >= y && py <= y + h;
  /** What is said at a place of a figure, and where that is. @param {Figure} figure @param {number} px @param {number} py */
  const read = (figure, px, py) => {
    if (figure.kind === 'columns') {
      const i = nearest(figure.at, px);
      return { x: figure.at[i], says: figure.says[i].join('\n') };
    }
    if (figure.kind === 'pairs') {
      let best = -1;
      let least = Infinity;
      figure.at.forEach(([x, y], i) => {
        const far = Math.hypot(x - px, y - py);
        if (far < least) [best, least] = [i, far];
      });
      return best < 0 ? null : { x: figure.at[best][0], says: figure.says[best] };
    }
    const [i, k] = [cell(figure.x, px), cell(figure.y, py)];
    return i < 0 || k < 0
      ? null
      : {
          x: px,
          says: [figure.across[i], figure.up[k], figure.says[k * figure.across.length + i]]
            .filter(Boolean)
            .join('\n'),
        };
  };
  for (const section of /** @type {NodeListOf<HTMLElement>} */ (
    document.querySelectorAll('section[tabindex]')
  )) {
    /** @type {Figure[]} */
    const figures = JSON.parse(section.querySelector('script')?.textContent ?? '[]');
    /** @type {[number, number] | null} */
    let last = null;
    /** @param {number} px @param {number} py */
    const show = (px, py) => {
      const found = figures.filter((f) => within(f, px, py));
      const readings = found.flatMap((f) => read(f, px, py) ?? []);
      if (readings.length === 0) return hide();
      last = [px, py];
      const frame = section.getBoundingClientRect();
      const scale = frame.width / Number(section.dataset.width);
      const [x, y] = [frame.left + window.scrollX, frame.top + window.scrollY];
      const [, top, , high] = found[0].box;
      // What several figures say under one another: each line once.
      box.textContent = [...new Set(readings.flatMap((r) => r.says.split('\n')))].join('\n');
      box.hidden = line.hidden = false;
      const at = x + readings[0].x * scale;
      Object.assign(line.style, {
        left: `${at}px`,
        top: `${y + top * scale}px`,
        height: `${high * scale}px`,
      });
      const left = at + 12 + box.offsetWidth > x + frame.width ? at - 12 - box.offsetWidth : at + 12;
      Object.assign(box.style, { left: `${Math.max(0, left)}px`, top: `${y + py * scale + 12}px` });
    };
    section.addEventListener('pointermove', (event) => {
      const frame = section.getBoundingClientRect();
      const scale = frame.width / Number(section.dataset.width);
      show((event.clientX - frame.left) / scale, (event.clientY - frame.top) / scale);
    });
    section.addEventListener('pointerleave', hide);
    section.addEventListener('keydown', (event) => {
      const way = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
      if (event.key === 'Escape') return hide();
      if (!way) return;
      event.preventDefault();
      const [x, y, w, h] = figures[0].box;
      const at = last;
      const figure = (at && figures.find((f) => within(f, at[0], at[1]))) ?? figures[0];
      const [left, , wide] = figure.box;
      const [px, py] = last ?? [x + w / 2, y + h / 2];
      show(Math.min(left + wide, Math.max(left, px + (way * wide) / (event.shiftKey ? 40 : 400))), py);
    });
  }
})();
