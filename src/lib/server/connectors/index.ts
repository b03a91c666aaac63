import { brackwater } from './brackwater';
import type { Connector } from './contract';
import { fernhall } from './fernhall';
import { halfpenny } from './halfpenny';
import { ostrel } from './ostrel';
import { quillon } from './quillon';
import { sundial } from './sundial';
import { tallybridge } from './tallybridge';

/** Every processor that the application can talk to, by its id. A further one is added here and nowhere else. */
export const CONNECTORS: Readonly<Record<string, Connector>> = Object.fromEntries(
	[fernhall, brackwater, tallybridge, quillon, sundial, ostrel, halfpenny].map((one) => [one.processor, one])
);

/** @throws Error for a processor that no connector is written for */
export function connectorOf(processor: string): Connector {
	const connector = Object.hasOwn(CONNECTORS, processor) ? CONNECTORS[processor] : undefined;
	if (!connector) throw new Error(`No connector for ${processor}`);
	return connector;
}

export * from './contract';
export { withinTime } from './http';
