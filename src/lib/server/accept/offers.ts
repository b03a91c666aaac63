import { FUNDINGS, REGIONS } from '../../core/cards';
import {
	methodName,
	readOfferForm,
	type CarrierChoice,
	type Method,
	type OfferForm,
	type ReadOffer
} from '../../core/lineup';
import { randomId } from '../access';
import type { OpenTill } from './snapshot';
import { snapshot } from './snapshot';

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

/** Makes an offer of the form, or says where it cannot be. */
export const readOffer = async (
	form: OfferForm,
	till: Pick<OpenTill, 'row' | 'currencies'>,
	id: string | undefined,
	locale: string
): Promise<ReadOffer> =>
	readOfferForm(form, till.currencies, await carrierChoices(till.row.mode), id ?? randomId(), locale);
