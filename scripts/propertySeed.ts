import fc from 'fast-check';

// A clean checkout has to give the same answer each time: there the properties run on one seed. At a desk every run tries new cases.
if (process.env.CI) fc.configureGlobal({ seed: 20261125 });
