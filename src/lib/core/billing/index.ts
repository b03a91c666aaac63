export * from './dues';
export * from './life';
export * from './placing';
export * from './split';
export * from './sums';
