import { z } from 'zod';
import { FUNDINGS, REGIONS } from '../../core/cards';
import { hasCard, methodName, type Carrier, type Method, type Offer } from '../../core/lineup';
import { AmountError, exponentOf, isCurrency, plainAmount, readTypedAmount } from '../../core/money';
import { COUNTRIES } from '../../core/places';
import { randomId } from '../access';
import type { OpenTill } from './snapshot';
import { snapshot } from './snapshot';

/** One offer as the form shows it. Carriers are `connection:id:method` or `offline:id:method`. */
export const OfferForm = z.object({
	revision: z.number().int().min(0).default(0),
	on: z.boolean().default(true),
	carrier: z.string().min(1, 'Choose what carries it.'),
	standby: z.string().default(''),
	name: z.string().trim().min(1, 'Give the name payers will read.').max(40, 'At most 40 characters.'),
	note: z.string().trim().max(200, 'At most 200 characters.').default(''),
	noteAfter: z.string().trim().max(200, 'At most 200 characters.').default(''),
	currencies: z.array(z.string()).default([]),
	schemes: z.array(z.string()).default([]),
	fundings: z.array(z.enum(FUNDINGS)).default([]),
	regions: z.array(z.enum(REGIONS)).default([]),
	boundCurrency: z.string().default(''),
	minimum: z.string().trim().max(30).default(''),
	maximum: z.string().trim().max(30).default(''),
	countryRule: z.enum(['any', 'only', 'except']).default('any'),
	countries: z.string().trim().max(600).default('')
});
export type OfferForm = z.infer<typeof OfferForm>;

export interface CarrierChoice {
	readonly value: string;
	readonly name: string;
	/** what payers would read, to begin with */
	readonly payerName: string;
	readonly method: Method;
	readonly currencies: readonly string[];
	readonly schemes: readonly { id: string; name: string }[];
	readonly fundings: readonly string[];
	readonly regions: readonly string[];
}

/** What may carry an offer at a till: connections of its mode, and offline methods. */
export async function carrierChoices(mode: 'test' | 'live'): Promise<CarrierChoice[]> {
	const { states, schemeNames } = await snapshot();
	const choices: CarrierChoice[] = [];
	for (const connection of Object.values(states.connections)) {
		if (connection.mode !== mode) continue;
		for (const ability of connection.abilities) {
			const types = ability.cardTypes;
			choices.push({
				value: `connection:${connection.id}:${ability.method}`,
				name:
					connection.abilities.length > 1
						? `${connection.name}: ${methodName(ability.method).toLowerCase()}`
						: connection.name,
				payerName: methodName(ability.method),
				method: ability.method as Method,
				currencies: ability.currencies,
				schemes:
					types && types.schemes !== 'any' ? types.schemes.map((id) => ({ id, name: schemeNames[id] ?? id })) : [],
				fundings: types && types.fundings !== 'any' ? types.fundings : FUNDINGS,
				regions: types && types.regions !== 'any' ? types.regions : REGIONS
			});
		}
	}
	for (const method of Object.values(states.offline))
		choices.push({
			value: `offline:${method.id}:${method.method}`,
			name: method.name,
			payerName: method.name,
			method: method.method as Method,
			currencies: method.currencies,
			schemes: [],
			fundings: [],
			regions: []
		});
	return choices;
}

const carrierOf = (value: string): Carrier => {
	const [kind, id = ''] = value.split(':');
	return { kind: kind === 'offline' ? 'offline' : 'connection', id };
};
const valueOf = ({ kind, id }: Carrier, method: Method) => `${kind}:${id}:${method}`;

export type ReadOffer = { readonly offer: Offer } | { readonly problems: { field: keyof OfferForm; says: string }[] };

/** Makes an offer of the form, or says where it cannot be. */
export async function readOffer(
	form: OfferForm,
	till: Pick<OpenTill, 'row' | 'currencies'>,
	id: string | undefined
): Promise<ReadOffer> {
	const choices = await carrierChoices(till.row.mode);
	const choice = choices.find((one) => one.value === form.carrier);
	const problems: { field: keyof OfferForm; says: string }[] = [];
	const add = (field: keyof OfferForm, says: string) => problems.push({ field, says });
	if (!choice)
		return {
			problems: [{ field: 'carrier', says: 'This route is not to be had at this till any more. Choose another.' }]
		};
	const standby = form.standby ? choices.find((one) => one.value === form.standby) : undefined;
	if (form.standby && !standby) add('standby', 'This standby is not to be had any more.');
	if (standby && (standby.method !== choice.method || standby.value === choice.value))
		add('standby', 'A standby carries the same method, and is another one.');
	const currencies = form.currencies.filter((code) => till.currencies.includes(code));
	if (!currencies.length) add('currencies', 'Choose at least one currency that the till takes.');
	const cannot = currencies.filter((code) => !choice.currencies.includes(code));
	if (cannot.length)
		add(
			'currencies',
			`${choice.name} does not carry ${cannot.join(', ')}; it carries ${choice.currencies.join(', ')}.`
		);
	const bound = (field: 'minimum' | 'maximum'): number | undefined => {
		if (!form[field]) return undefined;
		if (!isCurrency(form.boundCurrency)) {
			add('boundCurrency', 'Choose the currency of the limits.');
			return undefined;
		}
		try {
			return readTypedAmount(form[field], form.boundCurrency).amount.minor;
		} catch (error) {
			if (!(error instanceof AmountError)) throw error;
			add(field, error.message);
			return undefined;
		}
	};
	const minimum = bound('minimum');
	const maximum = bound('maximum');
	if (minimum !== undefined && maximum !== undefined && minimum > maximum)
		add('maximum', 'The largest amount is below the smallest: nobody would ever see this offer.');
	const countries = [
		...new Set(
			form.countries
				.toUpperCase()
				.split(/[^A-Z]+/)
				.filter(Boolean)
		)
	];
	if (form.countryRule !== 'any') {
		const unknown = countries.filter((code) => !COUNTRIES.includes(code));
		if (unknown.length)
			add('countries', `${unknown.join(', ')}: no such country. Write codes of two letters, such as BE NL DE.`);
		if (!countries.length) add('countries', 'Name at least one country, such as BE.');
	}
	const isCard = hasCard(choice.method) && choice.schemes.length > 0;
	if (isCard && !form.schemes.length) add('schemes', 'Choose at least one scheme.');
	if (isCard && !form.fundings.length) add('fundings', 'Choose at least one kind of funding.');
	if (isCard && !form.regions.length) add('regions', 'Choose at least one region.');
	if (problems.length) return { problems };
	// all that the account can take asks nothing of the card, so that what it does not tell is no hindrance
	const list = <T extends string>(chosen: T[], all: readonly string[]) =>
		all.length > 0 && all.every((one) => (chosen as string[]).includes(one)) ? ('any' as const) : chosen;
	return {
		offer: {
			id: id ?? randomId(),
			on: form.on,
			method: choice.method,
			name: form.name,
			note: form.note,
			noteAfter: form.noteAfter,
			routes: Object.fromEntries(
				currencies.map((code) => [
					code,
					{
						first: carrierOf(choice.value),
						...(standby && standby.currencies.includes(code) ? { standby: carrierOf(standby.value) } : {})
					}
				])
			),
			...(isCard
				? {
						cardTypes: {
							schemes: list(
								form.schemes,
								choice.schemes.map((one) => one.id)
							),
							fundings: list(form.fundings, choice.fundings),
							regions: list(form.regions, choice.regions)
						}
					}
				: {}),
			conditions: {
				amounts:
					minimum === undefined && maximum === undefined ? [] : [{ currency: form.boundCurrency, minimum, maximum }],
				...(form.countryRule !== 'any' ? { countries: { rule: form.countryRule, values: countries } } : {})
			}
		}
	};
}

/** An offer as the form shows it. */
export function offerForm(offer: Offer, choices: readonly CarrierChoice[], revision: number): OfferForm {
	const first = Object.values(offer.routes)[0];
	const choice = first && choices.find((one) => one.value === valueOf(first.first, offer.method));
	const bounds = offer.conditions.amounts[0];
	const shown = (minor: number | undefined) =>
		minor === undefined || !bounds ? '' : plainAmount({ minor, currency: bounds.currency });
	const all = <T extends string>(chosen: readonly T[] | 'any' | undefined, every: readonly string[]): T[] =>
		chosen === undefined || chosen === 'any' ? ([...every] as T[]) : [...chosen];
	return {
		revision,
		on: offer.on,
		carrier: first ? valueOf(first.first, offer.method) : '',
		standby: first?.standby ? valueOf(first.standby, offer.method) : '',
		name: offer.name,
		note: offer.note,
		noteAfter: offer.noteAfter,
		currencies: Object.keys(offer.routes),
		schemes: all(offer.cardTypes?.schemes, choice?.schemes.map((one) => one.id) ?? []),
		fundings: all(offer.cardTypes?.fundings, choice?.fundings ?? []),
		regions: all(offer.cardTypes?.regions, choice?.regions ?? []),
		boundCurrency: bounds?.currency ?? '',
		minimum: shown(bounds?.minimum),
		maximum: shown(bounds?.maximum),
		countryRule: offer.conditions.countries?.rule ?? 'any',
		countries: offer.conditions.countries?.values.join(' ') ?? ''
	};
}

/** `0.01`-like step of a currency, for hints. */
export const exampleAmount = (currency: string): string =>
	plainAmount({ minor: 20 * 10 ** exponentOf(currency), currency });
