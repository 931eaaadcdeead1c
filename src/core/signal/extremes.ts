/** The lower of two readings; one that is missing (NaN) says nothing. */
export const lower = (a: number, b: number): number => (a <= b || b !== b ? a : b);

/** The higher of two readings; one that is missing (NaN) says nothing. */
export const higher = (a: number, b: number): number => (a >= b || b !== b ? a : b);
