import { create } from 'xmlbuilder2';
import type { Day } from '../calendar';
import { plainAmount } from '../money';
import type { BillContent, BillTo } from './content';
import { lineNets, netOfDiscount, type BillSums, type TaxCategory } from './sums';

// An invoice or a credit note as UBL 2.1 by EN 16931.

/** Who bills. */
export interface Seller {
	readonly name: string;
	readonly legalName: string;
	readonly taxNumber: string;
	readonly street: string;
	readonly postcode: string;
	readonly city: string;
	readonly country: string;
	readonly mail: string;
	readonly phone: string;
}
export interface UblAsked {
	readonly kind: 'invoice' | 'credit note';
	readonly number: string;
	readonly day: Day;
	/** the last due; empty for a credit note */
	readonly dueDay: Day | '';
	readonly currency: string;
	readonly content: BillContent;
	readonly sums: BillSums;
	readonly seller: Seller;
	/** what an outside program calls the order */
	readonly outsideReference: string;
	/** the account it is paid to by transfer, with the reference to give */
	readonly transfer?: {
		readonly iban: string;
		readonly bic: string;
		readonly holder: string;
		readonly reference: string;
	};
	/** of a credit note: the invoice that it corrects */
	readonly corrects?: { readonly number: string; readonly day: Day };
	/** words about dues and terms */
	readonly terms: string;
}

/** @source UNCL 5305 as EN 16931 takes it: a reduced rate is a standard one with another percentage */
const CODES: Readonly<Record<TaxCategory, string>> = {
	standard: 'S',
	reduced: 'S',
	zero: 'Z',
	exempt: 'E',
	'reverse charge': 'AE',
	'outside scope': 'O'
};
/** @source UN/ECE Recommendation 20: units that people write, and the code of each; `C62` is one */
const UNITS: Readonly<Record<string, string>> = {
	'': 'C62',
	piece: 'C62',
	pieces: 'C62',
	hour: 'HUR',
	hours: 'HUR',
	h: 'HUR',
	minute: 'MIN',
	minutes: 'MIN',
	day: 'DAY',
	days: 'DAY',
	month: 'MON',
	months: 'MON',
	kg: 'KGM',
	m: 'MTR',
	set: 'SET',
	sets: 'SET'
};
const percent = (ppm: number): string => String(ppm / 10_000);

type Node = Record<string, unknown>;
const party = (role: 'Supplier' | 'Customer', who: BillTo & { legalName?: string; phone?: string }): Node => {
	const legal = who.legalName || who.company || who.name;
	const vat = who.taxNumber.replace(/[^A-Za-z0-9]/g, '').toUpperCase();
	return {
		[`cac:Accounting${role}Party`]: {
			'cac:Party': {
				'cac:PartyName': { 'cbc:Name': who.company || who.name || legal },
				'cac:PostalAddress': {
					...(who.street ? { 'cbc:StreetName': who.street } : {}),
					...(who.city ? { 'cbc:CityName': who.city } : {}),
					...(who.postcode ? { 'cbc:PostalZone': who.postcode } : {}),
					'cac:Country': { 'cbc:IdentificationCode': who.country }
				},
				...(vat ? { 'cac:PartyTaxScheme': { 'cbc:CompanyID': vat, 'cac:TaxScheme': { 'cbc:ID': 'VAT' } } } : {}),
				'cac:PartyLegalEntity': { 'cbc:RegistrationName': legal },
				...(who.name && who.company && role === 'Customer'
					? { 'cac:Contact': { 'cbc:Name': who.name, ...(who.mail ? { 'cbc:ElectronicMail': who.mail } : {}) } }
					: who.mail
						? {
								'cac:Contact': {
									...(who.phone ? { 'cbc:Telephone': who.phone } : {}),
									'cbc:ElectronicMail': who.mail
								}
							}
						: {})
			}
		}
	};
};

/** What keeps a document from being written as UBL. */
export function ublProblems({ seller, content }: Pick<UblAsked, 'seller' | 'content'>): string[] {
	const problems: string[] = [];
	if (!seller.country) problems.push('The business has no country.');
	if (!seller.taxNumber && content.lines.some((one) => one.category !== 'outside scope'))
		problems.push('The business has no tax number: give it under Connect, Business details.');
	if (!content.billTo.country) problems.push('The payer has no country.');
	if (!(content.billTo.name || content.billTo.company)) problems.push('The payer has no name.');
	if (content.lines.some((one) => one.category === 'reverse charge') && !content.billTo.taxNumber)
		problems.push('A reverse charge needs the payer’s tax number.');
	return problems;
}

/**
 * Writes an invoice or a credit note. Each tax group's net is split over its lines by the largest remainder where prices
 * hold the tax, so that it adds up for whoever reads it.
 * @source OASIS UBL 2.1; EN 16931-1 and the binding of EN 16931-3-2
 */
export function writeUbl(asked: UblAsked): string {
	const { kind, currency, content, sums, seller } = asked;
	const isCredit = kind === 'credit note';
	const root = isCredit ? 'CreditNote' : 'Invoice';
	const money = (minor: number): Node => ({ '@currencyID': currency, '#': plainAmount({ minor, currency }) });
	const nets = lineNets(sums, content.pricing);
	const scheme = { 'cac:TaxScheme': { 'cbc:ID': 'VAT' } };
	const category = (of: TaxCategory, rate: number, withReason = false): Node => ({
		'cbc:ID': CODES[of],
		...(of === 'outside scope' ? {} : { 'cbc:Percent': percent(rate) }),
		...(withReason && ['exempt', 'reverse charge', 'outside scope'].includes(of)
			? { 'cbc:TaxExemptionReason': content.reason || (of === 'outside scope' ? 'Not subject to VAT' : of) }
			: {}),
		...scheme
	});
	const allowances = sums.groups.flatMap((group) => {
		const minor = netOfDiscount(group, content.pricing);
		return minor > 0
			? [
					{
						'cbc:ChargeIndicator': 'false',
						'cbc:AllowanceChargeReason': sums.discounts.map((one) => one.name).join(', ') || 'Discount',
						'cbc:Amount': money(minor),
						'cac:TaxCategory': category(group.category, group.rate)
					}
				]
			: [];
	});
	const allowanceTotal = sums.groups.reduce((all, group) => all + netOfDiscount(group, content.pricing), 0);
	// what reads as one group there is one: a reduced rate of 21 % beside a standard one
	const groups = new Map<string, { of: TaxCategory; rate: number; base: number; tax: number }>();
	for (const { category: of, rate, base, tax } of sums.groups) {
		const key = `${CODES[of]} ${rate}`;
		const before = groups.get(key);
		groups.set(key, { of, rate, base: (before?.base ?? 0) + base, tax: (before?.tax ?? 0) + tax });
	}
	const lines = content.lines.map((line, at): Node => {
		const { sum, discount } = sums.lines[at]!;
		const isNet = content.pricing === 'without tax';
		const net = isNet ? sum : nets[at]!;
		const unitCode = UNITS[line.unit.toLowerCase()] ?? 'C62';
		return {
			'cbc:ID': String(at + 1),
			[isCredit ? 'cbc:CreditedQuantity' : 'cbc:InvoicedQuantity']: {
				'@unitCode': unitCode,
				'#': line.quantity
			},
			'cbc:LineExtensionAmount': money(net),
			...(isNet && discount
				? {
						'cac:AllowanceCharge': {
							'cbc:ChargeIndicator': 'false',
							'cbc:AllowanceChargeReason': 'Discount',
							'cbc:Amount': money(discount)
						}
					}
				: {}),
			'cac:Item': {
				'cbc:Name': line.text.split('\n')[0]!,
				'cac:ClassifiedTaxCategory': category(line.category, line.rate)
			},
			// a price with tax has none without it that is exact for one piece: it is told for all of them
			'cac:Price': isNet
				? { 'cbc:PriceAmount': { '@currencyID': currency, '#': line.price } }
				: {
						'cbc:PriceAmount': money(net),
						'cbc:BaseQuantity': { '@unitCode': unitCode, '#': line.quantity }
					}
		};
	});
	const notes = [content.noteTop, content.noteFoot].filter(Boolean);
	const doc: Node = {
		[root]: {
			'@xmlns': `urn:oasis:names:specification:ubl:schema:xsd:${root}-2`,
			'@xmlns:cac': 'urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2',
			'@xmlns:cbc': 'urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2',
			'cbc:CustomizationID': 'urn:cen.eu:en16931:2017',
			'cbc:ID': asked.number,
			'cbc:IssueDate': asked.day,
			...(isCredit || !asked.dueDay ? {} : { 'cbc:DueDate': asked.dueDay }),
			[isCredit ? 'cbc:CreditNoteTypeCode' : 'cbc:InvoiceTypeCode']: isCredit ? '381' : '380',
			...(notes.length ? { 'cbc:Note': notes.join('\n') } : {}),
			'cbc:DocumentCurrencyCode': currency,
			...(asked.outsideReference ? { 'cac:OrderReference': { 'cbc:ID': asked.outsideReference } } : {}),
			...(asked.corrects
				? {
						'cac:BillingReference': {
							'cac:InvoiceDocumentReference': {
								'cbc:ID': asked.corrects.number,
								'cbc:IssueDate': asked.corrects.day
							}
						}
					}
				: {}),
			...party('Supplier', { ...seller, company: seller.name }),
			...party('Customer', content.billTo),
			...(asked.transfer && !isCredit
				? {
						'cac:PaymentMeans': {
							'cbc:PaymentMeansCode': '30',
							'cbc:PaymentID': asked.transfer.reference,
							'cac:PayeeFinancialAccount': {
								'cbc:ID': asked.transfer.iban.replace(/\s/g, ''),
								'cbc:Name': asked.transfer.holder,
								...(asked.transfer.bic ? { 'cac:FinancialInstitutionBranch': { 'cbc:ID': asked.transfer.bic } } : {})
							}
						}
					}
				: {}),
			...(asked.terms ? { 'cac:PaymentTerms': { 'cbc:Note': asked.terms } } : {}),
			...(allowances.length ? { 'cac:AllowanceCharge': allowances } : {}),
			'cac:TaxTotal': {
				'cbc:TaxAmount': money(sums.tax),
				'cac:TaxSubtotal': [...groups.values()].map(({ of, rate, base, tax }) => ({
					'cbc:TaxableAmount': money(base),
					'cbc:TaxAmount': money(tax),
					'cac:TaxCategory': category(of, rate, true)
				}))
			},
			'cac:LegalMonetaryTotal': {
				'cbc:LineExtensionAmount': money(sums.net + allowanceTotal),
				'cbc:TaxExclusiveAmount': money(sums.net),
				'cbc:TaxInclusiveAmount': money(sums.total),
				...(allowanceTotal ? { 'cbc:AllowanceTotalAmount': money(allowanceTotal) } : {}),
				'cbc:PayableAmount': money(sums.total)
			},
			[isCredit ? 'cac:CreditNoteLine' : 'cac:InvoiceLine']: lines
		}
	};
	return create({ version: '1.0', encoding: 'UTF-8' }, doc).end({ prettyPrint: true });
}
