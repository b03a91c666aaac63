<script lang="ts">
	import { goto } from '$app/navigation';
	import { Command, Dialog } from 'bits-ui';

	interface Found {
		kind: string;
		name: string;
		state: string;
		href: string;
	}
	let { open = $bindable(false), onkeys }: { open?: boolean; onkeys: () => void } = $props();
	let text = $state('');
	let found = $state<Found[]>([]);
	let turn = 0;

	const ACTS: Found[] = [
		{ kind: 'Go', name: 'Needs you', state: 'g n', href: '/needs-you' },
		{ kind: 'Go', name: 'Connect: business details', state: 'g c', href: '/connect/business' },
		{ kind: 'Go', name: 'Accept: all tills', state: 'g a', href: '/accept' },
		{ kind: 'Go', name: 'Takings: payments', state: 'g t', href: '/takings' },
		{ kind: 'Go', name: 'Watch: arrivals', state: 'g w', href: '/watch' },
		{ kind: 'Go', name: 'Watch: audit trail of every change', state: '', href: '/watch/trail' },
		{ kind: 'Go', name: 'Connect: catalogue of processors', state: '', href: '/connect/processors' },
		{ kind: 'Go', name: 'Connect: what each can do', state: '', href: '/connect/abilities' },
		{ kind: 'Go', name: 'Connect: side by side, what each would cost', state: '', href: '/connect/compare' },
		{ kind: 'Go', name: 'Connect: settlement files', state: '', href: '/connect/files' },
		{ kind: 'Do', name: 'Add a candidate', state: '', href: '/connect/candidates/new' },
		{ kind: 'Go', name: 'Connect: web domains, wallet proofs, page code', state: '', href: '/connect/domains' },
		{ kind: 'Go', name: 'Connect: bank accounts', state: '', href: '/connect/bank-accounts' },
		{ kind: 'Go', name: 'Connect: chart of accounts', state: '', href: '/connect/ledger' },
		{ kind: 'Go', name: 'Connect: brands', state: '', href: '/connect/brands' },
		{ kind: 'Do', name: 'Add an offline method', state: '', href: '/connect/offline/new' },
		{
			kind: 'Do',
			name: 'Pause a connection, method, scheme or currency everywhere',
			state: '',
			href: '/accept/pauses'
		},
		{ kind: 'Go', name: 'Bill: what is owed', state: '', href: '/bill' },
		{ kind: 'Go', name: 'Bill: invoices', state: '', href: '/bill/invoices' },
		{ kind: 'Go', name: 'Bill: quotes', state: '', href: '/bill/quotes' },
		{ kind: 'Go', name: 'Bill: pay links', state: '', href: '/bill/links' },
		{ kind: 'Go', name: 'Bill: payers and groups', state: '', href: '/bill/payers' },
		{ kind: 'Go', name: 'Bill: price list', state: '', href: '/bill/prices' },
		{ kind: 'Go', name: 'Bill: messages', state: '', href: '/bill/messages' },
		{ kind: 'Go', name: 'Bill: templates', state: '', href: '/bill/templates' },
		{ kind: 'Go', name: 'Bill: how we bill', state: 'numbers, taxes, mail', href: '/bill/settings' },
		{ kind: 'Go', name: 'Takings: unplaced money', state: '', href: '/takings/unplaced' },
		{ kind: 'Do', name: 'Record money that came', state: '', href: '/takings/unplaced/new' },
		{ kind: 'Do', name: 'Add a payer', state: '', href: '/bill/payers/new' },
		{ kind: 'Do', name: 'Make a pay link', state: '', href: '/bill/links/new' },
		{ kind: 'Go', name: 'Accept: API tokens', state: '', href: '/accept/tokens' },
		{ kind: 'Do', name: 'Set up a till', state: '', href: '/accept/tills/new' },
		{ kind: 'Do', name: 'Show the list of keys', state: '?', href: '?keys' }
	];
	const acts = $derived(ACTS.filter((act) => act.name.toLowerCase().includes(text.trim().toLowerCase())));

	$effect(() => {
		if (!open) return;
		const asked = text;
		const mine = ++turn;
		void fetch(`/find?q=${encodeURIComponent(asked)}`)
			.then((answer) => (answer.ok ? (answer.json() as Promise<Found[]>) : []))
			.then((list) => {
				if (mine === turn) found = list;
			})
			.catch(() => {});
	});

	// the first line is ready for Enter, whatever comes or goes
	const valueOf = (one: Found) => `${one.href} ${one.name}`;
	const lines = $derived([...found, ...acts]);
	let selected = $derived(lines[0] ? valueOf(lines[0]) : '');

	function choose(href: string) {
		open = false;
		text = '';
		if (href === '?keys') onkeys();
		else void goto(href);
	}
</script>

<Dialog.Root bind:open>
	<Dialog.Portal>
		<Dialog.Overlay class="fixed inset-0 z-40 bg-black/40" />
		<Dialog.Content
			class="bg-sheet border-rule-strong fixed top-[12vh] left-1/2 z-50 w-[540px] -translate-x-1/2 rounded-[3px] border shadow-xl"
		>
			<Dialog.Title class="sr-only">Find or do</Dialog.Title>
			<Command.Root bind:value={selected} shouldFilter={false} loop label="Find or do">
				<Command.Input
					bind:value={text}
					placeholder="A till, a connection, a reference, or something to do"
					class="!border-0 !px-4 !py-3 !text-[15px]"
				/>
				<Command.List class="border-rule max-h-[46vh] overflow-y-auto border-t p-1">
					{#each lines as one (valueOf(one))}
						<Command.Item
							value={valueOf(one)}
							onSelect={() => choose(one.href)}
							class="data-[selected]:bg-brass-soft flex cursor-pointer items-baseline gap-3 rounded-[3px] px-3 py-1.5"
						>
							<span class="quiet w-24 shrink-0 text-[12px]">{one.kind}</span><span class="font-semibold"
								>{one.name}</span
							>
							<span class="quiet ml-auto">{one.state}</span>
						</Command.Item>
					{:else}
						<p class="quiet px-4 py-3">
							Nothing is called “{text}”. Payments are found by the beginning of their reference.
						</p>
					{/each}
				</Command.List>
			</Command.Root>
		</Dialog.Content>
	</Dialog.Portal>
</Dialog.Root>
