// Every limit on what comes from outside, each with its unit and its reason. Nothing else in the server says how much it
// takes: `docs/security.md` lists them.

const KB = 1_000;
const MB = 1_000 * KB;

/** Bytes of a request's body, by who may send it. Counted as they come, whatever `content-length` says. */
export const BODY = {
	/** a mail address and a password */
	signIn: 16 * KB,
	/** a payer's name, mail, address and choice */
	payer: 64 * KB,
	/** a line-up of forty offers as JSON is some 100 KB; the document of the interface says 1 MB */
	interface: 1 * MB,
	/** forms of the desk: instructions as rich text, a line-up while it is edited */
	desk: 1 * MB,
	/** payers as CSV: 100,000 of them */
	payersFile: 16 * MB,
	/** a delivery note as evidence in a dispute: processors take 2 MB, and the form adds a little */
	disputeFile: 2_100_000,
	/** a line-up as a file */
	lineUpFile: 2 * MB,
	/** two to three million lines of a settlement file; it goes to the disk as it comes */
	settlementFile: 400_000_000,
	/** the largest notification that a processor of the catalogue sends is 60 KB */
	notification: 256 * KB,
	/** one without a proof of its own: anyone may send it, and it names what to ask after, no more */
	unproven: 16 * KB
} as const;

/** Fields of a form: more are no form of ours, and cost more to take apart than to refuse. */
export const FIELDS = { open: 200, desk: 5_000 } as const;

/** Milliseconds in which a body must have come whole; a file may take as long as it comes at all. */
export const BODY_MS = 15_000;

/** Answers of others: bytes after decoding, and milliseconds for all of it. */
export const OUTSIDE = {
	/** the longest answer of a processor is a list of rates, some 200 KB */
	answerBytes: 2_000_000,
	/** what an endpoint answers to an event: its beginning is shown, the rest is cut */
	hookBytes: 2_000,
	/** milliseconds in which an endpoint must answer, as the schedule of Standard Webhooks has it */
	hookMs: 15_000,
	/** a shop's page, of which only the head is looked at */
	pageBytes: 2_000_000,
	answerMs: 10_000,
	pageMs: 8_000
} as const;

/** Passwords: hashing one takes some 60 ms of a core and 19 MB, and a thread that the database needs, too. */
export const PASSWORDS = {
	/** hashed at the same time */
	atOnce: 2,
	/** that may wait for their turn; the rest is refused at once */
	waiting: 8,
	/** wrong ones for one mail from one address in `windowSeconds` */
	perMailAndAddress: 5,
	/** wrong ones from one address, whatever the mail */
	perAddress: 30,
	/** wrong ones for one mail from everywhere; a browser that signed in before is exempt */
	perMail: 100,
	windowSeconds: 900
} as const;

/** What programs may ask of the interface, in a minute. */
export const TOKENS = {
	/** requests of one token: twenty a second, more than any shop needs */
	requests: 1_200,
	/** requests without a good token, of one address: a token has 256 bits, so it is the server that this spares */
	wrongPerAddress: 60,
	windowSeconds: 60
} as const;

/** What anyone may ask of payers' pages, in a minute. */
export const PAYERS = {
	/** pages of one address: a family behind one router, a school behind one proxy */
	pagesPerAddress: 600,
	/** acts (a way chosen, a card given) of one address */
	actsPerAddress: 120,
	/** acts at one order */
	actsPerOrder: 30,
	/** acts at one till: some ten a second */
	actsPerTill: 600,
	windowSeconds: 60
} as const;

/** Troubles of a file that are told; with more of them it is another file, not a better one that is needed. */
export const TROUBLES = 50;

/** Mail: milliseconds until its server is there, and for each of its answers. */
export const MAIL = { connectMs: 10_000, answerMs: 30_000 } as const;

/** Codes by which payers sign in: for one mail address in a quarter of an hour, and guesses at one code. */
export const PAYER_CODES = { perMail: 3, perAddress: 20, guesses: 5, windowSeconds: 900, goodMs: 600_000 } as const;
