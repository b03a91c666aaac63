// The floor of the arrivals: a bare Node server that commits the same rows to SQLite in groups, and checks nothing.
import { createServer } from 'node:http';
import sqlite3 from 'sqlite3';

const [file, port] = process.argv.slice(2);
const db = new sqlite3.Database(file);
const columns = '(connection_id, event_id, received_at, headers, body, checks)';
let waiting = [];
let running = false;
let count = 0;
const statements = new Map();

async function run() {
	running = true;
	await new Promise((next) => setImmediate(next));
	while (waiting.length) {
		const group = waiting.splice(0, 200);
		let statement = statements.get(group.length);
		if (!statement) {
			statement = db.prepare(
				`INSERT OR IGNORE INTO arrivals ${columns} VALUES ${group.map(() => '(?, ?, ?, ?, ?, ?)').join(', ')}`
			);
			statements.set(group.length, statement);
		}
		await new Promise((done) =>
			statement.run(
				group.flatMap((one) => one.row),
				done
			)
		);
		for (const { answer } of group) answer();
	}
	running = false;
}

db.exec(
	`PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;
	CREATE TABLE arrivals (id INTEGER PRIMARY KEY AUTOINCREMENT, connection_id TEXT NOT NULL, event_id TEXT NOT NULL, received_at INTEGER NOT NULL, headers TEXT NOT NULL,
		body TEXT NOT NULL, checks TEXT NOT NULL, state TEXT NOT NULL DEFAULT 'stored', tries INTEGER NOT NULL DEFAULT 0, next_at INTEGER NOT NULL DEFAULT 0, topic TEXT NOT NULL DEFAULT '',
		says TEXT NOT NULL DEFAULT '', payment_id INTEGER, done_at INTEGER, UNIQUE (connection_id, event_id));
	CREATE INDEX arrivals_due ON arrivals (state, next_at);
	CREATE INDEX arrivals_payment ON arrivals (payment_id) WHERE payment_id IS NOT NULL;
	CREATE INDEX arrivals_state ON arrivals (state, id)`,
	() =>
		createServer((request, response) => {
			if (request.method === 'GET') return response.end('ready');
			const chunks = [];
			request.on('data', (chunk) => chunks.push(chunk));
			request.on('end', () => {
				const { headers } = request;
				const kept = JSON.stringify({
					'content-type': headers['content-type'],
					'webhook-id': headers['webhook-id'],
					'webhook-timestamp': headers['webhook-timestamp'],
					'webhook-signature': headers['webhook-signature']
				});
				const checks = JSON.stringify([
					{
						step: 'Signature',
						ok: true,
						says: '1 signature over id, time and body: made with this connection’s secret.'
					},
					{ step: 'Time', ok: true, says: 'Sent 0 s before it arrived; up to 300 s either way is taken.' }
				]);
				waiting.push({
					row: [
						'a-connection-id-of-22-cs',
						headers['webhook-id'] ?? `bare-${++count}`,
						Date.now(),
						kept,
						Buffer.concat(chunks).toString(),
						checks
					],
					answer: () => response.end('Stored.')
				});
				if (!running) void run();
			});
		}).listen(Number(port), '127.0.0.1')
);
