export * from './audit';
export * from './ids';
export * from './payerRates';
export * from './seal';
export * from './signIn';
export * from './tokens';
