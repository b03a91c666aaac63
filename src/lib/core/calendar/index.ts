export * from './bank';
export * from './days';
