import type { Finding } from './study';

/** Fields whose values are not the same in all settings. */
export function differingFields(settings: readonly Record<string, unknown>[]): Set<string> {
  const keys = new Set(settings.flatMap((s) => Object.keys(s)));
  return new Set([...keys].filter((key) => new Set(settings.map((s) => JSON.stringify(s[key]))).size > 1));
}

interface VariantCell {
  value: number;
  unit: string;
  /** Against the first variant, in the unit; not where that has no such finding in this unit. */
  difference?: number;
  /** The same as a share of the first one’s. */
  share?: number;
}
interface FindingRow {
  label: string;
  cells: (VariantCell | null)[];
}

/** Findings of several variants by their labels, each with its difference from the first variant’s. */
export function findingRows(findings: readonly (readonly Finding[])[]): FindingRow[] {
  const labels = [...new Set(findings.flatMap((of) => of.map((f) => f.label)))];
  return labels.map((label) => {
    const own = findings.map((of) => of.find((f) => f.label === label));
    const [first] = own;
    const cells = own.map((f, k): VariantCell | null => {
      if (!f) return null;
      const { value, unit } = f;
      if (k === 0 || !first || first.unit !== unit || !Number.isFinite(value - first.value))
        return { value, unit };
      const difference = value - first.value;
      return {
        value,
        unit,
        difference,
        ...(first.value !== 0 && { share: difference / Math.abs(first.value) }),
      };
    });
    return { label, cells };
  });
}
