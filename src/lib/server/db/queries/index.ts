export * from './arrivals';
export * from './payments';
export * from './rates';
export * from './tills';
