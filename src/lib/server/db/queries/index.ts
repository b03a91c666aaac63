export * from './arrivals';
export * from './paymentList';
export * from './payments';
export * from './rates';
export * from './tills';
export * from './billing';
export * from './fees';
export * from './hooks';
