import {
	checkTemplate,
	CHANNELS,
	MESSAGE_EVENTS,
	type Channel,
	type MessageEvent,
	type TemplateProblem
} from '../../core/billing';
import { audit, randomId } from '../access';
import { db, write, type MessageTemplateRow } from '../db';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';
import { defaultTemplate } from './defaults';

/** Which template it is: one for each event, brand, language and channel, and variants of it. */
export interface TemplateKey {
	readonly event: MessageEvent;
	readonly brandId: string;
	readonly language: string;
	readonly channel: Channel;
	readonly variant: string;
}
export const isEvent = (text: string): text is MessageEvent => (MESSAGE_EVENTS as readonly string[]).includes(text);
export const isChannel = (text: string): text is Channel => (CHANNELS as readonly string[]).includes(text);

const keyOf = ({ event, brandId, language, channel, variant }: TemplateKey) => ({
	event,
	brandId,
	language,
	channel,
	variant
});

/** The template of exactly this key, where somebody wrote one. */
export const templateOf = (key: TemplateKey): Promise<MessageTemplateRow | undefined> =>
	db.messageTemplates.one(keyOf(key));
export const allTemplates = (): Promise<MessageTemplateRow[]> =>
	db.messageTemplates.find({}, { order: [['at', 'DESC']] });
/** Names of variants that payers can be given. */
export const variants = async (): Promise<string[]> =>
	[...new Set((await db.messageTemplates.find()).map((row) => row.variant))].filter(Boolean).sort();

/**
 * The words for a message: the payer's variant before the usual one, the brand's before the business's, the language before
 * English; else what we begin with.
 */
export async function chooseTemplate(key: TemplateKey): Promise<{ subject: string; body: string }> {
	const rows = await db.messageTemplates.find({ event: key.event, channel: key.channel });
	const rank = (row: MessageTemplateRow) =>
		(row.variant === key.variant ? 4 : 0) +
		(row.brandId === key.brandId ? 2 : 0) +
		(row.language === key.language ? 1 : 0);
	const [best] = rows
		.filter(
			(row) =>
				(row.variant === key.variant || row.variant === '') &&
				(row.brandId === key.brandId || row.brandId === '') &&
				row.language === key.language
		)
		.sort((a, b) => rank(b) - rank(a));
	return best ?? defaultTemplate(key.event, key.language, key.channel);
}

/** Keeps a template, unless it cannot work. */
export async function saveTemplate(
	key: TemplateKey,
	subject: string,
	body: string,
	by: string
): Promise<{ problems: TemplateProblem[] } | { id: string }> {
	const problems = checkTemplate(key.event, subject, body, key.channel);
	if (problems.length) return { problems };
	const id = await write(async (tx) => {
		const known = await db.messageTemplates.one(keyOf(key), tx);
		const kept = known?.id ?? randomId();
		const row = { subject: subject.trim(), body: body.replace(/\r\n/g, '\n').trim(), byUser: by, at: timeNow() };
		if (known) await db.messageTemplates.update({ id: kept }, row, tx);
		else await db.messageTemplates.insert({ id: kept, ...keyOf(key), ...row }, tx);
		await audit(
			{
				by,
				kind: 'message',
				id: kept,
				name: `${key.event}, ${key.language}, ${key.channel}${key.variant ? `, ${key.variant}` : ''}`,
				act: known ? 'changed the template' : 'wrote a template',
				before: known && { subject: known.subject, body: known.body },
				after: { subject: row.subject, body: row.body }
			},
			tx
		);
		return kept;
	});
	tell('bill');
	return { id };
}

/** Goes back to the words that we begin with. */
export async function dropTemplate(key: TemplateKey, by: string): Promise<void> {
	await write(async (tx) => {
		const known = await db.messageTemplates.one(keyOf(key), tx);
		if (!known) return;
		await db.messageTemplates.remove({ id: known.id }, tx);
		await audit(
			{
				by,
				kind: 'message',
				id: known.id,
				name: `${key.event}, ${key.language}, ${key.channel}`,
				act: 'went back to the first words',
				before: { subject: known.subject, body: known.body }
			},
			tx
		);
	});
	tell('bill');
}
