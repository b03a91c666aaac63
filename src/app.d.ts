import type { IncomingMessage } from 'node:http';

declare global {
	namespace App {
		interface Error {
			message: string;
			/** what to do now */
			help?: string;
		}
		/** what the server hands over; nothing in development */
		interface Platform {
			req: IncomingMessage;
		}
		interface Locals {
			user?: { id: string; name: string; mail: string; role: string };
			/** BCP 47, from what the reader's browser asks for */
			locale: string;
			theme: 'auto' | 'light' | 'dark';
			/** the language that the page is written in */
			language: string;
			/** origins whose frames this page may show */
			frames: string[];
			/** origins that a form of this page may lead on to */
			goes: string[];
		}
	}
}
