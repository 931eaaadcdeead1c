// Puts the newest good copy of the job database in the place of a damaged one: npm run restore [-- data folder]
// The damaged file is kept beside it. Stop Farrier first.
import { copyFileSync, existsSync, readdirSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';

const folder = process.argv[2] ?? process.env.FARRIER_DATA ?? 'data';
const place = join(folder, 'farrier.db');
const backups = join(folder, 'backup');

const isWhole = (path) => {
  try {
    const db = new Sqlite(path, { readonly: true, fileMustExist: true });
    const [{ quick_check: says }] = db.pragma('quick_check(1)');
    db.close();
    return says === 'ok';
  } catch {
    return false;
  }
};

const copies = existsSync(backups)
  ? readdirSync(backups)
      .filter((name) => /^farrier-[\dT-]+\.db$/.test(name))
      .sort()
      .reverse()
  : [];
const good = copies.find((name) => isWhole(join(backups, name)));
if (!good) {
  console.error(`There is no good copy in ${backups}. Restore the folder from a copy of your own.`);
  process.exit(1);
}
const stamp = new Date().toISOString().slice(0, 19).replaceAll(':', '-');
for (const end of ['', '-wal', '-shm'])
  if (existsSync(place + end)) renameSync(place + end, join(folder, `farrier-damaged-${stamp}.db${end}`));
copyFileSync(join(backups, good), place);
console.log(
  `${good} stands in the place of ${place}; what was there is kept as farrier-damaged-${stamp}.db. Start Farrier again.`,
);
