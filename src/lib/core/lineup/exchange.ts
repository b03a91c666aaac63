import { z } from 'zod';
import { isCurrency } from '../money';
import { COUNTRIES } from '../places';
import { Carrier, Choice, Conditions, LineUp, Offer, RouteChoice } from './lineup';

/** A route as a file names it: by the name that people read, and by whom it is. */
export const NamedCarrier = z
	.object({
		kind: z.enum(['connection', 'offline']).describe('a connection, or an offline method'),
		name: z.string().min(1).max(120).describe('its name, as Connect shows it')
	})
	.strict();
export const NamedRoute = z.object({ first: NamedCarrier, standby: NamedCarrier.optional() }).strict();

/** Countries by their codes; a name or a code that there is not would hold for nobody. */
const Countries = z.strictObject({
	rule: Choice.shape.rule,
	values: z
		.array(
			z.string().refine((code) => COUNTRIES.includes(code), 'is no country: give codes of two letters, such as BE')
		)
		.min(1)
});

const { shape } = Offer;
/** One offer of a file: the same as one of a line-up, its routes by name. */
export const NamedOffer = z
	.object({
		...shape,
		id: z.string().min(1).max(60).optional().describe('kept where the till has it already'),
		routes: z
			.record(z.string().refine(isCurrency, 'is no currency'), NamedRoute)
			.refine((routes) => Object.keys(routes).length > 0, 'names no route: nobody would ever see this offer')
			.describe('by currency, ISO 4217'),
		conditions: Conditions.extend({ countries: Countries.optional() }).prefault({})
	})
	.strict();

/** A line-up as a file. */
export const LineUpFile = z
	.object({
		kind: z.literal('line-up'),
		format: z.literal(1).optional().describe('the version of this form'),
		version: z.literal(1).optional().describe('the former name of `format`; still read, not written any more'),
		origin: z.string().max(200).optional().describe('the installation that it was taken from; not needed to import it'),
		till: z.string().max(60).optional().describe('the till that it was taken from; not needed to import it'),
		offers: z.array(NamedOffer).max(40)
	})
	.strict()
	.refine((file) => file.format !== undefined || file.version !== undefined, {
		path: ['format'],
		message: 'is missing: 1 is the only one there is'
	});
export type LineUpFile = z.infer<typeof LineUpFile>;

/** Connections and offline methods by id, with what tells them apart. */
export type CarrierBook = readonly {
	kind: 'connection' | 'offline';
	id: string;
	name: string;
	mode?: string;
	/** card schemes that it can carry; told where it carries cards */
	schemes?: readonly string[];
}[];

/**
 * A line-up with its routes and groups by name, so that another installation, or a later one, can read it.
 * @param groups names by id
 * @param origin the address of this installation
 */
export function toFile(
	lineUp: LineUp,
	till: string,
	book: CarrierBook,
	groups: Readonly<Record<string, string>> = {},
	origin = ''
): LineUpFile {
	const named = (carrier: Carrier) => ({
		kind: carrier.kind,
		name: book.find((one) => one.kind === carrier.kind && one.id === carrier.id)?.name ?? carrier.id
	});
	return {
		kind: 'line-up',
		format: 1,
		...(origin ? { origin } : {}),
		till,
		offers: lineUp.map((offer) => ({
			...offer,
			...(offer.conditions.groups
				? {
						conditions: {
							...offer.conditions,
							groups: {
								...offer.conditions.groups,
								values: offer.conditions.groups.values.map((id) => groups[id] ?? id)
							}
						}
					}
				: {}),
			routes: Object.fromEntries(
				Object.entries(offer.routes).map(([currency, route]) => [
					currency,
					{ first: named(route.first), ...(route.standby ? { standby: named(route.standby) } : {}) }
				])
			)
		}))
	};
}

/** A fault of a file, by the place at which it stands. */
export interface FileFault {
	/** to read, such as `offers.0.routes.EUR.first.name` */
	readonly path: string;
	/** JSON Pointer (RFC 6901) into the file */
	readonly pointer: string;
	readonly says: string;
}
const faultAt = (at: readonly PropertyKey[], says: string): FileFault => ({
	path: at.map(String).join('.') || '(whole file)',
	pointer: pointerOf(at),
	says
});

/** A JSON Pointer. @source RFC 6901 */
export const pointerOf = (at: readonly PropertyKey[]): string =>
	at.map((part) => `/${String(part).replace(/~/g, '~0').replace(/\//g, '~1')}`).join('');

/**
 * Reads a file into a line-up: routes are found by name among those of the till's mode.
 * @param newId makes an id for an offer that has none
 */
export function fromFile(
	given: unknown,
	mode: 'test' | 'live',
	book: CarrierBook,
	newId: () => string,
	groups: Readonly<Record<string, string>> = {}
): { lineUp: LineUp } | { faults: FileFault[] } {
	const read = LineUpFile.safeParse(given);
	if (!read.success)
		return {
			faults: read.error.issues.map((one) => faultAt(one.path, one.message))
		};
	const faults: FileFault[] = [];
	const find = (carrier: z.infer<typeof NamedCarrier>, at: readonly PropertyKey[]): Carrier => {
		const fits = book.filter((one) => one.kind === carrier.kind && one.name === carrier.name);
		const fit = fits.find((one) => one.mode === undefined || one.mode === mode);
		if (!fit)
			faults.push(
				faultAt(
					at,
					fits.length
						? `“${carrier.name}” is connected, but not in ${mode} mode.`
						: `No ${carrier.kind === 'offline' ? 'offline method' : 'connection'} is called “${carrier.name}”.`
				)
			);
		return { kind: carrier.kind, id: fit?.id ?? '' };
	};
	const offers = read.data.offers.map((offer, at) => {
		const routes: Record<string, RouteChoice> = {};
		for (const [currency, route] of Object.entries(offer.routes))
			routes[currency] = {
				first: find(route.first, ['offers', at, 'routes', currency, 'first', 'name']),
				...(route.standby
					? { standby: find(route.standby, ['offers', at, 'routes', currency, 'standby', 'name']) }
					: {})
			};
		const known = new Set(book.flatMap((one) => one.schemes ?? []));
		if (offer.cardTypes && offer.cardTypes.schemes !== 'any' && known.size)
			offer.cardTypes.schemes.forEach((id, n) => {
				if (!known.has(id))
					faults.push(
						faultAt(['offers', at, 'cardTypes', 'schemes', n], `No account that is connected knows a scheme “${id}”.`)
					);
			});
		const asked = offer.conditions.groups;
		const ids = asked?.values.map((name, n) => {
			const found = Object.entries(groups).find(([, one]) => one === name);
			if (!found)
				faults.push(faultAt(['offers', at, 'conditions', 'groups', 'values', n], `No group is called “${name}”.`));
			return found?.[0] ?? name;
		});
		return {
			...offer,
			...(asked ? { conditions: { ...offer.conditions, groups: { ...asked, values: ids! } } } : {}),
			id: offer.id ?? newId(),
			routes
		};
	});
	if (faults.length) return { faults };
	const lineUp = LineUp.safeParse(offers);
	return lineUp.success
		? { lineUp: lineUp.data }
		: {
				faults: lineUp.error.issues.map((one) => faultAt(['offers', ...one.path], one.message))
			};
}
