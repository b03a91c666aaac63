export * from './delivery';
export * from './events';
