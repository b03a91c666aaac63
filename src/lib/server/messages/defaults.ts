import type { Channel, MessageEvent } from '../../core/billing';
import { sayDays } from '../../core/calendar';

// What messages say as long as nobody has written something else, in each language. Texts for phones are short.

export const MESSAGE_LANGUAGES = { en: 'English', nl: 'Nederlands', fr: 'Français', de: 'Deutsch' } as const;
export type MessageLanguage = keyof typeof MESSAGE_LANGUAGES;
interface Words {
	readonly subject: string;
	readonly body: string;
	readonly text: string;
}

export const DEFAULTS: Readonly<
	Record<MessageEvent, Readonly<Partial<Record<MessageLanguage, Words>>> & { en: Words }>
> = {
	quote: {
		en: {
			subject: 'Quote {{quote.number}} from {{business.name}}',
			body: 'Dear {{payer.name}},\n\nHere is our quote for {{invoice.purpose}}: {{quote.total}}, good until {{quote.until}}.\n\nLook at it, and accept or decline it here:\n{{quote.link}}\n\n{{business.name}}',
			text: '{{business.name}}: quote {{quote.number}}, {{quote.total}}, until {{quote.until}}: {{quote.link}}'
		},
		nl: {
			subject: 'Offerte {{quote.number}} van {{business.name}}',
			body: 'Beste {{payer.name}},\n\nHierbij onze offerte voor {{invoice.purpose}}: {{quote.total}}, geldig tot {{quote.until}}.\n\nBekijk ze en keur ze hier goed of af:\n{{quote.link}}\n\n{{business.name}}',
			text: '{{business.name}}: offerte {{quote.number}}, {{quote.total}}, tot {{quote.until}}: {{quote.link}}'
		},
		fr: {
			subject: 'Devis {{quote.number}} de {{business.name}}',
			body: 'Bonjour {{payer.name}},\n\nVoici notre devis pour {{invoice.purpose}} : {{quote.total}}, valable jusqu’au {{quote.until}}.\n\nConsultez-le, acceptez-le ou refusez-le ici :\n{{quote.link}}\n\n{{business.name}}',
			text: '{{business.name}} : devis {{quote.number}}, {{quote.total}}, jusqu’au {{quote.until}} : {{quote.link}}'
		},
		de: {
			subject: 'Angebot {{quote.number}} von {{business.name}}',
			body: 'Guten Tag {{payer.name}},\n\nhier ist unser Angebot für {{invoice.purpose}}: {{quote.total}}, gültig bis {{quote.until}}.\n\nSehen Sie es an und nehmen Sie es hier an oder lehnen Sie es ab:\n{{quote.link}}\n\n{{business.name}}',
			text: '{{business.name}}: Angebot {{quote.number}}, {{quote.total}}, bis {{quote.until}}: {{quote.link}}'
		}
	},
	invoice: {
		en: {
			subject: 'Invoice {{invoice.number}} from {{business.name}}: {{invoice.total}}',
			body: 'Dear {{payer.name}},\n\nThis is our invoice {{invoice.number}} for {{invoice.purpose}}: {{invoice.total}}.\nTo be paid: {{invoice.due}} by {{invoice.due_day}}.\n\nSee it and pay it here:\n{{invoice.link}}\n\nThank you,\n{{business.name}}',
			text: '{{business.name}}: invoice {{invoice.number}}, {{invoice.due}} by {{invoice.due_day}}: {{invoice.link}}'
		},
		nl: {
			subject: 'Factuur {{invoice.number}} van {{business.name}}: {{invoice.total}}',
			body: 'Beste {{payer.name}},\n\nDit is onze factuur {{invoice.number}} voor {{invoice.purpose}}: {{invoice.total}}.\nTe betalen: {{invoice.due}} tegen {{invoice.due_day}}.\n\nBekijk en betaal ze hier:\n{{invoice.link}}\n\nDank u,\n{{business.name}}',
			text: '{{business.name}}: factuur {{invoice.number}}, {{invoice.due}} tegen {{invoice.due_day}}: {{invoice.link}}'
		},
		fr: {
			subject: 'Facture {{invoice.number}} de {{business.name}} : {{invoice.total}}',
			body: 'Bonjour {{payer.name}},\n\nVoici notre facture {{invoice.number}} pour {{invoice.purpose}} : {{invoice.total}}.\nÀ payer : {{invoice.due}} avant le {{invoice.due_day}}.\n\nConsultez-la et payez-la ici :\n{{invoice.link}}\n\nMerci,\n{{business.name}}',
			text: '{{business.name}} : facture {{invoice.number}}, {{invoice.due}} avant le {{invoice.due_day}} : {{invoice.link}}'
		},
		de: {
			subject: 'Rechnung {{invoice.number}} von {{business.name}}: {{invoice.total}}',
			body: 'Guten Tag {{payer.name}},\n\nhier ist unsere Rechnung {{invoice.number}} für {{invoice.purpose}}: {{invoice.total}}.\nZu zahlen: {{invoice.due}} bis {{invoice.due_day}}.\n\nAnsehen und zahlen:\n{{invoice.link}}\n\nVielen Dank,\n{{business.name}}',
			text: '{{business.name}}: Rechnung {{invoice.number}}, {{invoice.due}} bis {{invoice.due_day}}: {{invoice.link}}'
		}
	},
	reminder: {
		en: {
			subject: 'Reminder: invoice {{invoice.number}}, {{invoice.due}} due {{invoice.due_day}}',
			body: 'Dear {{payer.name}},\n\nOn invoice {{invoice.number}} {{invoice.open}} is open; {{invoice.due}} was to be paid by {{invoice.due_day}}.\n\nPay all that is owed here:\n{{owed.link}}\n\nIf you have paid meanwhile, nothing more is needed.\n{{business.name}}',
			text: '{{business.name}}: invoice {{invoice.number}}, {{invoice.due}} was due {{invoice.due_day}}: {{owed.link}}'
		},
		nl: {
			subject: 'Herinnering: factuur {{invoice.number}}, {{invoice.due}} op {{invoice.due_day}}',
			body: 'Beste {{payer.name}},\n\nVan factuur {{invoice.number}} staat {{invoice.open}} open; {{invoice.due}} was te betalen tegen {{invoice.due_day}}.\n\nBetaal hier alles wat openstaat:\n{{owed.link}}\n\nHebt u intussen betaald, dan hoeft u niets te doen.\n{{business.name}}',
			text: '{{business.name}}: factuur {{invoice.number}}, {{invoice.due}} was te betalen op {{invoice.due_day}}: {{owed.link}}'
		},
		fr: {
			subject: 'Rappel : facture {{invoice.number}}, {{invoice.due}} au {{invoice.due_day}}',
			body: 'Bonjour {{payer.name}},\n\nIl reste {{invoice.open}} à payer sur la facture {{invoice.number}} ; {{invoice.due}} était à payer avant le {{invoice.due_day}}.\n\nPayez ici tout ce qui reste dû :\n{{owed.link}}\n\nSi vous avez payé entre-temps, vous n’avez rien à faire.\n{{business.name}}',
			text: '{{business.name}} : facture {{invoice.number}}, {{invoice.due}} était à payer le {{invoice.due_day}} : {{owed.link}}'
		},
		de: {
			subject: 'Erinnerung: Rechnung {{invoice.number}}, {{invoice.due}} zum {{invoice.due_day}}',
			body: 'Guten Tag {{payer.name}},\n\nvon der Rechnung {{invoice.number}} sind {{invoice.open}} offen; {{invoice.due}} waren bis {{invoice.due_day}} zu zahlen.\n\nHier zahlen Sie alles, was offen ist:\n{{owed.link}}\n\nHaben Sie inzwischen gezahlt, ist nichts mehr zu tun.\n{{business.name}}',
			text: '{{business.name}}: Rechnung {{invoice.number}}, {{invoice.due}} war fällig am {{invoice.due_day}}: {{owed.link}}'
		}
	},
	'offline chosen': {
		en: {
			subject: 'How to pay {{payment.amount}} to {{business.name}}',
			body: 'Dear {{payer.name}},\n\nYou chose {{method.name}} for {{payment.reference}}, {{payment.amount}}.\n\n{{method.instructions}}\n\nThis page tells when it has come:\n{{payment.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{payment.amount}} by {{method.name}} for {{payment.reference}}: {{payment.link}}'
		},
		nl: {
			subject: 'Zo betaalt u {{payment.amount}} aan {{business.name}}',
			body: 'Beste {{payer.name}},\n\nU koos {{method.name}} voor {{payment.reference}}, {{payment.amount}}.\n\n{{method.instructions}}\n\nDeze pagina zegt wanneer het er is:\n{{payment.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{payment.amount}} met {{method.name}} voor {{payment.reference}}: {{payment.link}}'
		},
		fr: {
			subject: 'Comment payer {{payment.amount}} à {{business.name}}',
			body: 'Bonjour {{payer.name}},\n\nVous avez choisi {{method.name}} pour {{payment.reference}}, {{payment.amount}}.\n\n{{method.instructions}}\n\nCette page dit quand le paiement est arrivé :\n{{payment.link}}\n\n{{business.name}}',
			text: '{{business.name}} : {{payment.amount}} par {{method.name}} pour {{payment.reference}} : {{payment.link}}'
		},
		de: {
			subject: 'So zahlen Sie {{payment.amount}} an {{business.name}}',
			body: 'Guten Tag {{payer.name}},\n\nSie haben {{method.name}} für {{payment.reference}} gewählt, {{payment.amount}}.\n\n{{method.instructions}}\n\nDiese Seite sagt, wann es da ist:\n{{payment.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{payment.amount}} mit {{method.name}} für {{payment.reference}}: {{payment.link}}'
		}
	},
	'bank debit': {
		en: {
			subject: '{{payment.amount}} will be collected from your account by {{debit.day}}',
			body: 'Dear {{payer.name}},\n\nAs you agreed, {{payment.amount}} for {{payment.reference}} will be collected from your bank account by {{debit.day}}. Please see that the money is there.\n\nMandate {{debit.mandate}}, {{debit.account}}. On your statement it says {{debit.creditor}}.\n\nThis page tells when it has come:\n{{payment.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{payment.amount}} for {{payment.reference}} will be collected from your account by {{debit.day}}: {{payment.link}}'
		},
		nl: {
			subject: '{{payment.amount}} wordt uiterlijk op {{debit.day}} van uw rekening geïnd',
			body: 'Beste {{payer.name}},\n\nZoals afgesproken wordt {{payment.amount}} voor {{payment.reference}} uiterlijk op {{debit.day}} van uw bankrekening geïnd. Zorg alstublieft dat het geld er staat.\n\nMandaat {{debit.mandate}}, {{debit.account}}. Op uw uittreksel staat {{debit.creditor}}.\n\nDeze pagina zegt wanneer het er is:\n{{payment.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{payment.amount}} voor {{payment.reference}} wordt uiterlijk op {{debit.day}} van uw rekening geïnd: {{payment.link}}'
		},
		fr: {
			subject: '{{payment.amount}} seront prélevés sur votre compte au plus tard le {{debit.day}}',
			body: 'Bonjour {{payer.name}},\n\nComme convenu, {{payment.amount}} pour {{payment.reference}} seront prélevés sur votre compte bancaire au plus tard le {{debit.day}}. Merci de veiller à ce que la somme s’y trouve.\n\nMandat {{debit.mandate}}, {{debit.account}}. Votre relevé indiquera {{debit.creditor}}.\n\nCette page dit quand le paiement est arrivé :\n{{payment.link}}\n\n{{business.name}}',
			text: '{{business.name}} : {{payment.amount}} pour {{payment.reference}} seront prélevés sur votre compte au plus tard le {{debit.day}} : {{payment.link}}'
		},
		de: {
			subject: '{{payment.amount}} werden bis zum {{debit.day}} von Ihrem Konto eingezogen',
			body: 'Guten Tag {{payer.name}},\n\nwie vereinbart werden {{payment.amount}} für {{payment.reference}} bis zum {{debit.day}} von Ihrem Bankkonto eingezogen. Bitte sorgen Sie dafür, dass das Geld dort ist.\n\nMandat {{debit.mandate}}, {{debit.account}}. Auf Ihrem Kontoauszug steht {{debit.creditor}}.\n\nDiese Seite sagt, wann es da ist:\n{{payment.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{payment.amount}} für {{payment.reference}} werden bis zum {{debit.day}} von Ihrem Konto eingezogen: {{payment.link}}'
		}
	},
	'debit announced': {
		en: {
			subject: '{{debit.amount}} will be collected from your account on {{debit.day}}',
			body: 'Dear {{payer.name}},\n\nOn {{debit.day}} we collect {{debit.amount}} for invoice {{invoice.number}} from your bank account {{debit.account}}. Please see that the money is there.\n\nMandate {{debit.mandate}}. On your statement it says {{debit.creditor}}.\n\nIf you would rather pay another way before that day, or something is wrong with it:\n{{invoice.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{debit.amount}} for {{invoice.number}} will be collected from your account {{debit.account}} on {{debit.day}}: {{invoice.link}}'
		},
		nl: {
			subject: '{{debit.amount}} wordt op {{debit.day}} van uw rekening geïnd',
			body: 'Beste {{payer.name}},\n\nOp {{debit.day}} innen we {{debit.amount}} voor factuur {{invoice.number}} van uw bankrekening {{debit.account}}. Zorg alstublieft dat het geld er staat.\n\nMandaat {{debit.mandate}}. Op uw uittreksel staat {{debit.creditor}}.\n\nBetaalt u liever vóór die dag op een andere manier, of klopt er iets niet:\n{{invoice.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{debit.amount}} voor {{invoice.number}} wordt op {{debit.day}} van uw rekening {{debit.account}} geïnd: {{invoice.link}}'
		},
		fr: {
			subject: '{{debit.amount}} seront prélevés sur votre compte le {{debit.day}}',
			body: 'Bonjour {{payer.name}},\n\nLe {{debit.day}} nous prélèverons {{debit.amount}} pour la facture {{invoice.number}} sur votre compte bancaire {{debit.account}}. Merci de veiller à ce que la somme s’y trouve.\n\nMandat {{debit.mandate}}. Votre relevé indiquera {{debit.creditor}}.\n\nSi vous préférez payer autrement avant ce jour, ou si quelque chose ne va pas :\n{{invoice.link}}\n\n{{business.name}}',
			text: '{{business.name}} : {{debit.amount}} pour {{invoice.number}} seront prélevés sur votre compte {{debit.account}} le {{debit.day}} : {{invoice.link}}'
		},
		de: {
			subject: '{{debit.amount}} werden am {{debit.day}} von Ihrem Konto eingezogen',
			body: 'Guten Tag {{payer.name}},\n\nam {{debit.day}} ziehen wir {{debit.amount}} für Rechnung {{invoice.number}} von Ihrem Bankkonto {{debit.account}} ein. Bitte sorgen Sie dafür, dass das Geld dort ist.\n\nMandat {{debit.mandate}}. Auf Ihrem Kontoauszug steht {{debit.creditor}}.\n\nWenn Sie vor diesem Tag lieber anders zahlen, oder etwas nicht stimmt:\n{{invoice.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{debit.amount}} für {{invoice.number}} werden am {{debit.day}} von Ihrem Konto {{debit.account}} eingezogen: {{invoice.link}}'
		}
	},
	'debit called off': {
		en: {
			subject: 'Nothing is collected on {{debit.day}}',
			body: 'Dear {{payer.name}},\n\nWe told you that {{debit.amount}} for invoice {{invoice.number}} would be collected on {{debit.day}}. This debit is called off: nothing is collected on that day.\n\nWhat is open, and the ways to pay it:\n{{invoice.link}}\n\n{{business.name}}',
			text: '{{business.name}}: the debit of {{debit.amount}} on {{debit.day}} is called off. What is open: {{invoice.link}}'
		},
		nl: {
			subject: 'Op {{debit.day}} wordt niets geïnd',
			body: 'Beste {{payer.name}},\n\nWe meldden u dat {{debit.amount}} voor factuur {{invoice.number}} op {{debit.day}} geïnd zou worden. Dat gaat niet door: op die dag wordt niets geïnd.\n\nWat openstaat, en hoe u het kunt betalen:\n{{invoice.link}}\n\n{{business.name}}',
			text: '{{business.name}}: de inning van {{debit.amount}} op {{debit.day}} gaat niet door. Wat openstaat: {{invoice.link}}'
		},
		fr: {
			subject: 'Rien n’est prélevé le {{debit.day}}',
			body: 'Bonjour {{payer.name}},\n\nNous vous avions annoncé un prélèvement de {{debit.amount}} pour la facture {{invoice.number}} le {{debit.day}}. Il est annulé : rien n’est prélevé ce jour-là.\n\nCe qui reste à payer, et comment :\n{{invoice.link}}\n\n{{business.name}}',
			text: '{{business.name}} : le prélèvement de {{debit.amount}} du {{debit.day}} est annulé. Ce qui reste à payer : {{invoice.link}}'
		},
		de: {
			subject: 'Am {{debit.day}} wird nichts eingezogen',
			body: 'Guten Tag {{payer.name}},\n\nwir hatten Ihnen angekündigt, am {{debit.day}} {{debit.amount}} für Rechnung {{invoice.number}} einzuziehen. Das entfällt: An diesem Tag wird nichts eingezogen.\n\nWas offen ist, und wie Sie es zahlen können:\n{{invoice.link}}\n\n{{business.name}}',
			text: '{{business.name}}: die Lastschrift von {{debit.amount}} am {{debit.day}} entfällt. Was offen ist: {{invoice.link}}'
		}
	},
	receipt: {
		en: {
			subject: 'Received: {{payment.amount}} for {{payment.reference}}',
			body: 'Dear {{payer.name}},\n\nThank you: {{payment.amount}} for {{payment.reference}} came on {{payment.day}} by {{payment.method}}.\n\nThe receipt is here:\n{{payment.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{payment.amount}} for {{payment.reference}} received. {{payment.link}}'
		},
		nl: {
			subject: 'Ontvangen: {{payment.amount}} voor {{payment.reference}}',
			body: 'Beste {{payer.name}},\n\nDank u: {{payment.amount}} voor {{payment.reference}} kwam binnen op {{payment.day}} met {{payment.method}}.\n\nHet bewijs staat hier:\n{{payment.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{payment.amount}} voor {{payment.reference}} ontvangen. {{payment.link}}'
		},
		fr: {
			subject: 'Reçu : {{payment.amount}} pour {{payment.reference}}',
			body: 'Bonjour {{payer.name}},\n\nMerci : {{payment.amount}} pour {{payment.reference}} est arrivé le {{payment.day}} par {{payment.method}}.\n\nLe reçu est ici :\n{{payment.link}}\n\n{{business.name}}',
			text: '{{business.name}} : {{payment.amount}} pour {{payment.reference}} reçu. {{payment.link}}'
		},
		de: {
			subject: 'Erhalten: {{payment.amount}} für {{payment.reference}}',
			body: 'Guten Tag {{payer.name}},\n\nvielen Dank: {{payment.amount}} für {{payment.reference}} kam am {{payment.day}} mit {{payment.method}}.\n\nDer Beleg steht hier:\n{{payment.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{payment.amount}} für {{payment.reference}} erhalten. {{payment.link}}'
		}
	},
	refund: {
		en: {
			subject: 'Refunded: {{refund.amount}} of {{payment.reference}}',
			body: 'Dear {{payer.name}},\n\nWe sent {{refund.amount}} of {{payment.reference}} back, the way you paid: {{payment.method}}.\n\n{{business.name}}',
			text: '{{business.name}}: {{refund.amount}} of {{payment.reference}} refunded.'
		},
		nl: {
			subject: 'Terugbetaald: {{refund.amount}} van {{payment.reference}}',
			body: 'Beste {{payer.name}},\n\nWe hebben {{refund.amount}} van {{payment.reference}} teruggestuurd, zoals u betaalde: {{payment.method}}.\n\n{{business.name}}',
			text: '{{business.name}}: {{refund.amount}} van {{payment.reference}} terugbetaald.'
		},
		fr: {
			subject: 'Remboursé : {{refund.amount}} de {{payment.reference}}',
			body: 'Bonjour {{payer.name}},\n\nNous avons renvoyé {{refund.amount}} de {{payment.reference}}, par le même moyen : {{payment.method}}.\n\n{{business.name}}',
			text: '{{business.name}} : {{refund.amount}} de {{payment.reference}} remboursé.'
		},
		de: {
			subject: 'Erstattet: {{refund.amount}} von {{payment.reference}}',
			body: 'Guten Tag {{payer.name}},\n\nwir haben {{refund.amount}} von {{payment.reference}} auf dem Weg zurückgeschickt, auf dem Sie gezahlt haben: {{payment.method}}.\n\n{{business.name}}',
			text: '{{business.name}}: {{refund.amount}} von {{payment.reference}} erstattet.'
		}
	},
	'reference set': {
		en: {
			subject: '{{order.reference}} is {{order.outside}} now',
			body: 'Dear {{payer.name}},\n\nYour order {{order.reference}} has the number {{order.outside}} with us.\n\n{{business.name}}',
			text: '{{business.name}}: your order {{order.reference}} is {{order.outside}}.'
		},
		nl: {
			subject: '{{order.reference}} heet nu {{order.outside}}',
			body: 'Beste {{payer.name}},\n\nUw bestelling {{order.reference}} heeft bij ons het nummer {{order.outside}}.\n\n{{business.name}}',
			text: '{{business.name}}: uw bestelling {{order.reference}} is {{order.outside}}.'
		},
		fr: {
			subject: '{{order.reference}} porte le numéro {{order.outside}}',
			body: 'Bonjour {{payer.name}},\n\nVotre commande {{order.reference}} porte chez nous le numéro {{order.outside}}.\n\n{{business.name}}',
			text: '{{business.name}} : votre commande {{order.reference}} est {{order.outside}}.'
		},
		de: {
			subject: '{{order.reference}} hat die Nummer {{order.outside}}',
			body: 'Guten Tag {{payer.name}},\n\nIhre Bestellung {{order.reference}} hat bei uns die Nummer {{order.outside}}.\n\n{{business.name}}',
			text: '{{business.name}}: Ihre Bestellung {{order.reference}} ist {{order.outside}}.'
		}
	},
	'method stored': {
		en: {
			subject: '{{method.name}} is kept for your payments',
			body: 'Dear {{payer.name}},\n\n{{method.name}} is kept for your payments to {{business.name}}, as you asked. {{method.terms}}\n\nYour page, where you can remove it at any time:\n{{owed.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{method.name}} is kept for your payments. Remove it at any time: {{owed.link}}'
		},
		nl: {
			subject: '{{method.name}} is bewaard voor uw betalingen',
			body: 'Beste {{payer.name}},\n\n{{method.name}} is bewaard voor uw betalingen aan {{business.name}}, zoals u vroeg. {{method.terms}}\n\nUw pagina, waar u het altijd kunt verwijderen:\n{{owed.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{method.name}} is bewaard voor uw betalingen. Verwijderen kan altijd: {{owed.link}}'
		},
		fr: {
			subject: '{{method.name}} est conservé pour vos paiements',
			body: 'Bonjour {{payer.name}},\n\n{{method.name}} est conservé pour vos paiements à {{business.name}}, comme vous l’avez demandé. {{method.terms}}\n\nVotre page, où vous pouvez le retirer à tout moment :\n{{owed.link}}\n\n{{business.name}}',
			text: '{{business.name}} : {{method.name}} est conservé pour vos paiements. Retirez-le à tout moment : {{owed.link}}'
		},
		de: {
			subject: '{{method.name}} ist für Ihre Zahlungen gespeichert',
			body: 'Guten Tag {{payer.name}},\n\n{{method.name}} ist für Ihre Zahlungen an {{business.name}} gespeichert, wie Sie es wünschten. {{method.terms}}\n\nIhre Seite, auf der Sie es jederzeit entfernen können:\n{{owed.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{method.name}} ist für Ihre Zahlungen gespeichert. Jederzeit entfernen: {{owed.link}}'
		}
	},
	'card ends': {
		en: {
			subject: '{{method.name}} ends on {{method.until}}',
			body: 'Dear {{payer.name}},\n\nThe card that is kept for your payments to {{business.name}}, {{method.name}}, ends on {{method.until}}. Keep your new card when you pay next; until then nothing needs to be done.\n\nYour page:\n{{owed.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{method.name}} ends on {{method.until}}. Keep your new card when you pay next: {{owed.link}}'
		},
		nl: {
			subject: '{{method.name}} vervalt op {{method.until}}',
			body: 'Beste {{payer.name}},\n\nDe kaart die voor uw betalingen aan {{business.name}} bewaard is, {{method.name}}, vervalt op {{method.until}}. Bewaar uw nieuwe kaart bij uw volgende betaling; tot dan hoeft u niets te doen.\n\nUw pagina:\n{{owed.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{method.name}} vervalt op {{method.until}}. Bewaar uw nieuwe kaart bij uw volgende betaling: {{owed.link}}'
		},
		fr: {
			subject: '{{method.name}} expire le {{method.until}}',
			body: 'Bonjour {{payer.name}},\n\nLa carte conservée pour vos paiements à {{business.name}}, {{method.name}}, expire le {{method.until}}. Conservez votre nouvelle carte à votre prochain paiement ; d’ici là vous n’avez rien à faire.\n\nVotre page :\n{{owed.link}}\n\n{{business.name}}',
			text: '{{business.name}} : {{method.name}} expire le {{method.until}}. Conservez la nouvelle à votre prochain paiement : {{owed.link}}'
		},
		de: {
			subject: '{{method.name}} läuft am {{method.until}} ab',
			body: 'Guten Tag {{payer.name}},\n\ndie für Ihre Zahlungen an {{business.name}} gespeicherte Karte, {{method.name}}, läuft am {{method.until}} ab. Speichern Sie Ihre neue Karte bei der nächsten Zahlung; bis dahin müssen Sie nichts tun.\n\nIhre Seite:\n{{owed.link}}\n\n{{business.name}}',
			text: '{{business.name}}: {{method.name}} läuft am {{method.until}} ab. Speichern Sie die neue bei der nächsten Zahlung: {{owed.link}}'
		}
	},
	'sign-in code': {
		en: {
			subject: 'Your code: {{sign_in.code}}',
			body: 'Your code for the payer page of {{business.name}} is {{sign_in.code}}. It is good for ten minutes.\n\nIf you did not ask for it, nothing needs to be done.',
			text: '{{sign_in.code}} is your code for {{business.name}}.'
		},
		nl: {
			subject: 'Uw code: {{sign_in.code}}',
			body: 'Uw code voor de betaalpagina van {{business.name}} is {{sign_in.code}}. Ze is tien minuten geldig.\n\nHebt u ze niet gevraagd, dan hoeft u niets te doen.',
			text: '{{sign_in.code}} is uw code voor {{business.name}}.'
		},
		fr: {
			subject: 'Votre code : {{sign_in.code}}',
			body: 'Votre code pour la page de paiement de {{business.name}} est {{sign_in.code}}. Il est valable dix minutes.\n\nSi vous ne l’avez pas demandé, vous n’avez rien à faire.',
			text: '{{sign_in.code}} est votre code pour {{business.name}}.'
		},
		de: {
			subject: 'Ihr Code: {{sign_in.code}}',
			body: 'Ihr Code für die Zahlungsseite von {{business.name}} ist {{sign_in.code}}. Er gilt zehn Minuten.\n\nHaben Sie ihn nicht angefordert, ist nichts zu tun.',
			text: '{{sign_in.code}} ist Ihr Code für {{business.name}}.'
		}
	},
	'told paid': {
		en: {
			subject: 'Paid: {{payment.amount}} for {{payment.reference}}',
			body: '{{payer.name}} {{payer.company}} paid {{payment.amount}} for {{payment.reference}} by {{payment.method}}.\n\nStill open on {{invoice.number}}: {{invoice.open}}\n',
			text: 'Paid: {{payment.amount}} for {{payment.reference}} by {{payer.name}}.'
		}
	}
};

/** The words that a message begins with, for a channel; in English where a language has none. */
export function defaultTemplate(
	event: MessageEvent,
	language: string,
	channel: Channel
): { subject: string; body: string } {
	const words = DEFAULTS[event][language as MessageLanguage] ?? DEFAULTS[event].en;
	return channel === 'text' ? { subject: '', body: words.text } : { subject: words.subject, body: words.body };
}

/** What becomes of a method that is kept: its payer chooses it each time, or is told of each debit so many days before. */
const TERMS: Readonly<Record<MessageLanguage, { readonly asks: string; readonly tells: string }>> = {
	en: {
		asks: 'You choose it when you pay next; nothing is taken without you.',
		tells:
			'You can choose it when you pay next. Before we collect anything by it, we tell you sum and day, at least {} before.'
	},
	nl: {
		asks: 'U kiest het bij uw volgende betaling; zonder u wordt niets geïnd.',
		tells:
			'U kunt het bij uw volgende betaling kiezen. Voor we er iets mee innen, melden we u bedrag en dag, minstens {} vooraf.'
	},
	fr: {
		asks: 'Vous le choisissez à votre prochain paiement ; rien n’est prélevé sans vous.',
		tells:
			'Vous pouvez le choisir à votre prochain paiement. Avant tout prélèvement, nous vous annonçons le montant et le jour, au moins {} avant.'
	},
	de: {
		asks: 'Sie wählen es bei der nächsten Zahlung; ohne Sie wird nichts eingezogen.',
		tells:
			'Sie können es bei der nächsten Zahlung wählen. Bevor wir damit etwas einziehen, nennen wir Ihnen Betrag und Tag, mindestens {} vorher.'
	}
};
/** @param noticeDays days that each debit is told before; none where the payer begins each payment */
export function storedTerms(language: MessageLanguage, noticeDays: number | undefined): string {
	const { asks, tells } = TERMS[language];
	return noticeDays === undefined ? asks : tells.replace('{}', sayDays(noticeDays, language));
}
