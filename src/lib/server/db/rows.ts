/** One row of each table, as the use cases see it. Flags are 0 or 1; texts that hold JSON are read through Zod. */
export interface BusinessRow {
	id: 1;
	name: string;
	country: string;
	homeCurrency: string;
	timeZone: string;
	details: string;
	offlineMinimum: number | null;
	updatedAt: number;
}
export interface UserRow {
	id: string;
	mail: string;
	name: string;
	role: string;
	passwordHash: string;
	createdAt: number;
}
export interface SessionRow {
	tokenHash: string;
	userId: string;
	createdAt: number;
	expiresAt: number;
}
export interface ConnectionRow {
	id: string;
	processor: string;
	name: string;
	mode: 'test' | 'live';
	accountId: string;
	accountName: string;
	accountCountry: string;
	settlement: string;
	timeZone: string;
	given: string;
	secretSealed: string;
	secretLast4: string;
	keyMadeAt: number | null;
	hookKey: string;
	hookId: string | null;
	hookSecretSealed: string | null;
	hookNotices: string;
	hookHeardAt: number | null;
	account: string;
	accountReadAt: number;
	descriptor: string;
	shortDescriptor: string;
	capture: 'at once' | 'later';
	bankAccountId: string | null;
	expectedDays: number | null;
	cutOff: string;
	bankCalendar: string;
	clearingAccount: string;
	feeAccount: string;
	oldGiven: string | null;
	oldSecretSealed: string | null;
	oldSecretLast4: string | null;
	oldHookSecretSealed: string | null;
	oldUntil: number | null;
	hookTicked: string;
	verified: number;
	paused: number;
	failing: number;
	createdAt: number;
	removedAt: number | null;
}
export interface ConnectionChangeRow {
	id: number;
	connectionId: string;
	at: number;
	change: string;
	why: string;
}
export interface RateCardRow {
	id: number;
	connectionId: string;
	validFrom: string;
	card: string;
	source: string;
	createdAt: number;
	/** null until an administrator has confirmed what was read */
	confirmedAt: number | null;
	confirmedBy: string;
}
export interface ExchangeRateRow {
	day: string;
	fromCurrency: string;
	toCurrency: string;
	source: string;
	rate: string;
}
export interface OfflineMethodRow {
	id: string;
	kind: string;
	name: string;
	instructions: string;
	afterNote: string;
	holder: string;
	iban: string;
	bic: string;
	currencies: string;
	referenceStyle: string;
	pictureCode: string;
	followUp: string;
	transferCode: number;
	termDays: number;
	threshold: string;
	paused: number;
	createdAt: number;
	removedAt: number | null;
}
export interface TillRow {
	id: string;
	slug: string;
	name: string;
	kind: string;
	mode: 'test' | 'live';
	currencies: string;
	colour: string;
	fulfil: string;
	domain: string;
	brandId: string | null;
	settings: string;
	signingKeySealed: string;
	createdAt: number;
}
export interface LineUpRow {
	id: number;
	tillId: string;
	number: number | null;
	state: 'draft' | 'published' | 'replaced';
	offers: string;
	basedOn: number | null;
	revision: number;
	byUser: string;
	at: number;
	reason: string;
}
export interface CheckoutRow {
	id: number;
	tillId: string;
	sign: string;
	reference: string;
	currency: string;
	minor: number;
	name: string;
	mail: string;
	country: string;
	purpose: string;
	/** goods, delivery, domain and the like, as JSON */
	more: string;
	createdAt: number;
}
export interface PaymentRow {
	id: number;
	token: string;
	checkoutId: number;
	tillId: string;
	version: number;
	offerId: string;
	offerName: string;
	method: string;
	mode: 'test' | 'live';
	connectionId: string | null;
	offlineId: string | null;
	standby: number;
	processorId: string | null;
	reference: string;
	creditorReference: string;
	payerName: string;
	payerMail: string;
	currency: string;
	minor: number;
	card: string | null;
	stage: string;
	notches: number;
	broken: number;
	live: number;
	taken: number;
	refunded: number;
	refundable: number;
	failure: string;
	feeCurrency: string | null;
	expectedFee: number | null;
	chargedFee: number | null;
	chargedDetail: string | null;
	baseMinor: number | null;
	net: number | null;
	capturedAt: number | null;
	next: string | null;
	accountId: string | null;
	details: string;
	trialId: string | null;
	createdAt: number;
}
export interface PaymentEventRow {
	id: number;
	paymentId: number;
	kind: string;
	at: number;
	minor: number | null;
	object: string;
	source: string;
	detail: string;
	dedupe: string;
	heardAt: number;
}
export interface ActionRow {
	key: string;
	paymentId: number;
	act: 'charge' | 'refund' | 'capture' | 'cancel';
	content: string;
	minor: number;
	state: 'unknown' | 'done' | 'refused';
	says: string;
	nextAt: number;
	tries: number;
	createdAt: number;
}
export interface ArrivalRow {
	id: number;
	connectionId: string;
	eventId: string;
	receivedAt: number;
	headers: string;
	body: string;
	checks: string;
	state: 'stored' | 'unconfirmed' | 'retry' | 'stuck' | 'done';
	tries: number;
	nextAt: number;
	topic: string;
	says: string;
	paymentId: number | null;
	doneAt: number | null;
}
export interface RefusedArrivalRow {
	connectionId: string;
	day: string;
	reason: string;
	count: number;
	lastAt: number;
}
export interface UnmetRow {
	id: number;
	tillId: string;
	at: number;
	kind: 'nothing offered' | 'card type';
	currency: string;
	minor: number;
	reference: string;
	context: string;
}
export interface AuditRow {
	id: number;
	at: number;
	userName: string;
	objectKind: string;
	objectId: string;
	objectName: string;
	act: string;
	before: string | null;
	after: string | null;
}
export interface BrandRow {
	id: string;
	name: string;
	country: string;
	homeCurrency: string;
	colour: string;
	statementName: string;
	createdAt: number;
	removedAt: number | null;
}
export interface BankAccountRow {
	id: string;
	name: string;
	holder: string;
	iban: string;
	bic: string;
	currency: string;
	createdAt: number;
	removedAt: number | null;
}
export interface LedgerAccountRow {
	number: string;
	name: string;
	kind: string;
}
export interface DomainRow {
	domain: string;
	page: string;
	createdAt: number;
}
export interface DomainProofRow {
	domain: string;
	connectionId: string;
	path: string;
	content: string;
	state: 'missing' | 'proven' | 'failing';
	says: string;
	lookedAt: number | null;
}
export interface PageCodeRow {
	domain: string;
	connectionId: string;
	state: 'present' | 'missing';
	says: string;
	lookedAt: number;
}
export interface ApplicationRow {
	id: string;
	processor: string;
	number: string;
	mail: string;
	state: string;
	papers: string;
	says: string;
	askedAt: number;
	createdAt: number;
	removedAt: number | null;
}
export interface ConnectDraftRow {
	id: string;
	processor: string;
	mode: 'test' | 'live';
	userId: string;
	connectionId: string | null;
	given: string;
	secretSealed: string | null;
	hookKey: string;
	stateHash: string | null;
	browserHash: string | null;
	verifierSealed: string | null;
	says: string;
	changedAt: number;
}
export interface AbilityChangeRow {
	id: number;
	connectionId: string;
	at: number;
	says: string;
	seenAt: number | null;
}
export interface SettlementFileRow {
	id: number;
	name: string;
	processor: string;
	digest: string;
	count: number;
	fresh: number;
	/** declined attempts that were new */
	declined: number;
	takenAt: number;
	byUser: string;
}
export interface SettledPaymentRow {
	id: number;
	fileId: number;
	processor: string;
	processorId: string;
	source: string;
	capturedAt: number;
	method: string;
	currency: string;
	minor: number;
	entry: string;
	scheme: string;
	funding: string;
	issuer: string;
	feeCurrency: string;
	fee: number;
	base: number;
	refunded: number;
	disputed: number;
	/** when the payer ordered, where that was before the capture and is told */
	orderedAt: number | null;
}
export interface DeclinedAttemptRow {
	id: number;
	fileId: number;
	processor: string;
	processorId: string;
	source: string;
	at: number;
	method: string;
	currency: string;
	minor: number;
	entry: string;
	scheme: string;
	funding: string;
	issuer: string;
	feeCurrency: string;
	fee: number;
	reason: string;
}
export interface CandidateRow {
	id: string;
	name: string;
	processor: string;
	methods: string;
	currencies: string;
	paysOutDays: number;
	card: string;
	note: string;
	createdAt: number;
	removedAt: number | null;
}

export interface PayerGroupRow {
	id: string;
	name: string;
	createdAt: number;
}
export interface PayerRow {
	id: string;
	name: string;
	mail: string;
	country: string;
	/** 1 has an online method, 0 has none, null not known */
	onlineMethod: number | null;
	createdAt: number;
}
export interface PayerMembershipRow {
	payerId: string;
	groupId: string;
}
export interface PauseRow {
	id: string;
	kind: 'connection' | 'method' | 'scheme' | 'currency';
	value: string;
	until: number | null;
	reason: string;
	byUser: string;
	at: number;
	endedAt: number | null;
}
export interface TemplateRow {
	id: string;
	name: string;
	offers: string;
	byUser: string;
	at: number;
}
export interface TrialRow {
	id: string;
	tillId: string;
	versionId: number;
	state: string;
	revision: number;
	offers: string;
	outcome: string;
	query: string;
	byUser: string;
	at: number;
	paymentId: number | null;
}
export interface TokenRow {
	id: string;
	name: string;
	hash: string;
	last4: string;
	byUser: string;
	createdAt: number;
	usedAt: number | null;
	revokedAt: number | null;
}
