/** Ways in which modes are found. */
export const FITS = ['the frequency-domain fit', 'the subspace fit', 'a quick look at singular values'] as const; // prettier-ignore
export type FitName = (typeof FITS)[number];
