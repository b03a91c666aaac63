import type { RateCard } from '../rateCard';
import { priceBands } from './bands';
import type { PaymentColumns } from './columns';
import { priceFlat } from './flat';
import { pricingOf } from './single';
import { tablesOf } from './tables';
import { priceWhole } from './whole';

export * from './columns';

/**
 * Prices columns, exactly as `priceOne` does, without workings. A card with bands prices each payment by the volume of
 * its month before it; one with `whole` tiers by the tier that its month reached, which is what the month came to.
 * Works in whole millionths of a minor unit as long as they are exact in a double, and through `priceOne` beyond.
 * @param fees filled with minor units of the settlement currency, or `UNPRICED`
 * @param bases filled with what each fee was taken from, in minor units of the settlement currency, where given
 */
export function priceColumns(card: RateCard, columns: PaymentColumns, fees: Float64Array, bases?: Float64Array): void {
	const pricing = pricingOf(card, columns);
	const steps = card.tiers?.steps ?? [];
	const tiers = [card.lines, ...steps.map((step) => step.lines)].map((lines) => tablesOf(card, lines, columns.kinds));
	if (!card.tiers || !columns.month) {
		priceFlat(pricing, tiers[0]!, fees, bases);
		return;
	}
	const tierAt = (volume: number) => {
		let tier = 0;
		while (tier < steps.length && volume >= steps[tier]!.from) tier++;
		return tier;
	};
	if (card.tiers.way === 'whole') priceWhole(pricing, tiers, tierAt, fees, bases);
	else priceBands(pricing, tiers, tierAt, fees, bases ?? new Float64Array(columns.kind.length));
}
