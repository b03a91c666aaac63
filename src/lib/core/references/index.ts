export * from './address';
export * from './creditor';
export * from './descriptor';
export * from './iban';
export * from './receipt';
export * from './transfer';
