export * from './alerts';
export * from './bytes';
export * from './needed';
export * from './retries';
export * from './signatures';
export * from './hours';
export * from './silence';
