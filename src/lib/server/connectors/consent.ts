import { z } from 'zod';
import { ConnectorError, type Consent, type Credentials, type Mode, type Tokens } from './contract';
import { call, readAs } from './http';
import { timeNow } from '../signals/clock';

const CLIENT = 'just-purse';
const TokenAnswer = z.object({
	access_token: z.string().min(8),
	refresh_token: z.string().min(8),
	expires_in: z.number().int().positive(),
	scope: z.string()
});

/** Consent by OAuth 2.0, authorisation code with PKCE (RFC 6749, RFC 7636 S256), as two of the processors give it. */
export function consentAt(name: string, base: () => string, scopes: Readonly<Record<string, string>>): Consent {
	const token = async (form: Record<string, string>): Promise<Tokens | undefined> => {
		const { status, json } = await call(name, `${base()}/consent/token`, {
			method: 'POST',
			form: { client_id: CLIENT, ...form }
		});
		if (status === 400) return undefined;
		if (status > 400) throw new ConnectorError('refused', `${name} refused the exchange (${status}).`);
		const told = readAs(name, TokenAnswer, json);
		return {
			access: told.access_token,
			refresh: told.refresh_token,
			expiresAt: String(timeNow() + told.expires_in * 1000),
			scope: told.scope
		};
	};
	return {
		scopes,
		address: ({
			state,
			challenge,
			returnTo,
			mode
		}: {
			state: string;
			challenge: string;
			returnTo: string;
			mode: Mode;
		}) =>
			`${base()}/consent?${new URLSearchParams({
				response_type: 'code',
				client_id: CLIENT,
				redirect_uri: returnTo,
				scope: Object.keys(scopes).join(' '),
				state,
				code_challenge: challenge,
				code_challenge_method: 'S256',
				mode
			})}`,
		async exchange({ code, verifier, returnTo }) {
			return (
				(await token({ grant_type: 'authorization_code', code, code_verifier: verifier, redirect_uri: returnTo })) ?? [
					{
						code: 'expired',
						field: '',
						says: `${name} did not take the answer: it is good once and for one minute only. Give consent once more.`
					}
				]
			);
		},
		async refresh(credentials: Credentials) {
			return (
				(await token({ grant_type: 'refresh_token', refresh_token: credentials.refresh ?? '' })) ?? [
					{
						code: 'revoked',
						field: '',
						says: `The consent at ${name} has ended or was withdrawn. Give it once more.`
					}
				]
			);
		}
	};
}

/** Scopes that were asked for and not given, as problems. */
export const scopesMissing = (name: string, consent: Consent, given: string) =>
	Object.entries(consent.scopes)
		.filter(([scope]) => !given.split(' ').includes(scope))
		.map(([scope, breaks]) => ({
			code: 'scope' as const,
			field: '',
			says: `The consent at ${name} does not include “${scope}”: ${breaks} Give consent once more, with every box ticked.`
		}));
