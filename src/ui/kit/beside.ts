/** Keeps a box beside what it belongs to, within the window, however both move or grow: for a box that is fixed at the top left, as wide
 *  as it needs; it is seen once it has its place. */
export const beside = (anchor: Element) => (box: HTMLElement) => {
  let gone = false;
  let undo = () => {};
  const see = (x: number, y: number) =>
    Object.assign(box.style, { left: `${x}px`, top: `${y}px`, opacity: '1' });
  box.style.opacity = '0';
  import('@floating-ui/dom').then(
    ({ autoUpdate, computePosition, flip, offset, shift }) => {
      if (gone) return;
      const middleware = [
        offset(6),
        flip({ padding: 8, crossAxis: false }),
        shift({ padding: 8, crossAxis: true }),
      ];
      undo = autoUpdate(anchor, box, () => {
        // What it belongs to was exchanged for another: it stays where it is.
        if (!anchor.isConnected) return;
        void computePosition(anchor, box, { strategy: 'fixed', placement: 'bottom-start', middleware }).then(
          ({ x, y }) => see(x, y),
        );
      });
    },
    () => {
      // Nobody answers: below it is better than nowhere.
      const { left, bottom } = anchor.getBoundingClientRect();
      see(left, bottom);
    },
  );
  return () => {
    gone = true;
    undo();
  };
};
