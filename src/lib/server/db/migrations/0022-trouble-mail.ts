/** Whom a processor mails when its notifications do not get here. */
export const twentySecond: readonly string[] = [
	`ALTER TABLE connections ADD COLUMN hook_mail TEXT NOT NULL DEFAULT ''`
];
