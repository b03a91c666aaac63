export * from './around';
export { ArrivalLog, type NewArrival } from './arrivalLog';
export { isCheckoutKnown, knownPayer } from './lookups';
export { close, dataFolder, open, write, type Tx } from './open';
export * from './packed';
export * from './queries';
export * from './rows';
export * from './settled';
export * as db from './tables';
