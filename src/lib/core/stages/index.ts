export * from './events';
export * from './state';
