export * from './amount';
export * from './currency';
export * from './exchange';
export * from './fraction';
export * from './rounding';
export * from './text';
