import { fail } from '@sveltejs/kit';
import { approve } from './approve';
import { send } from './collect';

/** So many documents are acted on at once. */
const MOST = 200;

/** Does one act with many documents, each by itself: what stands in the way of one holds up no other. */
export async function actOnMany(form: FormData, by: string) {
	const ids = [...new Set(form.getAll('id').map(Number))].filter(Number.isSafeInteger);
	const act = String(form.get('act') ?? '');
	if (!ids.length) return fail(400, { trouble: 'Choose some documents first.' });
	if (ids.length > MOST) return fail(400, { trouble: `Choose at most ${MOST} documents at once.` });
	const said: string[] = [];
	const wrong: string[] = [];
	for (const id of ids) {
		const answer =
			act === 'approve'
				? await approve(id, undefined, by)
				: act === 'remind'
					? await send(id, { channels: ['mail'], event: 'reminder' }, by)
					: act === 'send'
						? await send(id, { channels: ['mail'] }, by)
						: { problem: 'There is no such act.' };
		if ('problem' in answer) wrong.push(answer.problem);
		else said.push(answer.says);
	}
	const says = said.length ? `Done for ${said.length} of ${ids.length}.` : '';
	return wrong.length
		? fail(409, {
				trouble: `${says} Not done for ${wrong.length}: ${[...new Set(wrong)].slice(0, 5).join(' ')}`.trim()
			})
		: { says };
}
