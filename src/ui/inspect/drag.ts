/** Channels that are dragged from the list into a plot. What is dropped where is told to the page; keys do the same in the axis of a channel. */
export interface ChannelDrag {
  /** For a name in the list. */
  draggable(name: string): (node: HTMLElement) => () => void;
  stop(): void;
}

/** @param dropped told the channel, and the channel of the plot it was dropped on; null beside all plots */
export async function channelDrag(
  dropped: (channel: string, onto: string | null) => void,
): Promise<ChannelDrag> {
  const {
    DragDropManager,
    Draggable,
    Feedback,
    PointerSensor,
    PointerActivationConstraints,
    PreventSelection,
  } = await import('@dnd-kit/dom');
  const manager = new DragDropManager({
    plugins: [Feedback.configure({ feedback: 'clone', dropAnimation: null }), PreventSelection],
    sensors: [
      PointerSensor.configure({
        activationConstraints: [new PointerActivationConstraints.Distance({ value: 6 })],
        // A name is a button, too: only when it is moved is it dragged.
        preventActivation: () => false,
      }),
    ],
  });
  let at = { x: 0, y: 0 };
  const follow = (event: PointerEvent) => (at = { x: event.clientX, y: event.clientY });
  window.addEventListener('pointermove', follow, { capture: true });
  manager.monitor.addEventListener('dragend', ({ operation, canceled }) => {
    const name = operation.source?.id;
    if (canceled || typeof name !== 'string') return;
    const under = document.elementsFromPoint(at.x, at.y).filter((e) => !e.closest('[data-dnd-dragging]'));
    const panel = under.map((e) => e.closest<HTMLElement>('[data-drop]')).find(Boolean);
    const stage = under.some((e) => e.closest('[data-stage]'));
    if (panel) dropped(name, panel.dataset.drop ?? null);
    else if (stage) dropped(name, null);
  });
  return {
    draggable: (name) => (node) => {
      const one = new Draggable({ id: name, element: node }, manager);
      return () => one.destroy();
    },
    stop() {
      window.removeEventListener('pointermove', follow, { capture: true });
      manager.destroy();
    },
  };
}
