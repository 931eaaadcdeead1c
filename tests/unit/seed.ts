import fc from 'fast-check';

// Properties are tried on the same examples in every run, so that what is red was made red by a change. `FARRIER_SEED=random npm run unit` looks further.
const wanted = process.env.FARRIER_SEED ?? '20261126';
if (wanted !== 'random') fc.configureGlobal({ ...fc.readConfigureGlobal(), seed: Number(wanted) });
