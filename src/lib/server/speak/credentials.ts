import { seal, unseal } from '../access';
import type { Connector, Credentials } from '../connectors';
import { db, Named, type ConnectionRow } from '../db';

/** The names of a connector's credentials that are secret: boxes that say so, and what a consent gave. */
export const secretNames = (connector: Connector): string[] => [
	...connector.fields.filter((one) => one.secret).map((one) => one.name),
	...(connector.consent ? ['access', 'refresh'] : [])
];

/** Credentials parted into what may be shown and what is sealed. */
export function splitCredentials(connector: Connector, credentials: Credentials): { given: string; secrets: string } {
	const secret = new Set(secretNames(connector));
	const part = (wanted: boolean) =>
		JSON.stringify(Object.fromEntries(Object.entries(credentials).filter(([name]) => secret.has(name) === wanted)));
	return { given: part(false), secrets: part(true) };
}
/** Secrets of one connection, sealed for it alone. */
export const sealSecrets = (secrets: string, purpose: string): string => seal(secrets, purpose);
export function openSecrets(sealed: string, purpose: string): Credentials {
	const text = unseal(sealed, purpose).toString();
	// a connection that was made before secrets were kept by name has a secret key alone
	return text.startsWith('{') ? Named.parse(JSON.parse(text)) : { secretKey: text };
}
export const readGiven = (text: string): Credentials => db.connections.json.given(text);

/** The credentials of a connection, unsealed for one call to its processor. */
export const credentialsOf = (row: Pick<ConnectionRow, 'id' | 'given' | 'secretSealed'>): Credentials => ({
	...readGiven(row.given),
	...openSecrets(row.secretSealed, `connection ${row.id}`)
});

/** The credentials that were replaced and are valid for a while yet. */
export const oldCredentialsOf = (row: ConnectionRow): Credentials | undefined =>
	row.oldSecretSealed
		? { ...readGiven(row.oldGiven ?? '{}'), ...openSecrets(row.oldSecretSealed, `connection ${row.id}`) }
		: undefined;

/** By what a person knows a secret again: the last four signs of the box it was given in. */
export function lastFour(connector: Connector, credentials: Credentials): string {
	const name = connector.fields.find((one) => one.secret)?.name ?? 'access';
	return (credentials[name] ?? '').slice(-4);
}
