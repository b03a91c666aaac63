import { parse } from 'csv-parse/sync';
import { maskCardNumbers } from '../../core/cards';
import { audit } from '../access';
import { db, write, type OrderRow, type Tx } from '../db';
import { recordEvent } from '../events';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';

// What an order is apart from its payments: released before it was paid, completed, and what an outside program calls it.

export type Changed = { readonly says: string } | { readonly problem: string };

const STATES = {
	release: {
		column: 'releasedAt',
		by: 'releasedBy',
		act: 'released unpaid, on account',
		undone: 'is not released any more'
	},
	complete: { column: 'completedAt', by: 'completedBy', act: 'completed', undone: 'is open again' }
} as const;
export type OrderAct = keyof typeof STATES;

const noteOrder = (order: OrderRow, by: string, act: string, tx: Tx, more: { before?: object; after?: object } = {}) =>
	audit({ by, kind: 'order', id: String(order.id), name: order.reference, act, ...more }, tx);

/**
 * Sets a state of an order, or takes it back.
 * @param isOn false takes it back
 */
export async function setOrderState(orderId: number, state: OrderAct, isOn: boolean, by: string): Promise<Changed> {
	const { column, by: byColumn, act, undone } = STATES[state];
	const changed = await write(async (tx): Promise<Changed> => {
		const order = await db.orders.one({ id: orderId }, tx);
		if (!order) return { problem: 'There is no such order.' };
		if ((order[column] !== null) === isOn)
			return { says: isOn ? `Order ${order.reference} was ${act} already.` : `Order ${order.reference} ${undone}.` };
		if (isOn && state === 'release' && order.paid >= order.minor)
			return { problem: `Order ${order.reference} is paid: there is nothing to release on account.` };
		if (isOn && order.cancelledAt !== null) return { problem: `Order ${order.reference} was cancelled.` };
		await db.orders.update({ id: orderId }, { [column]: isOn ? timeNow() : null, [byColumn]: isOn ? by : '' }, tx);
		await noteOrder(order, by, isOn ? act : `took back: ${act}`, tx);
		return { says: isOn ? `Order ${order.reference} is ${act}.` : `Order ${order.reference} ${undone}.` };
	});
	tell('takings');
	return changed;
}

export const OUTSIDE_MAX = 80;

async function putReference(order: OrderRow, text: string, by: string, tx: Tx): Promise<void> {
	await db.orders.update({ id: order.id }, { outsideReference: text, outsideAt: text ? timeNow() : null }, tx);
	if (text)
		await recordEvent({ kind: 'order.referenced', object: 'order', id: order.id, payload: { outside: text } }, tx);
	await noteOrder(order, by, text ? 'set the reference of an outside program' : 'took the outside reference away', tx, {
		before: { outsideReference: order.outsideReference },
		after: { outsideReference: text }
	});
}

/** Sets what an outside program calls an order; an empty text takes it away. */
export async function setOutsideReference(orderId: number, typed: string, by: string): Promise<Changed> {
	const text = maskCardNumbers(typed.trim());
	if (text.length > OUTSIDE_MAX) return { problem: `At most ${OUTSIDE_MAX} characters.` };
	const changed = await write(async (tx): Promise<Changed> => {
		const order = await db.orders.one({ id: orderId }, tx);
		if (!order) return { problem: 'There is no such order.' };
		if (order.outsideReference !== text) await putReference(order, text, by, tx);
		return {
			says: text ? `Order ${order.reference} is ${text} there.` : `Order ${order.reference} has no outside reference.`
		};
	});
	tell('takings');
	return changed;
}

/** One line of a file of references, as it would be taken. */
export interface ReferenceLine {
	readonly line: number;
	readonly reference: string;
	readonly outside: string;
	readonly orderId?: number;
	/** what stands there now */
	readonly before: string;
	readonly problem?: string;
}
const MOST_LINES = 20_000;

/**
 * Reads a file of references of an outside program, and says of each line what it would change. Columns: `reference`, and
 * `outside_reference`; `till` where two tills may have given the same reference. Comma or semicolon.
 */
export async function readReferences(text: string): Promise<{ lines: ReferenceLine[] } | { problem: string }> {
	let records: Record<string, string>[];
	try {
		records = parse(text, {
			bom: true,
			columns: (names: string[]) => names.map((name) => name.trim().toLowerCase()),
			delimiter: [',', ';'],
			skip_empty_lines: true,
			trim: true,
			relax_column_count: true
		});
	} catch (error) {
		return { problem: `It cannot be read as CSV: ${(error as Error).message}` };
	}
	if (!records.length)
		return { problem: 'There is no line in it. The first line names the columns: reference, outside_reference.' };
	if (records.length > MOST_LINES) return { problem: `At most ${MOST_LINES} lines at once.` };
	for (const name of ['reference', 'outside_reference'])
		if (!(name in records[0]!))
			return {
				problem: `The column “${name}” is missing. The first line names the columns: reference, outside_reference.`
			};
	const tills = await db.tills.find();
	const tillOf = (name: string) =>
		tills.find((one) => one.slug === name || one.name.toLowerCase() === name.toLowerCase());
	const wanted = [...new Set(records.map((one) => one.reference ?? '').filter(Boolean))];
	const known: OrderRow[] = [];
	for (let from = 0; from < wanted.length; from += 500)
		known.push(...(await db.orders.find({ reference: wanted.slice(from, from + 500), replacedBy: null })));
	const byReference = new Map<string, OrderRow[]>();
	for (const order of known) byReference.set(order.reference, [...(byReference.get(order.reference) ?? []), order]);
	const seen = new Set<number>();
	return {
		lines: records.map((one, at): ReferenceLine => {
			const reference = one.reference ?? '';
			const outside = maskCardNumbers(one.outside_reference ?? '');
			const line = { line: at + 2, reference, outside, before: '' };
			if (!reference) return { ...line, problem: 'The reference is missing.' };
			if (outside.length > OUTSIDE_MAX)
				return { ...line, problem: `The outside reference has more than ${OUTSIDE_MAX} characters.` };
			const till = one.till ? tillOf(one.till) : undefined;
			if (one.till && !till) return { ...line, problem: `There is no till “${one.till}”.` };
			const orders = (byReference.get(reference) ?? []).filter((order) => !till || order.tillId === till.id);
			if (!orders.length) return { ...line, problem: 'There is no such order.' };
			if (orders.length > 1)
				return { ...line, problem: 'Orders of two tills have this reference: add a column “till”.' };
			const [order] = orders;
			if (seen.has(order!.id)) return { ...line, problem: 'The same order stands in it twice.' };
			seen.add(order!.id);
			return { ...line, orderId: order!.id, before: order!.outsideReference };
		})
	};
}

/** Sets the references of a file, whole or not at all. */
export async function takeReferences(text: string, by: string): Promise<Changed & { lines?: ReferenceLine[] }> {
	const read = await readReferences(text);
	if ('problem' in read) return read;
	const wrong = read.lines.filter((one) => one.problem);
	if (wrong.length)
		return {
			problem: `${wrong.length === 1 ? 'One line is' : `${wrong.length} lines are`} not right; nothing was changed.`,
			lines: read.lines
		};
	const changes = read.lines.filter((one) => one.before !== one.outside);
	await write(async (tx) => {
		for (const one of changes) {
			const order = (await db.orders.one({ id: one.orderId! }, tx))!;
			await putReference(order, one.outside, by, tx);
		}
	});
	tell('takings');
	return {
		says: `${changes.length} reference${changes.length === 1 ? ' was' : 's were'} set, ${read.lines.length - changes.length} stood already.`
	};
}
