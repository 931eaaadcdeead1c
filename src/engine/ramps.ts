/** Moves outputs to their new values no faster than their channels allow. */
export class Ramps {
  private readonly moving = new Map<string, { value: number; target: number; perSecond: number }>();

  /** @returns the value to set now; the rest follows with step() */
  begin(id: string, from: number, target: number, perSecond: number | null): number {
    this.moving.delete(id);
    if (perSecond === null || from === target) return target;
    this.moving.set(id, { value: from, target, perSecond });
    return from;
  }

  /** An output that is set at once is not moved any more. */
  stop(id: string): void {
    this.moving.delete(id);
  }

  /** Values due after so many seconds more. */
  step(seconds: number): [id: string, value: number][] {
    return [...this.moving].map(([id, m]) => {
      const left = m.target - m.value;
      const most = m.perSecond * seconds;
      m.value = Math.abs(left) <= most ? m.target : m.value + Math.sign(left) * most;
      if (m.value === m.target) this.moving.delete(id);
      return [id, m.value];
    });
  }
}
