import type { z } from 'zod';
import { allGroups, formOf, payerById, payersPage, savePayer, sizesOfGroups, type Payer } from '../bill/payers';
import { PayerForm } from '../../core/payers';
import { db } from '../db';
import { cardOf, inOrder, mandateOf } from '../payments/stored';
import { notFound, Problem } from './problem';
import type * as schemas from './schemas';

type ShownPayer = z.output<typeof schemas.Payer>;

const show = ({ row, groups }: Payer, names: ReadonlyMap<string, string>): ShownPayer => ({
	payer: row.id,
	name: row.name,
	mail: row.mail,
	country: row.country,
	online: row.onlineMethod === null ? '' : row.onlineMethod ? 'yes' : 'no',
	groups: groups.flatMap((id) => names.get(id) ?? [])
});
const EMPTY = PayerForm.parse({ name: '?' });
const groupNames = async () => new Map((await allGroups()).map((row) => [row.id, row.name]));

/** Payers by name; those whose name or mail holds a text. @param cursor `next` of the page before */
export async function listPayers(
	text: string | undefined,
	cursor: string | undefined
): Promise<z.output<typeof schemas.Payers>> {
	const after = cursor === undefined ? undefined : readCursor(cursor);
	const [{ payers, more }, names] = await Promise.all([payersPage(text ?? '', after), groupNames()]);
	const last = payers.at(-1)?.row;
	return {
		payers: payers.map((one) => show(one, names)),
		next: more && last ? Buffer.from(JSON.stringify([last.name, last.id])).toString('base64url') : null
	};
}
function readCursor(cursor: string): { name: string; id: string } {
	try {
		const [name, id] = JSON.parse(Buffer.from(cursor, 'base64url').toString()) as unknown[];
		if (typeof name === 'string' && typeof id === 'string') return { name, id };
	} catch {
		// told below
	}
	throw new Problem(400, 'Broken request', '“cursor” is what `next` of the page before said.');
}

/** One payer. @throws Problem 404 */
export async function readPayer(id: string | undefined): Promise<ShownPayer> {
	const found = id ? await payerById(id) : undefined;
	if (!found) throw notFound('There is no such payer.');
	return show(found, await groupNames());
}

/** What a payer lets processors keep, the default one first, what has ended last. @throws Problem 404 */
export async function listStoredMethods(id: string | undefined): Promise<z.output<typeof schemas.StoredMethods>> {
	if (!id || !(await payerById(id))) throw notFound('There is no such payer.');
	const rows = await db.storedMethods.find({ payerId: id }, { order: [['id', 'DESC']], limit: 100 });
	const sorted = [
		...inOrder(rows.filter((row) => row.state !== 'ended')),
		...rows.filter((row) => row.state === 'ended')
	];
	return {
		storedMethods: sorted.map((row) => {
			const card = cardOf(row);
			const mandate = mandateOf(row);
			return {
				storedMethod: row.id,
				method: row.method,
				connection: row.connectionId,
				mode: row.mode,
				state: row.state,
				isDefault: row.isDefault === 1,
				scheme: card?.scheme ?? '',
				last4: card?.last4 ?? mandate?.last4 ?? '',
				expires: row.expires,
				mandate: mandate?.reference ?? '',
				storedAt: new Date(row.createdAt).toISOString(),
				endedAt: row.endedAt === null ? null : new Date(row.endedAt).toISOString(),
				endedWhy: row.endedWhy
			};
		})
	};
}

/** Adds a payer, or changes the one of this mail address. @throws Problem 422 for a group that there is not */
export async function putPayer(
	given: z.output<typeof schemas.PayerPut>,
	by: string
): Promise<{ answer: ShownPayer; isNew: boolean }> {
	const groups = await allGroups();
	const asked = given.groups ?? [];
	const unknown = asked.filter((name) => !groups.some((one) => one.name === name));
	if (unknown.length)
		throw new Problem(
			422,
			'Not as described',
			`There is no group called ${unknown.join(', ')}.`,
			unknown.map((name) => ({ pointer: `/groups/${asked.indexOf(name)}`, detail: `unknown: ${name}` }))
		);
	const mail = given.mail.toLowerCase();
	const row = await db.payers.one({ mail });
	const before = row && (await payerById(row.id));
	const known = before && show(before, new Map(groups.map((one) => [one.id, one.name])));
	const wrong = await savePayer(
		{
			...(before ? formOf(before) : EMPTY),
			name: given.name,
			mail,
			country: given.country ?? known?.country ?? '',
			online: given.online ?? known?.online ?? '',
			groups: given.groups
				? groups.filter((one) => asked.includes(one.name)).map((one) => one.id)
				: [...(before?.groups ?? [])]
		},
		before?.row.id,
		by
	);
	// two at once: the other one was first
	if ('wrong' in wrong) throw new Problem(409, 'Changed meanwhile', Object.values(wrong.wrong)[0]!);
	const kept = (await db.payers.one({ mail }))!;
	return { answer: await readPayer(kept.id), isNew: !before };
}

/** All groups, with how many payers are in each. */
export async function listGroups(): Promise<z.output<typeof schemas.Groups>> {
	const [groups, sizes] = await Promise.all([allGroups(), sizesOfGroups()]);
	return { groups: groups.map((row) => ({ name: row.name, payers: sizes.get(row.id) ?? 0 })) };
}
