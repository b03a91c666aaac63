import { linkBySlug, linkAddress, linkSettings } from '$lib/server/bill/links';
import { lookOf } from '$lib/server/bill/payerDoc';
import { formatAmount } from '$lib/core/money';
import type { RequestHandler } from './$types';

/**
 * One script tag that puts a button or a small card on a web page. It makes its parts by the document's own means and sets
 * colours through properties, so that it works under a content policy that allows scripts of this origin and nothing inline.
 */
export const GET: RequestHandler = async ({ params }) => {
	const row = await linkBySlug(params.slug);
	const headers = {
		'content-type': 'text/javascript; charset=utf-8',
		'access-control-allow-origin': '*',
		'cross-origin-resource-policy': 'cross-origin',
		'cache-control': 'public, max-age=300'
	};
	if (!row || row.closedAt !== null)
		return new Response('// this pay link is closed\n', { status: row ? 200 : 404, headers });
	const settings = linkSettings(row);
	const look = await lookOf(row.tillId);
	const WORDS = { pay: 'Pay', book: 'Book and pay', donate: 'Donate', own: settings.ownButton };
	const told = {
		address: linkAddress(row),
		title: settings.title,
		about: settings.about,
		sum:
			settings.asksFor === 'fixed sum'
				? formatAmount({ minor: settings.fixed, currency: settings.currency }, 'en-GB')
				: '',
		button: WORDS[settings.button],
		colour: settings.colour || look.colour
	};
	return new Response(
		`(function () {
	var told = ${JSON.stringify(told).replace(/</g, '\\u003c')};
	var tag = document.currentScript;
	var make = function (name, text, style) {
		var one = document.createElement(name);
		if (text) one.textContent = text;
		Object.keys(style || {}).forEach(function (key) { one.style[key] = style[key]; });
		return one;
	};
	var link = make('a', told.button + (told.sum ? ' ' + told.sum : ''), {
		display: 'inline-block', background: told.colour, color: '#fff', padding: '10px 18px', borderRadius: '3px',
		fontWeight: '600', textDecoration: 'none'
	});
	link.href = told.address;
	link.target = '_blank';
	link.rel = 'noopener';
	var whole = link;
	if (tag && tag.dataset.as === 'card') {
		whole = make('div', '', { border: '1px solid #cfc2ae', borderRadius: '3px', padding: '16px', maxWidth: '320px' });
		whole.appendChild(make('strong', told.title, { display: 'block', fontSize: '18px' }));
		if (told.about) whole.appendChild(make('p', told.about, { margin: '6px 0 12px' }));
		whole.appendChild(link);
	}
	if (tag && tag.parentNode) tag.parentNode.insertBefore(whole, tag);
	else document.body.appendChild(whole);
})();
`,
		{ headers }
	);
};
