import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { history } from './index.ts';

// Writes the houses' settlement files into a folder: `node --import tsx standins/history/main.ts FOLDER 24000`
const [folder = 'data/settlements', payments = '24000'] = process.argv.slice(2);
mkdirSync(folder, { recursive: true });
const until = new Date(Date.now() - 86_400_000).toISOString().slice(0, 10);
for (const [house, text] of history({ until, payments: Number(payments) }))
	writeFileSync(join(folder, `${house}.csv`), text);
