<script lang="ts">
	import PaymentTable, { type PaymentLine } from './PaymentTable.svelte';
	import Sheet from './Sheet.svelte';
	import Workings from './Workings.svelte';

	interface Props {
		title: string;
		/** path of this list, for searching and paging */
		path: string;
		data: {
			lines: PaymentLine[];
			more: boolean;
			last?: string;
			text: string;
			locale: string;
			business: { timeZone: string };
		};
	}
	/** A list of payments, whole or of one stage or till. */
	const { title, path, data }: Props = $props();
</script>

<Sheet {title} about="How far each has come, what it cost, what is left">
	<PaymentTable
		lines={data.lines}
		more={data.more}
		last={data.last}
		text={data.text}
		locale={data.locale}
		timeZone={data.business.timeZone}
		{path}
	/>
</Sheet>
<Workings
	first={{
		title: 'Reading the list',
		steps: [
			{
				title: 'The strip has four notches',
				sub: 'requested, captured, settled, paid out; a broken one is where trouble stopped the money'
			},
			{
				title: 'Expected and charged',
				sub: 'by the rate card of the day, and as the processor reports it; ≠ where they differ'
			},
			{ title: 'Net', sub: 'in the currency that is paid out, less refunds and fee' }
		]
	}}
/>
