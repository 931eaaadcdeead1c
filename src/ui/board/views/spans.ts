/** Times that a history can show, s. */
export const SPANS = [10, 60, 600, 3600, 10_800, 86_400, 259_200];
