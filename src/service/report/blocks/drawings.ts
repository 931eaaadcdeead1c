import type { Plot } from '$core/figures/vectors';
import { paintFigure } from '$core/figures/paper';
import { lacking, wanted, type BlockPainter } from './block';
import { captioned } from './chart';

export const figure: BlockPainter<'figure'> = (sheet, settings, page) => {
  const study = wanted(sheet, settings.study, page, (r) => r.figures.length > 0);
  if (!study) return;
  const { figures } = study.result;
  const found = settings.figure ? figures.find((f) => f.title === settings.figure) : figures[0];
  if (!found)
    return lacking(sheet, settings.figure ? `${study.view.name} has no figure “${settings.figure}”.` : `${study.view.name} draws nothing.`); // prettier-ignore
  const bottom = captioned(sheet, settings.caption);
  sheet.things.push({ thing: 'figures', top: 0, bottom, figures: [found], ends: null, apart: true });
  const plots: Plot[] = [];
  sheet.place(paintFigure(found, sheet.ink, { width: sheet.width, height: Math.max(70, bottom) }, {}, plots), 0, 0, 1, plots); // prettier-ignore
};
