import fc from 'fast-check';

// What the tests try is the same each time: random cases come from one seed. Others are tried by `npm run explore`, which tells its seed.
fc.configureGlobal({ seed: Number(process.env.JESTRIL_SEED ?? 1) });
