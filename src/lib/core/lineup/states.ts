import type { CardTypes } from '../cards';
import type { EntryMode } from '../fees';
import type { Currency, Rate } from '../money';

/** What one account can carry of one method, as the processor tells. */
export interface Ability {
	readonly method: string;
	readonly currencies: readonly Currency[];
	readonly entries: readonly EntryMode[];
	readonly cardTypes?: CardTypes;
	/** bounds of the account itself, in minor units, per currency */
	readonly limits: readonly { currency: Currency; minimum?: number; maximum?: number }[];
	/** page code that the method wants on the shop's page */
	readonly wantsPageCode?: boolean;
	/** whether a domain must be proven first */
	readonly wantsDomainProof?: boolean;
}

export interface ConnectionState {
	readonly id: string;
	readonly name: string;
	readonly processor: string;
	readonly mode: 'test' | 'live';
	readonly verified: boolean;
	readonly paused: boolean;
	readonly failing: boolean;
	readonly abilities: readonly Ability[];
	/** processors that may not stand at one till with this one */
	readonly excludes: readonly string[];
}

export interface OfflineState {
	readonly id: string;
	readonly name: string;
	readonly method: string;
	readonly paused: boolean;
	readonly currencies: readonly Currency[];
	/** its own threshold, and the one common to all offline methods */
	readonly thresholds: readonly { currency: Currency; minimum: number; common: boolean }[];
}

/** All that an answer depends on beside line-up and context. */
export interface States {
	readonly connections: Readonly<Record<string, ConnectionState>>;
	readonly offline: Readonly<Record<string, OfflineState>>;
	readonly pausedMethods: readonly string[];
	readonly pausedSchemes?: readonly string[];
	readonly pausedCurrencies?: readonly Currency[];
	readonly rates: readonly Rate[];
	readonly homeCurrency: Currency;
	/** domain → connections at which it is proven */
	readonly provenDomains: Readonly<Record<string, readonly string[]>>;
	/** domain → connections whose page code is there */
	readonly pageCodes: Readonly<Record<string, readonly string[]>>;
}

/** One payer at one till, at one moment. What is not known is left out. */
export interface Context {
	readonly mode: 'test' | 'live';
	readonly tillCurrencies: readonly Currency[];
	readonly currency: Currency;
	/** minor units */
	readonly minor: number;
	readonly country?: string;
	readonly groups?: readonly string[];
	readonly goods?: string;
	readonly delivery?: string;
	readonly recurring: boolean;
	readonly orderedBy: 'page' | 'interface';
	readonly hasOnlineMethod?: boolean;
	readonly domain?: string;
	readonly entry: EntryMode;
	/** `YYYY-MM-DD`, for the rates */
	readonly day: string;
}
