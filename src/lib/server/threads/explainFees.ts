import { explainGroup, type ContractVersion, type DifferingGroup, type ExplainedSpan } from '../../core/fees';

/** Differing payments of one connection, with all versions of its contract. */
export interface ExplainAsked {
	readonly groups: readonly DifferingGroup[];
	readonly versions: readonly ContractVersion[];
}
/** What a span explains, with the places of its payments in the list of its group. */
export type PlainSpan = Omit<ExplainedSpan, 'payments'> & {
	readonly group: number;
	readonly payments: readonly number[];
};

/** Names the causes of differing payments. */
export const explainFees = ({ groups, versions }: ExplainAsked): PlainSpan[] =>
	groups.flatMap((group, at) =>
		explainGroup(group, versions).map(({ payments, ...span }) => ({
			...span,
			group: at,
			payments: payments.map((one) => one.id)
		}))
	);
