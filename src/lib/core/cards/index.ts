export * from './cardType';
export * from './number';
export * from './schemes';
