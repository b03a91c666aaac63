import { STANDINS } from '../../standins/main.ts';
import { freshFetch } from './index.ts';

/** Who signs in at a stand-in's own console. */
export const consoleSignIn = (name: string) => STANDINS[name]!.signIn!;

/** Somebody at a stand-in's own console. */
export class ConsoleHand {
	private cookie = '';

	constructor(
		readonly address: string,
		readonly name: string
	) {}

	async signIn(): Promise<this> {
		const answer = await freshFetch(`${this.address}/console/sign-in`, {
			method: 'POST',
			body: new URLSearchParams(consoleSignIn(this.name)),
			redirect: 'manual'
		});
		this.cookie = answer.headers.getSetCookie()[0]!.split(';')[0]!;
		return this;
	}
	press(path: string, form: Record<string, string> = {}): Promise<Response> {
		return freshFetch(`${this.address}/console/${path}`, {
			method: 'POST',
			headers: { cookie: this.cookie },
			body: new URLSearchParams(form),
			redirect: 'manual'
		});
	}
	/** Answers a consent. @returns where the browser is sent back to */
	async consent(asked: string, scopes: readonly string[], answer: 'yes' | 'no' = 'yes'): Promise<string> {
		const body = new URLSearchParams({ answer });
		for (const scope of scopes) body.append('scope', scope);
		const told = await freshFetch(asked, {
			method: 'POST',
			headers: { cookie: this.cookie },
			body,
			redirect: 'manual'
		});
		const to = told.headers.get('location');
		if (!to) throw new Error(`no way back from the consent: ${told.status} ${await told.text()}`);
		return to;
	}
}
