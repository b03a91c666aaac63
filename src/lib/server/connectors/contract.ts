import type { Mandate } from '../../core/billing';
import type { ReportedCard } from '../../core/cards';
import type { RateCard } from '../../core/fees';
import type { Ability, Method } from '../../core/lineup';
import type { Amount, Rate } from '../../core/money';
import type { Dialect, Notice } from '../../core/notices';
import type { DescriptorLimits } from '../../core/references';
import type { EventKind } from '../../core/stages';

export type Mode = 'test' | 'live';

/** How one connects. */
export const WAYS = ['two keys', 'number and token', 'consent', 'consent and token'] as const;
export type Way = (typeof WAYS)[number];

/** One box of the form in which credentials are given. */
export interface CredentialField {
	readonly name: string;
	readonly label: string;
	readonly secret: boolean;
	/** where the processor shows it */
	readonly where: string;
	/** what a right value looks like */
	readonly looks: string;
}

/** Values of a connection's credentials by name; which of them are secret, `fields` and `consent` tell. */
export type Credentials = Readonly<Record<string, string>>;

/** Why credentials were not taken. The words are for the administrator. */
export interface CredentialProblem {
	readonly code:
		| 'empty'
		| 'truncated'
		| 'swapped'
		| 'mode'
		| 'unknown'
		| 'revoked'
		| 'expired'
		| 'other account'
		| 'scope'
		| 'country'
		| 'switch';
	/** the box it is about; empty when it is about none */
	readonly field: string;
	readonly says: string;
}
export const isProblems = (told: object): told is CredentialProblem[] => Array.isArray(told);

/** A method that the processor offers and this account cannot carry yet, and why. */
export interface Unable {
	readonly method: Method;
	readonly why: 'not enabled' | 'country' | 'approval';
	readonly says: string;
}

/** What a merchant account is and can do, as its processor tells. */
export interface Account {
	readonly id: string;
	readonly name: string;
	/** ISO 3166-1 alpha-2 */
	readonly country: string;
	/** ISO 4217 */
	readonly settlement: string;
	readonly timeZone: string;
	/** milliseconds since 1970 */
	readonly keyMadeAt?: number;
	readonly abilities: readonly Ability[];
	readonly unable: readonly Unable[];
	readonly schemes: readonly { readonly id: string; readonly name: string }[];
	readonly descriptor: DescriptorLimits;
	/** limits of the short form, where the processor has one */
	readonly shortDescriptor?: DescriptorLimits;
	/** processors that may not stand at one till with this one */
	readonly excludes: readonly string[];
	readonly payout: {
		readonly bankDays: number;
		readonly cutOff: string;
		/** where one can choose */
		readonly rhythms?: readonly string[];
		readonly rhythm?: string;
		/** the first payouts are held until this day, `YYYY-MM-DD` */
		readonly heldUntil?: string;
	};
	readonly refundDays: number;
	/** days that an authorisation holds, where money can be taken later */
	readonly authorisationDays?: number;
	/** for how long money may come back after it was collected: bank days by the bank, weeks by the payer */
	readonly returns?: { readonly bankDays: number; readonly weeks: number };
}

/** One thing that a processor tells happened to a payment. */
export interface Fact {
	readonly kind: EventKind;
	/** milliseconds since 1970 */
	readonly at: number;
	/** minor units of the payment's currency */
	readonly minor?: number;
	/** the processor's object that it happened to; with the kind, it is told once */
	readonly object: string;
	readonly says?: string;
}

/** The fee as charged, in minor units of the settlement currency. */
export interface ChargedFee {
	readonly currency: string;
	readonly fee: number;
	/** given back for refunds so far */
	readonly returned: number;
	/** what the processor took the fee from */
	readonly base: number;
	readonly rate?: { readonly day: string; readonly value: string };
	readonly label: string;
}

/** All that a processor tells of one payment at one moment. */
export interface Report {
	readonly processorId: string;
	/** our token of the payment, as we gave it */
	readonly ours: string;
	readonly facts: readonly Fact[];
	/** what was asked and by which method; told by a payment that was fetched */
	readonly paid?: { readonly amount: Amount; readonly method: Method };
	readonly fee?: ChargedFee;
	readonly card?: ReportedCard;
	/** why it failed, in the processor's words */
	readonly failure?: string;
	/** what a payer disputes it for, and until when it can be answered, where the processor tells; milliseconds since 1970 */
	readonly dispute?: { readonly reason: string; readonly answerBy?: number; readonly answeredAt?: number };
	/** what the payer has to do next, as long as they have not done it */
	readonly next?: NextStep;
	/** of a transfer that nobody asked for here: what its payer wrote, who they are, and from which account */
	readonly transfer?: { readonly text: string; readonly from: string; readonly iban: string };
	/** what the payer signed, of a bank debit */
	readonly mandate?: Mandate;
	/** the processor's token of the method that it keeps for the payer, or that this was paid by */
	readonly stored?: string;
}

/** What a payer has to do before money comes. */
export type NextStep =
	/** go on at a page of the processor */
	| { readonly kind: 'page'; readonly address: string }
	/** show a code to a bank's app; on a phone, switch to it. `until` is in milliseconds since 1970 */
	| { readonly kind: 'code'; readonly code: string; readonly address: string; readonly until: number }
	/** transfer to an account that the processor watches */
	| { readonly kind: 'transfer'; readonly holder: string; readonly iban: string; readonly reference: string };

/** What is answered to a dispute. */
export interface DisputeAnswer {
	readonly key: string;
	readonly processorId: string;
	readonly text: string;
	/** their content as base64 */
	readonly files: readonly { readonly name: string; readonly type: string; readonly content: string }[];
}

/** A notification that was read. Reports may lack facts that only the payment itself tells. */
export interface Notification {
	readonly eventId: string;
	readonly topic: string;
	readonly notice?: Notice | 'hello' | 'account';
	readonly reports: readonly Report[];
}

/** What became of an action: told at once, or found out later by its key. */
export type Outcome =
	| { readonly outcome: 'done'; readonly report: Report }
	| {
			readonly outcome: 'refused';
			readonly says: string;
			/** the stored method that was to be charged works no more, and never will */
			readonly storedEnded?: boolean;
	  };

export type Settled = Outcome | { readonly outcome: 'under way' } | { readonly outcome: 'never came' };

/** A payment that is asked for. */
export interface Charge {
	readonly key: string;
	readonly method: Method;
	/** of the processor's card fields; methods with a card only */
	readonly token?: string;
	/** in place of it: the token of a method that the processor keeps for this payer */
	readonly stored?: string;
	/** the payer agreed that the processor keeps what they pay by */
	readonly keep?: boolean;
	readonly amount: Amount;
	readonly ours: string;
	readonly descriptor: string;
	readonly shortDescriptor?: string;
	readonly capture: 'at once' | 'later';
	/** where the payer returns from a page of the processor */
	readonly returnTo: string;
	readonly payer: { readonly name: string; readonly mail: string; readonly country: string };
}

/** What a consent gave. */
export interface Tokens {
	readonly access: string;
	readonly refresh: string;
	/** milliseconds since 1970, as a text */
	readonly expiresAt: string;
	readonly scope: string;
}

/** Consent on the processor's own page, by OAuth 2.0 with PKCE. */
export interface Consent {
	/** what is asked for, and what would not work without it */
	readonly scopes: Readonly<Record<string, string>>;
	/** where the payer gives consent; the return address is exactly this one */
	address(asked: { state: string; challenge: string; returnTo: string; mode: Mode }): string;
	exchange(given: { code: string; verifier: string; returnTo: string }): Promise<Tokens | CredentialProblem[]>;
	refresh(credentials: Credentials): Promise<Tokens | CredentialProblem[]>;
}

/** Something to choose before an account is whole: one of several accounts, or a product tier. */
export interface Chooser {
	/** the name under which the choice is kept among the credentials */
	readonly name: string;
	readonly what: 'account' | 'tier';
	readonly help: string;
	list(credentials: Credentials, mode: Mode): Promise<Choice[] | CredentialProblem[]>;
}
export interface Choice {
	readonly id: string;
	readonly name: string;
	readonly says: string;
	/** ISO 3166-1 alpha-2, when choices differ in it */
	readonly country?: string;
}

/** A processor whose notifications are set up by hand in its own settings. */
export interface ByHand {
	/** where the address is typed and the events are ticked */
	readonly where: string;
	/** each notification under the name it has there */
	readonly names: Partial<Readonly<Record<Notice, string>>>;
	/** the credential that notifications are sealed with, if one is */
	readonly secretField?: string;
}

export type ApplicationState = 'applied' | 'in review' | 'more papers wanted' | 'open' | 'refused';

/** What the catalogue tells of a processor before one has an account there. */
export interface About {
	readonly carries: string;
	readonly methods: readonly Method[];
	readonly currencies: readonly string[];
	/** ISO 3166-1 alpha-2 of businesses that it takes */
	readonly countries: readonly string[];
	readonly paysOut: string;
	readonly charges: string;
	readonly support: string;
	readonly apply: string;
	/** fields of the business details that it asks for */
	readonly asks: readonly string[];
}

/**
 * A processor, as the application talks to it. `docs/connectors.md` describes the contract; everything of a processor's
 * own (names, exponents, dialect) ends here. Every method that asks may throw `ConnectorError`.
 */
export interface Connector {
	readonly processor: string;
	readonly name: string;
	readonly way: Way;
	/** boxes of the form; with a consent they are filled in after it */
	readonly fields: readonly CredentialField[];
	readonly consent?: Consent;
	readonly chooser?: Chooser;
	readonly dialect: Dialect;
	/** the notifications that it can send at all */
	readonly sends: readonly Notice[];
	readonly console: string;
	readonly about: About;

	/** Looks at credentials without asking anyone: form, length, check sign, kind, mode. */
	inspect(credentials: Credentials, mode: Mode): CredentialProblem[];
	/** Asks the processor whose they are, and what the account can do. */
	verify(credentials: Credentials, mode: Mode): Promise<Account | CredentialProblem[]>;
	rateCard(credentials: Credentials): Promise<{ validFrom: string; card: RateCard }>;
	/** the processor's published rates of a day */
	rates(credentials: Credentials, day: string): Promise<Rate[]>;

	/** sets notifications up in one step, where the processor has an interface for it */
	listen?(
		credentials: Credentials,
		address: string,
		notices: readonly Notice[],
		/** who is told by mail when nothing gets to the address, where `mailsTrouble` */
		troubleMail?: string
	): Promise<{ id: string; secret: string; notices: Notice[] }>;
	/** the processor mails somebody when its notifications do not get there */
	readonly mailsTrouble?: boolean;
	unlisten?(credentials: Credentials, hookId: string): Promise<void>;
	readonly byHand?: ByHand;
	/** the notifications that are switched on there now, where the processor tells; undefined when nothing is set up */
	subscribed?(credentials: Credentials, hookId: string, address: string): Promise<Notice[] | undefined>;
	/** asks for a test notification */
	sendTestNotification(credentials: Credentials, hookId: string): Promise<void>;
	/** what a notification was about, for a dialect that must be called back */
	confirm?(credentials: Credentials, eventId: string): Promise<Notification | undefined>;
	/** @throws ConnectorError of kind `nonsense` when the body is not one of this processor's notifications */
	readNotification(body: string): Notification;

	/** the page with the card fields or the wallet, at the processor's origin, for a frame on the shop's page */
	frame?(
		credentials: Credentials,
		method: Method,
		mode: Mode,
		shopOrigin: string
	): { origin: string; address: string } | undefined;
	readToken?(credentials: Credentials, token: string): Promise<ReportedCard | undefined>;
	charge(credentials: Credentials, charge: Charge): Promise<Outcome>;
	/** the methods that it can keep for a payer, who then pays by them again */
	readonly stores?: readonly Method[];
	/** ends what it keeps; a token that it does not know is ended already */
	forget?(credentials: Credentials, token: string, method: Method): Promise<void>;
	/** takes what was authorised, whole or in part */
	capture?(credentials: Credentials, action: { key: string; processorId: string; amount: Amount }): Promise<Outcome>;
	/** lets go of what was authorised */
	cancel?(credentials: Credentials, action: { key: string; processorId: string }): Promise<Outcome>;
	refund(credentials: Credentials, refund: { key: string; processorId: string; amount: Amount }): Promise<Outcome>;
	/** hands over what the shop says to a dispute, where the processor has an interface for it */
	answerDispute?(credentials: Credentials, answer: DisputeAnswer): Promise<Outcome>;
	/** What became of an action whose answer was lost. A key that never came is closed: a late request then does nothing. */
	settle(credentials: Credentials, key: string): Promise<Settled>;
	fetch(credentials: Credentials, processorId: string): Promise<Report | undefined>;

	/** ends these credentials at the processor */
	retire?(credentials: Credentials): Promise<void>;
	/** chooses among `account.payout.rhythms` */
	setRhythm?(credentials: Credentials, rhythm: string): Promise<void>;
	/** proof that a web domain is the business's own, which the device wallet needs */
	readonly proof?: {
		readonly method: Method;
		file(credentials: Credentials, domain: string): Promise<{ path: string; content: string }>;
		/** lets the processor look; empty when it is proven, else why not */
		look(credentials: Credentials, domain: string): Promise<string>;
	};
	/** code that a method wants on the shop's page, and the text by which its presence is known */
	readonly pageCode?: {
		readonly method: Method;
		code(credentials: Credentials): Promise<{ html: string; mark: string }>;
	};
	/** how far an application for an account has come */
	readonly application?: {
		readonly numberLooks: string;
		state(number: string, mail: string): Promise<{ state: ApplicationState; papers: string[] } | undefined>;
	};
}

/** A technical failure: no decline, no refusal. */
export class ConnectorError extends Error {
	constructor(
		readonly kind: 'unreachable' | 'slow' | 'broken' | 'nonsense' | 'refused',
		message: string,
		/** whether the request may have been acted on all the same */
		readonly mayHaveActed = false
	) {
		super(message);
	}
}
