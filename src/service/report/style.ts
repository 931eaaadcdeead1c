import { badInput } from '$core/errors';
import { HouseStyle } from '$contract/report';
import { getHouse, putHouse } from '$store/house';
import { log, type App } from '../app';
import { pictureOf } from '../boards';
import { check } from '../check';

const KEY = 'style of reports';
export const PLAIN: HouseStyle = { logo: null, head: '', foot: '', numbers: 'point', face: 'Commissioner', colours: null }; // prettier-ignore

/** What every page of every report has. */
export const houseStyle = (app: App): HouseStyle => {
  const held = HouseStyle.safeParse({ ...PLAIN, ...(getHouse(app.db, KEY) as object | null) });
  return held.success ? held.data : PLAIN;
};

/** @throws `bad_input` for a logo that papers do not take, `not_found` for one that is not kept */
export function changeHouseStyle(app: App, given: HouseStyle, by: string): void {
  const style = check(HouseStyle, given);
  if (style.logo !== null && pictureOf(app, style.logo).type === 'image/webp')
    throw badInput('logo', 'a WebP picture', 'Papers take PNG and JPEG pictures.');
  putHouse(app.db, KEY, style);
  log(app, 'report', 'The style of all reports was changed.', { by });
}
