// The build loads the server's modules to read what their pages ask for; it opens no database. Where the driver is still being
// compiled beside it, an empty one stands in for it.
import Module from 'node:module';

const load = Module._load;
Module._load = function (request, ...rest) {
	if (!request.endsWith('sqlite3-binding.js')) return load.call(this, request, ...rest);
	try {
		return load.call(this, request, ...rest);
	} catch {
		return { Database: class {}, Statement: class {}, Backup: class {} };
	}
};
