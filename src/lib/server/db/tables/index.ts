export * from './business';
export * from './connections';
export * from './pricing';
export * from './tills';
export * from './payments';
export * from './arrivals';
export * from './billing';
export * from './messages';
