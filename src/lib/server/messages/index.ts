export {
	compose,
	instructionsOf,
	invoiceAddress,
	languageOf,
	owedAddress,
	plainWords,
	valuesFor,
	type About
} from './compose';
export { DEFAULTS, defaultTemplate, MESSAGE_LANGUAGES } from './defaults';
export { asHtml } from './mail';
export { deliver, queue, sendAgain, tellUnfinished, type Message } from './outbox';
export { MessageSettings, saveSending, sending, testMail } from './settings';
export {
	allTemplates,
	chooseTemplate,
	dropTemplate,
	isChannel,
	isEvent,
	saveTemplate,
	templateOf,
	variants,
	type TemplateKey
} from './templates';
export { channelOf, tellEvents } from './told';
