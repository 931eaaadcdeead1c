import { windowDecay, windowed, type Correlations } from '$core/modal/correlations';
import { halfSpectra, type Lines } from '$core/modal/half-spectra';
import { evenSumOf, multivariateIndicator, mutualCoherence, singularValues, suggestedBands, sumOf } from '$core/modal/indicators'; // prettier-ignore

/** What the worker is asked: correlations, and what their window leaves at the end. */
export interface LinesAsk {
  id: number;
  set: Correlations;
  references: number[];
  /** A share. */
  left: number;
}
/** Half spectra under the window, with all that is drawn of them. */
export interface SetLines {
  lines: Lines;
  decay: number;
  sum: Float64Array;
  singular: Float64Array[];
  multivariate: Float64Array[];
  coherence: number[][];
  bands: { fromHz: number; toHz: number }[];
}
export interface LinesAnswer {
  id: number;
  made?: SetLines;
  fault?: string;
}

onmessage = ({ data: { id, set, references, left } }: MessageEvent<LinesAsk>) => {
  try {
    const decay = windowDecay(left, set.lags, set.dtS);
    const lines = halfSpectra(windowed(set, decay));
    const sum = sumOf(lines);
    const made: SetLines = {
      lines,
      decay,
      sum,
      singular: singularValues(lines, references),
      multivariate: multivariateIndicator(lines, set.driven?.resonant),
      coherence: mutualCoherence(lines, references),
      bands: suggestedBands(lines.hz, evenSumOf(lines)),
    };
    postMessage({ id, made } satisfies LinesAnswer);
  } catch (error) {
    postMessage({ id, fault: (error as Error).message } satisfies LinesAnswer);
  }
};
