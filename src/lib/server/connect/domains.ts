import { z } from 'zod';
import { forgetSnapshot } from '../signals/freshness';
import { audit } from '../access';
import { connectorOf, ConnectorError } from '../connectors';
import { db, write, type ConnectionRow, type DomainProofRow } from '../db';
import { tell } from '../signals/live';
import { readAccount } from '../connectors/account';
import { allConnections } from './connections';
import { speak } from '../speak/speak';
import { timeNow } from '../signals/clock';
import { OUTSIDE } from '../limits';
import { askOutside, OutsideError } from '../outside';

/** A host of a shop, with a port where it is not the usual one. */
export const Domain = z
	.string()
	.trim()
	.toLowerCase()
	.transform((text) => text.replace(/^https?:\/\//, '').replace(/\/.*$/, ''))
	.refine(
		(text) => /^(?=.{1,120}$)([a-z0-9]([a-z0-9-]*[a-z0-9])?\.)*[a-z0-9]([a-z0-9-]*[a-z0-9])?(:\d{2,5})?$/.test(text),
		{
			message: 'Write the domain alone, such as shop.wrenalder.example.'
		}
	);
export const DomainForm = z.object({
	domain: Domain,
	page: z
		.string()
		.trim()
		.regex(/^\/[^\s]{0,200}$/, 'The page begins with /, such as /cart.')
		.default('/')
});

export const allDomains = () => db.domains.find({}, { order: [['createdAt', 'ASC']] });

export async function addDomain(form: z.infer<typeof DomainForm>, by: string): Promise<string | undefined> {
	if (await db.domains.one({ domain: form.domain })) return 'This domain is there already.';
	await write(async (tx) => {
		await db.domains.insert({ ...form, createdAt: timeNow() }, tx);
		await audit({ by, kind: 'domain', id: form.domain, name: form.domain, act: 'added', after: form }, tx);
	});
	tell('connections');
	return undefined;
}

export async function removeDomain(domain: string, by: string): Promise<void> {
	await write(async (tx) => {
		await db.domains.remove({ domain }, tx);
		await db.domainProofs.remove({ domain }, tx);
		await db.pageCodes.remove({ domain }, tx);
		await audit({ by, kind: 'domain', id: domain, name: domain, act: 'removed' }, tx);
	});
	forgetSnapshot();
	tell('connections');
}

const wants = (row: ConnectionRow, what: 'wantsDomainProof' | 'wantsPageCode') =>
	readAccount(row.account).abilities.some((ability) => ability[what]);

/** What each domain has and lacks, at each connection that asks for something. */
export async function domainTable() {
	const [domains, proofs, codes, connections] = await Promise.all([
		allDomains(),
		db.domainProofs.find(),
		db.pageCodes.find(),
		allConnections()
	]);
	return domains.map(({ domain, page }) => ({
		domain,
		page,
		proofs: connections
			.filter((row) => wants(row, 'wantsDomainProof'))
			.map((row) => {
				const proof = proofs.find((one) => one.domain === domain && one.connectionId === row.id);
				return {
					connectionId: row.id,
					name: row.name,
					mode: row.mode,
					state: proof?.state ?? ('missing' as const),
					says: proof?.says ?? '',
					path: proof?.path ?? '',
					lookedAt: proof?.lookedAt ?? null
				};
			}),
		codes: connections
			.filter((row) => wants(row, 'wantsPageCode'))
			.map((row) => {
				const code = codes.find((one) => one.domain === domain && one.connectionId === row.id);
				return {
					connectionId: row.id,
					name: row.name,
					mode: row.mode,
					state: code?.state ?? ('missing' as const),
					says: code?.says ?? 'Not looked at yet.',
					lookedAt: code?.lookedAt ?? null
				};
			})
	}));
}

/** Has a domain proven: the file comes from the processor, is served by us, and the processor looks at it. */
export async function prove(row: ConnectionRow, domain: string, by: string): Promise<string | undefined> {
	const { proof, name } = connectorOf(row.processor);
	if (!proof) return `${name} asks for no proof.`;
	try {
		const file = await speak(row, (_, credentials) => proof.file(credentials, domain));
		const kept: DomainProofRow = {
			domain,
			connectionId: row.id,
			path: file.path,
			content: file.content,
			state: 'missing',
			says: 'Not looked at yet.',
			lookedAt: null
		};
		await write(async (tx) => {
			await db.domainProofs.remove({ domain, connectionId: row.id }, tx);
			await db.domainProofs.insert(kept, tx);
		});
		// only now that we serve it, may the processor look
		const says = await speak(row, (_, credentials) => proof.look(credentials, domain));
		const after = { state: says ? ('failing' as const) : ('proven' as const), says, lookedAt: timeNow() };
		await write(async (tx) => {
			await db.domainProofs.update({ domain, connectionId: row.id }, after, tx);
			await audit(
				{
					by,
					kind: 'domain',
					id: domain,
					name: domain,
					act: `${after.state} at ${row.name}`,
					after: { state: after.state, says }
				},
				tx
			);
		});
		forgetSnapshot();
		tell('connections');
		return undefined;
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return error.message;
	}
}

/** The proof file that is to be had at a host under a path, if there is one. */
export async function proofAt(host: string, path: string): Promise<string | undefined> {
	const found = await db.domainProofs.find({ domain: host.toLowerCase(), path });
	return found[0]?.content;
}

const HOSTS = new Map(
	(process.env.JUSTPURSE_HOSTS ?? '')
		.split(',')
		.map((pair) => pair.split('='))
		.filter((pair): pair is [string, string] => !!pair[0] && !!pair[1])
);
/** The page of a shop. Private networks are refused, unless the installation names the host. */
async function pageOf(domain: string, page: string): Promise<string | { trouble: string }> {
	const named = HOSTS.get(domain);
	try {
		const answer = await askOutside(`${named ? 'http' : 'https'}://${named ?? domain}${page}`, {
			headers: { accept: 'text/html' },
			bytes: OUTSIDE.pageBytes,
			ms: OUTSIDE.pageMs,
			isTyped: !named
		});
		if (answer.location !== undefined) return { trouble: `The page leads on to ${answer.location.slice(0, 100)}.` };
		if (answer.status < 200 || answer.status >= 300) return { trouble: `The page answers with ${answer.status}.` };
		return answer.text;
	} catch (error) {
		const kind = error instanceof OutsideError ? error.kind : 'unreachable';
		if (kind === 'private') return { trouble: 'The domain leads into a private network, where it is not looked at.' };
		if (kind === 'too large') return { trouble: 'The page is larger than 2 MB.' };
		return { trouble: kind === 'slow' ? 'The page does not answer in time.' : 'The page does not answer.' };
	}
}

/** The code that a method wants on the shop's page, to hand over. */
export async function pageCode(row: ConnectionRow): Promise<{ html: string; mark: string } | { trouble: string }> {
	const { pageCode: wanted } = connectorOf(row.processor);
	if (!wanted) return { trouble: `${row.name} wants no code.` };
	try {
		return await speak(row, (_, credentials) => wanted.code(credentials));
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return { trouble: error.message };
	}
}

/** Looks whether the code is on the shop's page. */
export async function lookForCode(row: ConnectionRow, domain: string, by: string): Promise<string | undefined> {
	const known = await db.domains.one({ domain });
	if (!known) return 'There is no such domain.';
	const code = await pageCode(row);
	if ('trouble' in code) return code.trouble;
	const page = await pageOf(domain, known.page);
	const present = typeof page === 'string' && page.includes(code.mark);
	const after = {
		state: present ? ('present' as const) : ('missing' as const),
		says: typeof page === 'string' ? (present ? '' : `The code is not on ${known.page}.`) : page.trouble,
		lookedAt: timeNow()
	};
	await write(async (tx) => {
		await db.pageCodes.remove({ domain, connectionId: row.id }, tx);
		await db.pageCodes.insert({ domain, connectionId: row.id, ...after }, tx);
		await audit(
			{
				by,
				kind: 'domain',
				id: domain,
				name: domain,
				act: `page code of ${row.name} ${after.state}`,
				after: { state: after.state, says: after.says }
			},
			tx
		);
	});
	forgetSnapshot();
	tell('connections');
	return undefined;
}
