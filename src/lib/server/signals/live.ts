import { EventEmitter } from 'node:events';

/** What open screens listen for: the part of the application in which something changed. */
export type Topic = 'takings' | 'connections' | 'tills' | 'arrivals';

const bus = new EventEmitter();
bus.setMaxListeners(0);

export const tell = (topic: Topic): void => void bus.emit('changed', topic);

/** @returns a function that ends it */
export function listen(hear: (topic: Topic) => void): () => void {
	bus.on('changed', hear);
	return () => bus.off('changed', hear);
}
