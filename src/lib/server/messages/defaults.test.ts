import { describe, expect, it } from 'vitest';
import { checkTemplate, MESSAGE_EVENTS } from '../../core/billing';
import { defaultTemplate, MESSAGE_LANGUAGES } from './defaults';

describe('the words that messages begin with', () => {
	it('would be taken as templates, in every language and channel', () => {
		const wrong = MESSAGE_EVENTS.flatMap((event) =>
			Object.keys(MESSAGE_LANGUAGES).flatMap((language) =>
				(['mail', 'text', 'page'] as const).flatMap((channel) => {
					const { subject, body } = defaultTemplate(event, language, channel);
					return checkTemplate(event, subject, body, channel).map(
						(one) => `${event} ${language} ${channel}: ${one.says}`
					);
				})
			)
		);
		expect(wrong).toEqual([]);
	});
});
