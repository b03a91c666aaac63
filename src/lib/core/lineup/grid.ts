import { isNoType } from '../cards';
import { abilityOf, connectionOf, routeTrouble, typesLeft, type RouteTrouble } from './checks';
import type { Carrier, LineUp, Offer } from './lineup';
import { hasCard } from './methods';
import type { Context, States } from './states';

/** A till as the grid shows it. */
export interface GridTill {
	readonly slug: string;
	readonly name: string;
	readonly currencies: readonly string[];
	readonly lineUp: LineUp;
	/** mode, entry, day and whether it is recurring, as its payers come */
	readonly base: Context;
}

/** One way to pay at one till in one currency: a method, or a method with one card scheme. */
export interface GridEntry {
	readonly till: string;
	readonly currency: string;
	readonly method: string;
	/** empty for a method without cards */
	readonly scheme: string;
	readonly offerId: string;
	readonly offerName: string;
	readonly carrier: Carrier;
	readonly standby?: Carrier;
	/** why neither route can carry it just now */
	readonly trouble?: RouteTrouble | 'paused everywhere' | 'account cannot';
	/** the standby carries it at the moment */
	readonly onStandby: boolean;
	readonly conditions: boolean;
}

const asks = ({ conditions: { amounts, ...rest } }: Offer): boolean =>
	amounts.length > 0 || Object.values(rest).some((one) => one !== undefined && one !== false);

/** Everything that tills accept, and through whom: one entry for each till, currency and method or card scheme. */
export function gridEntries(tills: readonly GridTill[], states: States): GridEntry[] {
	const entries: GridEntry[] = [];
	for (const till of tills)
		for (const offer of till.lineUp) {
			if (!offer.on) continue;
			for (const currency of till.currencies) {
				const route = Object.hasOwn(offer.routes, currency) ? offer.routes[currency] : undefined;
				if (!route) continue;
				const context = { ...till.base, currency };
				const first = routeTrouble(route.first, context, states);
				const second = route.standby ? routeTrouble(route.standby, context, states) : first;
				const onStandby = !!first && !second && !!route.standby;
				const carrier = onStandby ? route.standby! : route.first;
				const connection = connectionOf(carrier, states);
				const ability = abilityOf(connection, offer.method);
				const types = typesLeft(offer, ability, states);
				const paused = states.pausedMethods.includes(offer.method) || !!states.pausedCurrencies?.includes(currency);
				const able =
					carrier.kind === 'offline'
						? !!states.offline[carrier.id]?.currencies.includes(currency)
						: !!ability?.currencies.includes(currency) &&
							ability.entries.includes(till.base.entry) &&
							(!till.base.recurring || ability.entries.includes('recurring'));
				const schemes = hasCard(offer.method) ? (types && types.schemes !== 'any' ? types.schemes : ['']) : [''];
				for (const scheme of schemes)
					entries.push({
						till: till.slug,
						currency,
						method: offer.method,
						scheme,
						offerId: offer.id,
						offerName: offer.name,
						carrier: route.first,
						standby: route.standby,
						onStandby,
						trouble: paused
							? 'paused everywhere'
							: first && second
								? first
								: !able || (types && isNoType(types))
									? 'account cannot'
									: undefined,
						conditions:
							asks(offer) || (!!types && (types.fundings !== 'any' || types.regions !== 'any') && narrows(offer))
					});
			}
		}
	return entries;
}

/** Whether the offer itself takes fewer card types than its account could. */
const narrows = ({ cardTypes }: Offer): boolean =>
	!!cardTypes && (cardTypes.fundings !== 'any' || cardTypes.regions !== 'any');
