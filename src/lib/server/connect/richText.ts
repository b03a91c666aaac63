import sanitize from 'sanitize-html';

const OPTIONS: sanitize.IOptions = {
	allowedTags: ['p', 'br', 'strong', 'em', 'ul', 'ol', 'li', 'a'],
	allowedAttributes: { a: ['href', 'rel', 'target'] },
	allowedSchemes: ['https', 'http', 'mailto', 'tel'],
	allowProtocolRelative: false,
	transformTags: {
		b: 'strong',
		i: 'em',
		a: (_, { href }) => ({
			tagName: 'a',
			attribs: { ...(href ? { href } : {}), rel: 'noopener nofollow', target: '_blank' }
		})
	}
};

/** Rich text from outside, reduced to what payers' pages may carry: paragraphs, lists, emphasis and links. */
export function cleanRichText(html: string): string {
	const clean = sanitize(html, OPTIONS).trim();
	return /^(<p>(<br ?\/?>|\s)*<\/p>)*$/.test(clean) ? '' : clean;
}
/** The same as plain text, for mail and paper. Links stand beside their words. */
export const plainText = (html: string): string =>
	sanitize(
		html
			.replace(/<a [^>]*href="([^"]*)"[^>]*>(.*?)<\/a>/g, (_, href: string, words: string) =>
				words.includes(href.replace(/^(mailto|tel):/, '')) ? words : `${words} (${href.replace(/^(mailto|tel):/, '')})`
			)
			.replace(/<li>/g, '– ')
			.replace(/<\/(p|li)>|<br ?\/?>/g, '\n'),
		{ allowedTags: [], allowedAttributes: {} }
	)
		.replace(/&lt;/g, '<')
		.replace(/&gt;/g, '>')
		.replace(/&quot;/g, '"')
		.replace(/&amp;/g, '&')
		.replace(/\n{2,}/g, '\n')
		.trim();
