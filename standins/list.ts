import { STANDINS } from './main.ts';

// Tells every stand-in as JSON, for scripts that are no TypeScript: name, usual port, and who signs in at its console.
console.log(JSON.stringify(Object.values(STANDINS).map(({ name, port, signIn }) => ({ name, port, signIn }))));
process.exit(0);
