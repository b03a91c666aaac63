export * from './bank';
export * from './days';
export * from './dayText';
