/** Whom a processor mails when its notifications do not get here; empty where that is nobody, null where nobody has said. */
export const twentySecond: readonly string[] = [`ALTER TABLE connections ADD COLUMN hook_mail TEXT`];
