export * from './acts';
export * from './events';
export * from './certainty';
export * from './state';
