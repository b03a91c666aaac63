<script lang="ts">
	import { Index, Sheet, Workings } from '$lib/ui';
</script>

<Index
	label="Bill"
	groups={[
		{ name: 'Bill', items: [{ name: 'What will be here', href: '/bill', state: 'invoices, plans, pay links' }] }
	]}
/>
<Sheet title="Bill" about="Not built yet">
	<p class="mt-4 max-w-prose">
		Invoices, quotes, standing plans and pay links will be here. Until then, a till’s sheet builds the signed address
		under which one payer pays one sum.
	</p>
	<p class="mt-3"><a class="button" href="/accept">Choose a till</a></p>
</Sheet>
<Workings />
