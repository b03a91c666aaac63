import { CONNECTORS, connectorOf } from '../../src/lib/server/connectors';
import { STANDINS } from '../../standins/main.ts';
import type { Manifest } from '../../standins/shared/manifest.ts';
import { expect, it } from 'vitest';
import { setUpBench } from './bench.ts';
import { conforms } from './conformance.ts';

// an eighth processor is tried by its manifest, like these
const processors = Object.values(STANDINS).filter((one) => one.account);
it('every processor says how its connector is tried, and every connector has its stand-in', () => {
	expect(processors.filter((one) => !one.trial).map((one) => one.name)).toEqual([]);
	expect(processors.map((one) => one.name).sort()).toEqual(Object.keys(CONNECTORS).sort());
});
for (const one of processors) conforms(connectorOf(one.name).name, () => setUpBench(one as Required<Manifest>));
