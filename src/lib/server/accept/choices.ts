import { snapshot } from './snapshot';

const USUAL = ['EUR', 'GBP', 'USD', 'CHF', 'JPY'];

/** Currencies to choose from: the home currency first, then what connections and offline methods carry, then the usual ones. */
export async function currencyChoices(): Promise<string[]> {
	const { states } = await snapshot();
	const carried = [
		...Object.values(states.connections).flatMap((one) => one.abilities.flatMap((ability) => ability.currencies)),
		...Object.values(states.offline).flatMap((one) => one.currencies)
	];
	return [...new Set([states.homeCurrency, ...carried, ...USUAL])];
}
