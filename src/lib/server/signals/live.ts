import { EventEmitter } from 'node:events';

/** What open screens listen for: the part of the application in which something changed. */
const TOPICS = ['takings', 'connections', 'tills', 'arrivals', 'bill', 'fees', 'hooks', 'alerts'] as const;
export type Topic = (typeof TOPICS)[number];

const bus = new EventEmitter();
bus.setMaxListeners(0);

/** Counts what was told; begins at the start of the process, so that a number of an earlier one never passes for today's. */
let count = Date.now();
const last = new Map<Topic, number>();

export const tell = (topic: Topic): void => {
	last.set(topic, ++count);
	bus.emit('changed', topic, count);
};

/** The number of what was told last: what is loaded after reading it holds all that was told until then. */
export const told = (): number => count;

/** What was told after a number; everything, where the number is none of this process. */
export const toldSince = (number: number): Topic[] =>
	number <= count ? [...last].filter(([, at]) => at > number).map(([topic]) => topic) : [...TOPICS];

/** Tells that somebody signed out: streams that were opened in their session end. */
export const tellSignedOut = (session: string): void => void bus.emit('signed out', session);

/** @returns a function that ends it */
export function listenForSignOut(session: string, end: () => void): () => void {
	const hear = (ended: string) => ended === session && end();
	bus.on('signed out', hear);
	return () => bus.off('signed out', hear);
}

/** @returns a function that ends it */
export function listen(hear: (topic: Topic, number: number) => void): () => void {
	bus.on('changed', hear);
	return () => bus.off('changed', hear);
}
