import type * as rows from './rows';
import { table } from './table';

export const business = table<rows.BusinessRow>(
	'business',
	{
		id: 'whole',
		name: 'text',
		country: 'text',
		homeCurrency: 'text',
		timeZone: 'text',
		details: 'text',
		offlineMinimum: 'whole',
		updatedAt: 'whole'
	},
	['id']
);
export const users = table<rows.UserRow>(
	'users',
	{
		id: 'text',
		mail: 'text',
		name: 'text',
		role: 'text',
		passwordHash: 'text',
		createdAt: 'whole'
	},
	['id']
);
export const sessions = table<rows.SessionRow>(
	'sessions',
	{
		tokenHash: 'text',
		userId: 'text',
		createdAt: 'whole',
		expiresAt: 'whole'
	},
	['tokenHash']
);
export const connections = table<rows.ConnectionRow>(
	'connections',
	{
		id: 'text',
		processor: 'text',
		name: 'text',
		mode: 'text',
		accountId: 'text',
		accountName: 'text',
		accountCountry: 'text',
		settlement: 'text',
		timeZone: 'text',
		given: 'text',
		secretSealed: 'text',
		secretLast4: 'text',
		keyMadeAt: 'whole',
		hookKey: 'text',
		hookId: 'text',
		hookSecretSealed: 'text',
		hookNotices: 'text',
		hookHeardAt: 'whole',
		account: 'text',
		accountReadAt: 'whole',
		descriptor: 'text',
		shortDescriptor: 'text',
		capture: 'text',
		bankAccountId: 'text',
		expectedDays: 'whole',
		cutOff: 'text',
		bankCalendar: 'text',
		clearingAccount: 'text',
		feeAccount: 'text',
		oldGiven: 'text',
		oldSecretSealed: 'text',
		oldSecretLast4: 'text',
		oldHookSecretSealed: 'text',
		oldUntil: 'whole',
		hookTicked: 'text',
		verified: 'whole',
		paused: 'whole',
		failing: 'whole',
		createdAt: 'whole',
		removedAt: 'whole'
	},
	['id']
);
export const connectionChanges = table<rows.ConnectionChangeRow>(
	'connection_changes',
	{
		id: 'whole',
		connectionId: 'text',
		at: 'whole',
		change: 'text',
		why: 'text'
	},
	['id'],
	true
);
export const rateCards = table<rows.RateCardRow>(
	'rate_cards',
	{
		id: 'whole',
		connectionId: 'text',
		validFrom: 'text',
		card: 'text',
		source: 'text',
		createdAt: 'whole',
		confirmedAt: 'whole',
		confirmedBy: 'text'
	},
	['id'],
	true
);
export const exchangeRates = table<rows.ExchangeRateRow>(
	'exchange_rates',
	{
		day: 'text',
		fromCurrency: 'text',
		toCurrency: 'text',
		source: 'text',
		rate: 'text'
	},
	['day', 'fromCurrency', 'toCurrency', 'source']
);
export const offlineMethods = table<rows.OfflineMethodRow>(
	'offline_methods',
	{
		id: 'text',
		kind: 'text',
		name: 'text',
		instructions: 'text',
		afterNote: 'text',
		holder: 'text',
		iban: 'text',
		bic: 'text',
		currencies: 'text',
		referenceStyle: 'text',
		pictureCode: 'text',
		followUp: 'text',
		transferCode: 'whole',
		termDays: 'whole',
		threshold: 'text',
		paused: 'whole',
		createdAt: 'whole',
		removedAt: 'whole'
	},
	['id']
);
export const tills = table<rows.TillRow>(
	'tills',
	{
		id: 'text',
		slug: 'text',
		name: 'text',
		kind: 'text',
		mode: 'text',
		currencies: 'text',
		colour: 'text',
		fulfil: 'text',
		domain: 'text',
		brandId: 'text',
		settings: 'text',
		signingKeySealed: 'text',
		createdAt: 'whole'
	},
	['id']
);
export const lineUps = table<rows.LineUpRow>(
	'lineup_versions',
	{
		id: 'whole',
		tillId: 'text',
		number: 'whole',
		state: 'text',
		offers: 'text',
		basedOn: 'whole',
		revision: 'whole',
		byUser: 'text',
		at: 'whole',
		reason: 'text'
	},
	['id'],
	true
);
export const checkouts = table<rows.CheckoutRow>(
	'checkouts',
	{
		id: 'whole',
		tillId: 'text',
		sign: 'text',
		reference: 'text',
		currency: 'text',
		minor: 'whole',
		name: 'text',
		mail: 'text',
		country: 'text',
		purpose: 'text',
		more: 'text',
		createdAt: 'whole'
	},
	['id'],
	true
);
export const payments = table<rows.PaymentRow>(
	'payments',
	{
		id: 'whole',
		token: 'text',
		checkoutId: 'whole',
		tillId: 'text',
		version: 'whole',
		offerId: 'text',
		offerName: 'text',
		method: 'text',
		mode: 'text',
		connectionId: 'text',
		offlineId: 'text',
		standby: 'whole',
		processorId: 'text',
		reference: 'text',
		creditorReference: 'text',
		payerName: 'text',
		payerMail: 'text',
		currency: 'text',
		minor: 'whole',
		card: 'text',
		stage: 'text',
		notches: 'whole',
		broken: 'whole',
		live: 'whole',
		taken: 'whole',
		refunded: 'whole',
		refundable: 'whole',
		failure: 'text',
		feeCurrency: 'text',
		expectedFee: 'whole',
		chargedFee: 'whole',
		chargedDetail: 'text',
		baseMinor: 'whole',
		net: 'whole',
		capturedAt: 'whole',
		next: 'text',
		accountId: 'text',
		details: 'text',
		trialId: 'text',
		createdAt: 'whole'
	},
	['id'],
	true
);
export const paymentEvents = table<rows.PaymentEventRow>(
	'payment_events',
	{
		id: 'whole',
		paymentId: 'whole',
		kind: 'text',
		at: 'whole',
		minor: 'whole',
		object: 'text',
		source: 'text',
		detail: 'text',
		dedupe: 'text',
		heardAt: 'whole'
	},
	['id'],
	true
);
export const actions = table<rows.ActionRow>(
	'actions',
	{
		key: 'text',
		paymentId: 'whole',
		act: 'text',
		content: 'text',
		minor: 'whole',
		state: 'text',
		says: 'text',
		nextAt: 'whole',
		tries: 'whole',
		createdAt: 'whole'
	},
	['key']
);
export const arrivals = table<rows.ArrivalRow>(
	'arrivals',
	{
		id: 'whole',
		connectionId: 'text',
		eventId: 'text',
		receivedAt: 'whole',
		headers: 'text',
		body: 'text',
		checks: 'text',
		state: 'text',
		tries: 'whole',
		nextAt: 'whole',
		topic: 'text',
		says: 'text',
		paymentId: 'whole',
		doneAt: 'whole'
	},
	['id'],
	true
);
export const refusedArrivals = table<rows.RefusedArrivalRow>(
	'refused_arrivals',
	{
		connectionId: 'text',
		day: 'text',
		reason: 'text',
		count: 'whole',
		lastAt: 'whole'
	},
	['connectionId', 'day', 'reason']
);
export const unmet = table<rows.UnmetRow>(
	'unmet',
	{
		id: 'whole',
		tillId: 'text',
		at: 'whole',
		kind: 'text',
		currency: 'text',
		minor: 'whole',
		reference: 'text',
		context: 'text'
	},
	['id'],
	true
);
export const audit = table<rows.AuditRow>(
	'audit',
	{
		id: 'whole',
		at: 'whole',
		userName: 'text',
		objectKind: 'text',
		objectId: 'text',
		objectName: 'text',
		act: 'text',
		before: 'text',
		after: 'text'
	},
	['id'],
	true
);
export const brands = table<rows.BrandRow>(
	'brands',
	{
		id: 'text',
		name: 'text',
		country: 'text',
		homeCurrency: 'text',
		colour: 'text',
		statementName: 'text',
		createdAt: 'whole',
		removedAt: 'whole'
	},
	['id']
);
export const bankAccounts = table<rows.BankAccountRow>(
	'bank_accounts',
	{
		id: 'text',
		name: 'text',
		holder: 'text',
		iban: 'text',
		bic: 'text',
		currency: 'text',
		createdAt: 'whole',
		removedAt: 'whole'
	},
	['id']
);
export const ledgerAccounts = table<rows.LedgerAccountRow>(
	'ledger_accounts',
	{
		number: 'text',
		name: 'text',
		kind: 'text'
	},
	['number']
);
export const domains = table<rows.DomainRow>(
	'domains',
	{
		domain: 'text',
		page: 'text',
		createdAt: 'whole'
	},
	['domain']
);
export const domainProofs = table<rows.DomainProofRow>(
	'domain_proofs',
	{
		domain: 'text',
		connectionId: 'text',
		path: 'text',
		content: 'text',
		state: 'text',
		says: 'text',
		lookedAt: 'whole'
	},
	['domain', 'connectionId']
);
export const pageCodes = table<rows.PageCodeRow>(
	'page_codes',
	{
		domain: 'text',
		connectionId: 'text',
		state: 'text',
		says: 'text',
		lookedAt: 'whole'
	},
	['domain', 'connectionId']
);
export const applications = table<rows.ApplicationRow>(
	'applications',
	{
		id: 'text',
		processor: 'text',
		number: 'text',
		mail: 'text',
		state: 'text',
		papers: 'text',
		says: 'text',
		askedAt: 'whole',
		createdAt: 'whole',
		removedAt: 'whole'
	},
	['id']
);
export const connectDrafts = table<rows.ConnectDraftRow>(
	'connect_drafts',
	{
		id: 'text',
		processor: 'text',
		mode: 'text',
		userId: 'text',
		connectionId: 'text',
		given: 'text',
		secretSealed: 'text',
		hookKey: 'text',
		stateHash: 'text',
		browserHash: 'text',
		verifierSealed: 'text',
		says: 'text',
		changedAt: 'whole'
	},
	['id']
);
export const abilityChanges = table<rows.AbilityChangeRow>(
	'ability_changes',
	{
		id: 'whole',
		connectionId: 'text',
		at: 'whole',
		says: 'text',
		seenAt: 'whole'
	},
	['id'],
	true
);
export const settlementFiles = table<rows.SettlementFileRow>(
	'settlement_files',
	{
		id: 'whole',
		name: 'text',
		processor: 'text',
		digest: 'text',
		count: 'whole',
		fresh: 'whole',
		declined: 'whole',
		takenAt: 'whole',
		byUser: 'text'
	},
	['id'],
	true
);
export const settledPayments = table<rows.SettledPaymentRow>(
	'settled_payments',
	{
		id: 'whole',
		fileId: 'whole',
		processor: 'text',
		processorId: 'text',
		source: 'text',
		capturedAt: 'whole',
		method: 'text',
		currency: 'text',
		minor: 'whole',
		entry: 'text',
		scheme: 'text',
		funding: 'text',
		issuer: 'text',
		feeCurrency: 'text',
		fee: 'whole',
		base: 'whole',
		refunded: 'whole',
		disputed: 'whole',
		orderedAt: 'whole'
	},
	['id'],
	true
);
export const declinedAttempts = table<rows.DeclinedAttemptRow>(
	'declined_attempts',
	{
		id: 'whole',
		fileId: 'whole',
		processor: 'text',
		processorId: 'text',
		source: 'text',
		at: 'whole',
		method: 'text',
		currency: 'text',
		minor: 'whole',
		entry: 'text',
		scheme: 'text',
		funding: 'text',
		issuer: 'text',
		feeCurrency: 'text',
		fee: 'whole',
		reason: 'text'
	},
	['id'],
	true
);
export const candidates = table<rows.CandidateRow>(
	'candidates',
	{
		id: 'text',
		name: 'text',
		processor: 'text',
		methods: 'text',
		currencies: 'text',
		paysOutDays: 'whole',
		card: 'text',
		note: 'text',
		createdAt: 'whole',
		removedAt: 'whole'
	},
	['id']
);
export const payerGroups = table<rows.PayerGroupRow>(
	'payer_groups',
	{
		id: 'text',
		name: 'text',
		createdAt: 'whole'
	},
	['id']
);
export const payers = table<rows.PayerRow>(
	'payers',
	{
		id: 'text',
		name: 'text',
		mail: 'text',
		country: 'text',
		onlineMethod: 'whole',
		createdAt: 'whole'
	},
	['id']
);
export const payerMemberships = table<rows.PayerMembershipRow>(
	'payer_memberships',
	{
		payerId: 'text',
		groupId: 'text'
	},
	['payerId', 'groupId']
);
export const pauses = table<rows.PauseRow>(
	'pauses',
	{
		id: 'text',
		kind: 'text',
		value: 'text',
		until: 'whole',
		reason: 'text',
		byUser: 'text',
		at: 'whole',
		endedAt: 'whole'
	},
	['id']
);
export const templates = table<rows.TemplateRow>(
	'lineup_templates',
	{
		id: 'text',
		name: 'text',
		offers: 'text',
		byUser: 'text',
		at: 'whole'
	},
	['id']
);
export const trials = table<rows.TrialRow>(
	'trials',
	{
		id: 'text',
		tillId: 'text',
		versionId: 'whole',
		state: 'text',
		revision: 'whole',
		offers: 'text',
		outcome: 'text',
		query: 'text',
		byUser: 'text',
		at: 'whole',
		paymentId: 'whole'
	},
	['id']
);
export const tokens = table<rows.TokenRow>(
	'tokens',
	{
		id: 'text',
		name: 'text',
		hash: 'text',
		last4: 'text',
		byUser: 'text',
		createdAt: 'whole',
		usedAt: 'whole',
		revokedAt: 'whole'
	},
	['id']
);
