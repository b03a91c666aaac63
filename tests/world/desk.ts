import type { World } from './index.ts';
import { freshFetch, SIGN_IN } from './index.ts';

/** Reads SvelteKit's flattened answer of an action. */
function unflatten(values: unknown[]): unknown {
	const build = (index: number): unknown => {
		if (index < 0) return undefined;
		const value = values[index];
		if (Array.isArray(value)) return value.map((one) => build(one as number));
		if (value && typeof value === 'object')
			return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, build(one as number)]));
		return value;
	};
	return build(0);
}

export interface ActionAnswer {
	readonly type: 'success' | 'failure' | 'redirect' | 'error';
	readonly status: number;
	readonly location?: string;
	// what an action gives differs from form to form
	readonly data?: Record<string, unknown>;
}

/** The administrator, or a payer, speaking HTTP as the pages do. */
export class Desk {
	private readonly cookies = new Map<string, string>();

	constructor(readonly world: World) {}

	get cookie(): string {
		return [...this.cookies].map(([name, value]) => `${name}=${value}`).join('; ');
	}
	private keepCookies(answer: Response): void {
		for (const set of answer.headers.getSetCookie()) {
			const [name = '', value = ''] = set.split(';')[0]!.split(/=(.*)/s);
			if (/max-age=0|expires=Thu, 01 Jan 1970/i.test(set)) this.cookies.delete(name);
			else this.cookies.set(name, value);
		}
	}
	/** Signs out as an ended session does: the cookie is gone, what else the browser holds stays. */
	loseSession(): void {
		this.cookies.delete('purse_session');
	}

	async get(path: string, headers: Record<string, string> = {}): Promise<Response> {
		return freshFetch(path.startsWith('http') ? path : this.world.app.address + path, {
			headers: { cookie: this.cookie, accept: 'text/html', ...headers },
			redirect: 'manual'
		});
	}

	/** What a page shows, as the data that it is drawn from. */
	async data<T>(path: string): Promise<T> {
		const [at, query] = path.split('?');
		const answer = await this.get(`${at}/__data.json${query ? `?${query}` : ''}`);
		// what comes after the page is in lines of its own, and is not waited for
		const [first] = (await answer.text()).split('\n');
		const { nodes } = JSON.parse(first!) as { nodes: ({ data?: unknown[] } | null)[] };
		return unflatten(nodes.filter((node) => node?.data).at(-1)!.data!) as T;
	}

	/** What comes after a page, in the order in which it comes. */
	async late<T>(path: string): Promise<T[]> {
		const [at, query] = path.split('?');
		const answer = await this.get(`${at}/__data.json${query ? `?${query}` : ''}`);
		return (await answer.text())
			.split('\n')
			.slice(1)
			.filter(Boolean)
			.map((line) => JSON.parse(line) as { type: string; data: unknown[] })
			.filter((one) => one.type === 'chunk')
			.map((one) => unflatten(one.data) as T);
	}

	/** What stands around a page: the data of the outermost layout. */
	async layout<T>(path: string): Promise<T> {
		const answer = await this.get(`${path}/__data.json?x-sveltekit-invalidated=111`);
		const { nodes } = (await answer.json()) as { nodes: ({ data?: unknown[] } | null)[] };
		return Object.assign({}, ...nodes.flatMap((node) => (node?.data ? [unflatten(node.data)] : []))) as T;
	}

	/** Posts a form as the page's script does, and reads what the action answered. */
	async act(path: string, form: Record<string, string | string[]>): Promise<ActionAnswer> {
		const body = new URLSearchParams();
		for (const [name, value] of Object.entries(form)) for (const one of [value].flat()) body.append(name, one);
		const answer = await freshFetch(path.startsWith('http') ? path : this.world.app.address + path, {
			method: 'POST',
			headers: {
				cookie: this.cookie,
				accept: 'application/json',
				origin: this.world.app.address,
				'content-type': 'application/x-www-form-urlencoded',
				'x-sveltekit-action': 'true'
			},
			body,
			redirect: 'manual'
		});
		return this.readAnswer(answer);
	}

	/** Makes a token of the interface, good for everything unless it is said for what. */
	async makeToken(
		name: string,
		scope: string[] = ['tills', 'line-ups', 'checkouts', 'payments', 'money', 'payers', 'fees', 'billing'],
		more: Record<string, string | string[]> = {}
	): Promise<string> {
		return String((await this.act('/accept/tokens?/make', { name, scope, ...more })).data!.token);
	}

	/** Submits a plain form, as a page without JavaScript does. */
	async submit(path: string, form: URLSearchParams): Promise<Response> {
		return freshFetch(this.world.app.address + path, {
			method: 'POST',
			headers: { cookie: this.cookie, accept: 'text/html', origin: this.world.app.address },
			body: form,
			redirect: 'manual'
		});
	}

	/** Posts a form with a file in it. */
	async upload(
		path: string,
		form: Record<string, string>,
		box: string,
		name: string,
		content: string | Uint8Array
	): Promise<ActionAnswer> {
		const body = new FormData();
		for (const [field, value] of Object.entries(form)) body.append(field, value);
		body.append(
			box,
			new Blob([typeof content === 'string' ? content : new Uint8Array(content)], { type: 'text/csv' }),
			name
		);
		const answer = await freshFetch(this.world.app.address + path, {
			method: 'POST',
			headers: {
				cookie: this.cookie,
				accept: 'application/json',
				origin: this.world.app.address,
				'x-sveltekit-action': 'true'
			},
			body,
			redirect: 'manual'
		});
		return this.readAnswer(answer);
	}

	private async readAnswer(answer: Response): Promise<ActionAnswer> {
		this.keepCookies(answer);
		const read = (await answer.json()) as {
			type: ActionAnswer['type'];
			status: number;
			location?: string;
			data?: string;
		};
		return {
			...read,
			data: read.data ? (unflatten(JSON.parse(read.data) as unknown[]) as Record<string, unknown>) : undefined
		};
	}

	async signIn(password = SIGN_IN.password): Promise<ActionAnswer> {
		return this.act('/sign-in', { mail: SIGN_IN.mail, password });
	}
	async setUp(): Promise<void> {
		await this.signIn();
		await this.act('/set-up', {
			name: 'Wren & Alder Strings',
			country: 'BE',
			homeCurrency: 'EUR',
			timeZone: 'Europe/Brussels'
		});
	}
	async connect(keys?: { publicKey: string; secretKey: string }, mode = 'live'): Promise<ActionAnswer> {
		return this.act('/connect/processors/fernhall?/connect', { mode, ...(keys ?? (await this.world.keys())) });
	}
	/** Confirms what a processor says it charges as what was agreed upon, as an administrator does. */
	async confirmPrices(connection: string): Promise<void> {
		const page = await (await this.get(`/connect/connections/${connection}/rates`)).text();
		for (const [, day] of page.matchAll(/\?version=proposal-(\d{4}-\d{2}-\d{2})/g))
			await this.act(`/connect/connections/${connection}/rates?/confirm`, { version: day! });
	}
	/** Connects Fernhall, adds a credit transfer, sets the Web shop up with both, and publishes. Gives the connection's id. */
	async openWebShop(): Promise<{ connection: string; offline: string }> {
		await this.setUp();
		const connection = (await this.connect()).location!.match(/connections\/([^?]+)/)![1]!;
		await this.confirmPrices(connection);
		const offline = (
			await this.act('/connect/offline/new', {
				name: 'Credit transfer',
				holder: 'Wren & Alder Strings',
				iban: 'BE68 5390 0754 7034',
				currencies: 'EUR',
				kind: 'credit-transfer',
				referenceStyle: 'structured',
				transferCode: 'on',
				termDays: '10'
			})
		).location!.match(/offline\/([^?]+)/)![1]!;
		await this.act('/accept/tills/new', {
			name: 'Web shop',
			mode: 'live',
			currencies: ['EUR', 'GBP', 'JPY'],
			colour: '#2f4b3c'
		});
		const offer = { on: 'on', boundCurrency: 'EUR', countryRule: 'any' };
		await this.act('/accept/tills/web-shop/offers/new?/save', {
			...offer,
			revision: '0',
			carrier: `connection:${connection}:card`,
			name: 'Card',
			currencies: ['EUR', 'GBP', 'JPY'],
			schemes: ['corvid', 'mainsail', 'tessel'],
			fundings: ['debit', 'credit', 'prepaid'],
			regions: ['domestic', 'regional', 'international']
		});
		await this.act('/accept/tills/web-shop/offers/new?/save', {
			...offer,
			revision: '1',
			carrier: `offline:${offline}:credit-transfer`,
			name: 'Credit transfer',
			currencies: ['EUR'],
			minimum: '20.00'
		});
		const published = await this.act('/accept/tills/web-shop?/publish', { revision: '2', reason: '' });
		if (published.type !== 'success') throw new Error(JSON.stringify(published));
		return { connection, offline };
	}
	async address(
		amount: string,
		reference: string,
		currency = 'EUR',
		more: Record<string, string> = {}
	): Promise<string> {
		const answer = await this.act('/accept/tills/web-shop/address', {
			amount,
			currency,
			reference,
			name: 'Ana Müller',
			mail: 'ana@payer.example',
			...more
		});
		if (!answer.data?.address) throw new Error(JSON.stringify(answer));
		return String(answer.data.address);
	}
	/** A token from Fernhall's card fields, as a payer's browser gets one. */
	async token(number: string): Promise<string> {
		const { publicKey } = await this.world.keys();
		const answer = await fetch(`${this.world.fernhall.address}/fields/token`, {
			method: 'POST',
			headers: { 'content-type': 'application/json' },
			body: JSON.stringify({ key: publicKey, number, expiry: '09/29', code: '123' })
		});
		return ((await answer.json()) as { token: string }).token;
	}
	/** The id of an offer at the payer's page, by its name. */
	async way(address: string, name: string): Promise<string> {
		const page = await (await this.get(address)).text();
		const match = new RegExp(`id:"([^"]+)",name:"${name}"`).exec(page);
		if (!match) throw new Error(`no way called ${name} at ${address}`);
		return match[1]!;
	}
	async giveCard(address: string, number: string): Promise<ActionAnswer> {
		return this.act(address, { way: await this.way(address, 'Card'), token: await this.token(number) });
	}
}
