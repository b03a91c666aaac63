import { FUNDINGS, REGIONS, UNKNOWN } from '../cards';
import { kindOf } from './price';
import { costOf, hasInterchange, lineFor, type EntryMode, type Kind, type RateCard, type RateLine } from './rateCard';

/** The kinds of payment that an account can carry, as a check of its rate card asks about them. */
export interface Carried {
	readonly method: string;
	readonly currencies: readonly string[];
	readonly entries: readonly EntryMode[];
	/** empty for a method without cards */
	readonly schemes: readonly string[];
}

/** Something that is wrong with a rate card, for one kind of payment. */
export interface CardTrouble {
	readonly trouble: 'ambiguous' | 'uncovered' | 'no cost';
	readonly kind: Kind;
	/** 0 for the first tier */
	readonly tier: number;
	/** the lines that fit equally well */
	readonly lines: readonly RateLine[];
}

/**
 * Finds every kind of payment that a card cannot price: two best lines, no line, or no cost. Kinds that differ only in
 * what no line asks for are one, and are told once.
 */
export function checkCard(card: RateCard, carried: readonly Carried[]): CardTrouble[] {
	const troubles: CardTrouble[] = [];
	const tiers = [card.lines, ...(card.tiers?.steps.map((step) => step.lines) ?? [])];
	const all = tiers.flat();
	const asks = (part: keyof RateLine['when']) => all.some((line) => line.when[part] !== undefined);
	for (const { method, currencies, entries, schemes } of carried) {
		const one = <T>(list: readonly T[], asked: boolean): readonly T[] => (asked ? list : list.slice(0, 1));
		const costs = hasInterchange(card, { method });
		for (const scheme of schemes.length ? one(schemes, asks('scheme') || costs) : [UNKNOWN])
			for (const funding of schemes.length ? one(FUNDINGS, asks('funding') || costs) : [UNKNOWN])
				for (const region of schemes.length ? one(REGIONS, asks('region') || costs) : [UNKNOWN])
					for (const currency of one(currencies, asks('currency')))
						for (const entry of one(entries, asks('entry'))) {
							const kind = kindOf({ method, currency, scheme, funding, region, entry });
							tiers.forEach((lines, tier) => {
								const choice = lineFor({ lines }, kind);
								if (choice.found === 'ambiguous')
									troubles.push({ trouble: 'ambiguous', kind, tier, lines: choice.indexes.map((at) => lines[at]!) });
								if (choice.found === 'none') troubles.push({ trouble: 'uncovered', kind, tier, lines: [] });
							});
							if (costs && !costOf(card, kind)) troubles.push({ trouble: 'no cost', kind, tier: 0, lines: [] });
						}
	}
	return troubles;
}
