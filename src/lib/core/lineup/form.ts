import { z } from 'zod';
import { FUNDINGS, REGIONS } from '../cards';
import { AmountError, exponentOf, isCurrency, plainAmount, readTypedAmount } from '../money';
import { COUNTRIES } from '../places';
import {
	CAPTURES,
	OFFER_LANGUAGES,
	PLACES,
	type AmountBounds,
	type Carrier,
	type Offer,
	type RouteChoice
} from './lineup';
import { hasCard, methodName, type Method } from './methods';

/** One offer as the form shows it. Carriers are `connection:id:method` or `offline:id:method`. */
export const OfferForm = z.object({
	revision: z.number().int().min(0).default(0),
	on: z.boolean().default(true),
	carrier: z.string().min(1, 'Choose what carries it.'),
	standby: z.string().default(''),
	name: z.string().trim().min(1, 'Give the name payers will read.').max(40, 'At most 40 characters.'),
	note: z.string().trim().max(200, 'At most 200 characters.').default(''),
	noteAfter: z.string().trim().max(200, 'At most 200 characters.').default(''),
	/** further languages, and what the offer says in each, at the same place of the lists; empty says it as in the first */
	textLanguages: z.array(z.enum(OFFER_LANGUAGES)).default([]),
	textNames: z.array(z.string().trim().max(40, 'At most 40 characters.')).default([]),
	textNotes: z.array(z.string().trim().max(200, 'At most 200 characters.')).default([]),
	textNotesAfter: z.array(z.string().trim().max(200, 'At most 200 characters.')).default([]),
	currencies: z.array(z.string()).default([]),
	schemes: z.array(z.string()).default([]),
	fundings: z.array(z.enum(FUNDINGS)).default([]),
	regions: z.array(z.enum(REGIONS)).default([]),
	boundCurrency: z.string().default(''),
	minimum: z.string().trim().max(30).default(''),
	maximum: z.string().trim().max(30).default(''),
	countryRule: z.enum(['any', 'only', 'except']).default('any'),
	countries: z.string().trim().max(600).default(''),
	/** another route for one currency: `GBP first connection:id:card`, `GBP standby none` */
	overrides: z.array(z.string()).default([]),
	/** further limits: currency, smallest and largest amount of each, at the same place of the three lists */
	moreCurrencies: z.array(z.string().max(3)).max(40).default([]),
	moreFrom: z.array(z.string().trim().max(30)).max(40).default([]),
	moreTo: z.array(z.string().trim().max(30)).max(40).default([]),
	groupRule: z.enum(['any', 'only', 'except']).default('any'),
	groups: z.array(z.string()).default([]),
	goodsRule: z.enum(['any', 'only', 'except']).default('any'),
	goods: z.string().trim().max(400).default(''),
	deliveryRule: z.enum(['any', 'only', 'except']).default('any'),
	delivery: z.string().trim().max(400).default(''),
	recurrence: z.enum(['', 'one-time', 'recurring']).default(''),
	orderedBy: z.enum(['', 'page', 'interface']).default(''),
	withoutOnlineMethod: z.boolean().default(false),
	domainRule: z.enum(['any', 'only', 'except']).default('any'),
	domains: z.array(z.string()).default([]),
	capture: z.enum(CAPTURES).default('as the account'),
	storing: z.boolean().default(false),
	place: z.enum(PLACES).default('in the page')
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

const carrierOf = (value: string): Carrier => {
	const [kind, id = ''] = value.split(':');
	return { kind: kind === 'offline' ? 'offline' : 'connection', id };
};
const valueOf = ({ kind, id }: Carrier, method: Method) => `${kind}:${id}:${method}`;

export type ReadOffer = { readonly offer: Offer } | { readonly problems: { field: keyof OfferForm; says: string }[] };

/** Makes an offer of the form, or says where it cannot be. */
export function readOfferForm(
	form: OfferForm,
	tillCurrencies: readonly string[],
	choices: readonly CarrierChoice[],
	id: string,
	locale?: string
): ReadOffer {
	const choice = choices.find((one) => one.value === form.carrier);
	const problems: { field: keyof OfferForm; says: string }[] = [];
	const add = (field: keyof OfferForm, says: string) => problems.push({ field, says });
	if (!choice)
		return {
			problems: [{ field: 'carrier', says: 'This route cannot be used at this till any more. Choose another.' }]
		};
	const standby = form.standby ? choices.find((one) => one.value === form.standby) : undefined;
	if (form.standby && !standby) add('standby', 'This standby cannot be used any more.');
	if (standby && (standby.method !== choice.method || standby.value === choice.value))
		add('standby', 'A standby carries the same method, and is another one.');
	const currencies = form.currencies.filter((code) => tillCurrencies.includes(code));
	if (!currencies.length) add('currencies', 'Choose at least one currency that the till takes.');
	const override = (code: string, side: 'first' | 'standby'): string | undefined => {
		const found = form.overrides.find((one) => one.startsWith(`${code} ${side} `));
		return found?.slice(`${code} ${side} `.length);
	};
	/** the route of one currency: the offer's, or another one that was chosen for it */
	const routeOf = (code: string): RouteChoice => {
		const wanted = override(code, 'first');
		const other = wanted ? choices.find((one) => one.value === wanted) : undefined;
		if (wanted && (!other || other.method !== choice.method))
			add('overrides', `${code}: this route cannot be used for ${methodName(choice.method).toLowerCase()}.`);
		const first = other ?? choice;
		if (!first.currencies.includes(code))
			add('currencies', `${first.name} does not carry ${code}; it carries ${first.currencies.join(', ')}.`);
		const beside = override(code, 'standby');
		let second = standby;
		if (beside === 'none') second = undefined;
		else if (beside) {
			second = choices.find((one) => one.value === beside);
			if (!second || second.method !== choice.method || second.value === first.value)
				add('overrides', `${code}: a standby carries the same method, and is another one.`);
			else if (!second.currencies.includes(code)) add('overrides', `${code}: ${second.name} does not carry it.`);
		}
		return {
			first: carrierOf(first.value),
			...(second && second.value !== first.value && second.currencies.includes(code)
				? { standby: carrierOf(second.value) }
				: {})
		};
	};
	const bound = (field: 'minimum' | 'maximum'): number | undefined => {
		if (!form[field]) return undefined;
		if (!isCurrency(form.boundCurrency)) {
			add('boundCurrency', 'Choose the currency of the limits.');
			return undefined;
		}
		try {
			return readTypedAmount(form[field], form.boundCurrency, { locale }).amount.minor;
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
	const routes = Object.fromEntries(currencies.map((code): [string, RouteChoice] => [code, routeOf(code)]));
	const amounts = [
		...(minimum === undefined && maximum === undefined ? [] : [{ currency: form.boundCurrency, minimum, maximum }]),
		...furtherBounds(form, locale, (says) => add('moreCurrencies', says))
	];
	for (const { currency } of amounts)
		if (!tillCurrencies.includes(currency))
			add(
				'moreCurrencies',
				`The till takes ${tillCurrencies.join(', ')}, so a limit in ${currency} would never count.`
			);
	if (new Set(amounts.map((one) => one.currency)).size < amounts.length)
		add('moreCurrencies', 'Two limits are for one currency.');
	const words = (text: string) => [
		...new Set(
			text
				.split(/[,;\n]+/)
				.map((one) => one.trim())
				.filter(Boolean)
		)
	];
	const listed = (
		rule: 'any' | 'only' | 'except',
		values: string[],
		field: keyof OfferForm,
		empty: string
	): { rule: 'only' | 'except'; values: string[] } | undefined => {
		if (rule === 'any') return undefined;
		if (!values.length) add(field, empty);
		return { rule, values };
	};
	const groups = listed(form.groupRule, form.groups, 'groups', 'Choose at least one group.');
	const goods = listed(form.goodsRule, words(form.goods), 'goods', 'Name at least one kind of goods.');
	const delivery = listed(form.deliveryRule, words(form.delivery), 'delivery', 'Name at least one kind of delivery.');
	const domains = listed(form.domainRule, form.domains, 'domains', 'Choose at least one domain.');
	if (problems.length) return { problems };
	// all that the account can take asks nothing of the card, so that what it does not tell is no hindrance
	const list = <T extends string>(chosen: T[], all: readonly string[]) =>
		all.length > 0 && all.every((one) => (chosen as string[]).includes(one)) ? ('any' as const) : chosen;
	return {
		offer: {
			id,
			on: form.on,
			method: choice.method,
			name: form.name,
			note: form.note,
			noteAfter: form.noteAfter,
			...textsOf(form),
			routes,
			capture: form.capture,
			storing: form.storing,
			place: form.place,
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
				amounts,
				...(form.countryRule !== 'any' ? { countries: { rule: form.countryRule, values: countries } } : {}),
				...(groups ? { groups } : {}),
				...(goods ? { goods } : {}),
				...(delivery ? { delivery } : {}),
				...(domains ? { domains } : {}),
				...(form.recurrence ? { recurrence: form.recurrence } : {}),
				...(form.orderedBy ? { orderedBy: form.orderedBy } : {}),
				...(form.withoutOnlineMethod ? { withoutOnlineMethod: true } : {})
			}
		}
	};
}

/** What the form says in further languages; a language without a word of its own is left out. */
function textsOf(form: OfferForm): Pick<Offer, 'texts'> {
	const texts = form.textLanguages.flatMap((language, at) => {
		const own = {
			...(form.textNames[at] ? { name: form.textNames[at] } : {}),
			...(form.textNotes[at] ? { note: form.textNotes[at] } : {}),
			...(form.textNotesAfter[at] ? { noteAfter: form.textNotesAfter[at] } : {})
		};
		return Object.keys(own).length ? [[language, own] as const] : [];
	});
	return texts.length ? { texts: Object.fromEntries(texts) } : {};
}

/** Reads further limits, one currency each; one without any sum is none. */
function furtherBounds(
	{ moreCurrencies, moreFrom, moreTo }: Pick<OfferForm, 'moreCurrencies' | 'moreFrom' | 'moreTo'>,
	locale: string | undefined,
	wrong: (says: string) => void
): AmountBounds[] {
	const found: AmountBounds[] = [];
	moreCurrencies.forEach((currency, at) => {
		const [from, to] = [moreFrom[at] ?? '', moreTo[at] ?? ''];
		if (!from && !to) return;
		if (!isCurrency(currency)) return wrong(`“${currency}” is no currency: choose one for this limit.`);
		try {
			const minor = (text: string) => (text ? readTypedAmount(text, currency, { locale }).amount.minor : undefined);
			const bounds = { currency, minimum: minor(from), maximum: minor(to) };
			if (bounds.minimum !== undefined && bounds.maximum !== undefined && bounds.minimum > bounds.maximum)
				wrong(`${currency}: the largest amount is below the smallest.`);
			else found.push(bounds);
		} catch (error) {
			if (!(error instanceof AmountError)) throw error;
			wrong(`${currency}: ${error.message}`);
		}
	});
	return found;
}

/** An offer as the form shows it. */
export function offerForm(offer: Offer, choices: readonly CarrierChoice[], revision: number): OfferForm {
	const first = Object.values(offer.routes)[0];
	const choice = first && choices.find((one) => one.value === valueOf(first.first, offer.method));
	const bounds = offer.conditions.amounts[0];
	const languages = OFFER_LANGUAGES.filter((one) => offer.texts?.[one]);
	const further = offer.conditions.amounts.slice(1);
	const plain = (minor: number | undefined, currency: string) =>
		minor === undefined ? '' : plainAmount({ minor, currency });
	const shown = (minor: number | undefined) => (bounds ? plain(minor, bounds.currency) : '');
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
		textLanguages: languages,
		textNames: languages.map((one) => offer.texts?.[one]?.name ?? ''),
		textNotes: languages.map((one) => offer.texts?.[one]?.note ?? ''),
		textNotesAfter: languages.map((one) => offer.texts?.[one]?.noteAfter ?? ''),
		currencies: Object.keys(offer.routes),
		schemes: all(offer.cardTypes?.schemes, choice?.schemes.map((one) => one.id) ?? []),
		fundings: all(offer.cardTypes?.fundings, choice?.fundings ?? []),
		regions: all(offer.cardTypes?.regions, choice?.regions ?? []),
		boundCurrency: bounds?.currency ?? '',
		minimum: shown(bounds?.minimum),
		maximum: shown(bounds?.maximum),
		countryRule: offer.conditions.countries?.rule ?? 'any',
		countries: offer.conditions.countries?.values.join(' ') ?? '',
		overrides: overridesOf(offer),
		moreCurrencies: further.map((one) => one.currency),
		moreFrom: further.map(({ currency, minimum }) => plain(minimum, currency)),
		moreTo: further.map(({ currency, maximum }) => plain(maximum, currency)),
		groupRule: offer.conditions.groups?.rule ?? 'any',
		groups: offer.conditions.groups?.values ?? [],
		goodsRule: offer.conditions.goods?.rule ?? 'any',
		goods: offer.conditions.goods?.values.join(', ') ?? '',
		deliveryRule: offer.conditions.delivery?.rule ?? 'any',
		delivery: offer.conditions.delivery?.values.join(', ') ?? '',
		recurrence: offer.conditions.recurrence ?? '',
		orderedBy: offer.conditions.orderedBy ?? '',
		withoutOnlineMethod: offer.conditions.withoutOnlineMethod ?? false,
		domainRule: offer.conditions.domains?.rule ?? 'any',
		domains: offer.conditions.domains?.values ?? [],
		capture: offer.capture,
		storing: offer.storing,
		place: offer.place
	};
}

/** What differs by currency from the route of the first. */
function overridesOf(offer: Offer): string[] {
	const [first, ...others] = Object.entries(offer.routes);
	if (!first) return [];
	const same = (a: Carrier | undefined, b: Carrier | undefined) => a?.kind === b?.kind && a?.id === b?.id;
	return others.flatMap(([code, route]) => [
		...(same(route.first, first[1].first) ? [] : [`${code} first ${valueOf(route.first, offer.method)}`]),
		...(same(route.standby, first[1].standby)
			? []
			: [`${code} standby ${route.standby ? valueOf(route.standby, offer.method) : 'none'}`])
	]);
}

/** `0.01`-like step of a currency, for hints. */
export const exampleAmount = (currency: string): string =>
	plainAmount({ minor: 20 * 10 ** exponentOf(currency), currency });
