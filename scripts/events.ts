import { writeFileSync } from 'node:fs';
import { format, resolveConfig } from 'prettier';
import { eventsPage } from '../src/lib/core/hooks';

// Writes the page of events from their schemas.
const path = 'docs/events.md';
writeFileSync(path, await format(eventsPage(), { ...(await resolveConfig(path)), filepath: path }));
