<script lang="ts">
	import { formatDay, inZone } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { invalidateAll } from '$app/navigation';
	import type { SubmitFunction } from '@sveltejs/kit';
	import type { Working } from '$lib/core/workings';
	import { Figure, TillSheet, Workings } from '$lib/ui';
	import { exponentOf } from '$lib/core/money';
	import GripVertical from '@lucide/svelte/icons/grip-vertical';
	import { flushSync, tick } from 'svelte';
	import { dragHandleZone, dragHandle } from 'svelte-dnd-action';
	const { data, form } = $props();

	// what was moved, until the page has been told of it
	let dragged = $state<typeof data.offers>();
	/** the revision that the last stored move made: the page's data may be loaded before and come after it */
	let made = $state(0);
	let isStored = $state(false);
	const offers = $derived(dragged && !(isStored && data.revision >= made) ? dragged : data.offers);
	const revision = $derived(Math.max(data.revision, made));
	let orderForm = $state<HTMLFormElement>();
	let order = $state('');
	let storing = false;
	let live = $state('');
	const when = (ms: number) => formatDay(inZone(new Date(ms), data.business.timeZone).day, data.locale);

	async function keep(next: typeof data.offers) {
		dragged = next;
		isStored = false;
		order = next.map((offer) => offer.id).join(' ');
		// one order is stored at a time, so that quick moves build on each other
		if (storing) return;
		storing = true;
		await tick();
		orderForm?.requestSubmit();
	}
	const store: SubmitFunction = ({ formData }) => {
		storing = true;
		return async ({ result, update }) => {
			const focusBefore = document.activeElement?.id;
			// an answer that is applied takes focus to the top of the page, and with it the next key: it belongs to the
			// offer that was moved
			const isTaken = result.type === 'success';
			if (isTaken) made = Number(formData.get('revision')) + 1;
			if (!isTaken) await update({ reset: false });
			await invalidateAll();
			storing = false;
			const isNewest = formData.get('order') === order;
			if (isNewest && isTaken) isStored = true;
			// somebody else changed the draft: what they made of it is shown
			if (isNewest && !isTaken) dragged = undefined;
			flushSync();
			if (focusBefore && document.activeElement === document.body) document.getElementById(focusBefore)?.focus();
			if (dragged && !isNewest) await keep(dragged);
		};
	};
	async function move(event: KeyboardEvent, id: string) {
		if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
		event.preventDefault();
		const at = offers.findIndex((offer) => offer.id === id);
		const to = at + (event.key === 'ArrowUp' ? -1 : 1);
		if (to < 0 || to >= offers.length) return;
		const next = [...offers];
		next.splice(to, 0, ...next.splice(at, 1));
		live = `${next[to]?.name} is now number ${to + 1} of ${next.length}.`;
		// a row that moves in the page loses focus: it moves at once and gets it back, before the next key and also while an
		// earlier order is still being stored
		dragged = next;
		isStored = false;
		flushSync();
		document.getElementById(`offer-${id}`)?.focus();
		await keep(next);
	}

	/** Share of the ruler that a stretch takes, on a logarithmic scale from the first to the last decade. */
	const SCALE = 4;
	function width(from: number, to: number | undefined, currency: string): number {
		const major = 10 ** exponentOf(currency) * (exponentOf(currency) === 0 ? 100 : 1);
		const at = (minor: number) => Math.min(SCALE, Math.max(0, Math.log10(minor / major)));
		return ((to === undefined ? SCALE : at(to + 1)) - at(from)) / SCALE;
	}
	const stretchWorking = (currency: string, one: (typeof data.rulers)[number]['stretches'][number]): Working => ({
		title: `${currency}, ${one.fromText} to ${one.toText}`,
		about: 'A one-time payer of an unknown country, on the page, now.',
		steps: one.offers.map((title) => ({ mark: 'yes' as const, title })),
		end:
			one.offers.length === 0
				? { tone: 'clay', text: 'Nothing is offered here: an empty checkout.' }
				: one.carriers === 1
					? { tone: 'brass', text: 'All of it depends on one route.' }
					: undefined
	});
	const kind = $derived(data.till.kind.charAt(0).toUpperCase() + data.till.kind.slice(1));
	const COLUMNS =
		'offer-line grid grid-cols-[20px_minmax(0,1.25fr)_minmax(0,1.1fr)_minmax(0,0.8fr)_minmax(0,1.4fr)_minmax(0,0.9fr)_minmax(0,0.5fr)] gap-x-3';
	const share = (one: { shown: number; of: number }) =>
		`${((100 * one.shown) / one.of).toLocaleString(data.locale, { maximumFractionDigits: 0 })} %`;
	/** who would have been shown an offer, by currency, and the payments themselves */
	const shareWorking = (name: string, one: NonNullable<(typeof data.offers)[number]['share']>): Working => ({
		title: `Who was shown ${name}`,
		about:
			'Everyone who came in the last ninety days, paid or not, asked again by this line-up with every route working.',
		steps: [
			...one.byCurrency.map(({ currency, shown, of }) => ({
				title: currency,
				sub: `${shown.toLocaleString(data.locale)} of ${of.toLocaleString(data.locale)} payers`,
				sum: share({ shown, of })
			})),
			{
				title: 'All of them',
				sub: `${one.shown.toLocaleString(data.locale)} of ${one.of.toLocaleString(data.locale)} payers`,
				sum: share(one),
				total: true
			},
			{
				title: 'Those who paid',
				link: {
					href: `/takings?${new URLSearchParams({ till: data.till.slug, from: data.since })}`,
					label: 'See their payments'
				}
			}
		]
	});
</script>

<TillSheet
	till={data.till}
	about={data.published
		? `${kind} · version ${data.published.number}, published ${when(data.published.at)} by ${data.published.by}`
		: `${kind} · not published yet: payers meet nothing here`}
>
	{#snippet acts()}
		<a class="button" data-as-payer href="/accept/tills/{data.till.slug}/ask">See it as a payer</a>
		<a class="button" href="/accept/tills/{data.till.slug}/address">Build an address</a>
	{/snippet}
	{#if form?.trouble}<p class="note clay mt-4" role="alert">{form.trouble}</p>{/if}
	{#if form?.says}<p class="note moss mt-4" role="status">{form.says}</p>{/if}
	{#each (form as { missing?: { id: string; name: string; href: string; notices: string[]; breaks: string }[] } | null)?.missing ?? [] as one (one.id)}<p
			class="note clay mt-2"
			role="alert"
		>
			{one.name} does not tell of {one.notices.join(', ')}: {one.breaks}. <a href={one.href}>Set them up</a>.
		</p>{/each}
	<p class="quiet mt-3 text-[12px]">
		{#if data.trial}Last tried: {data.trial.says}{data.trial.current ? '' : '; what is here now was not tried yet'}.
		{:else}No trial payment was made here yet.{/if}
		<a class="why" href="/accept/tills/{data.till.slug}/trial">Try it</a>
	</p>
	{#if data.draft}
		<div class="note mt-4">
			<p>
				<b
					>Draft{data.draft.says.length
						? `, ${data.draft.says.length} change${data.draft.says.length === 1 ? '' : 's'}.`
						: ': no change against what is published.'}</b
				>
			</p>
			<ul class="list-disc pl-5">
				{#each data.draft.says.slice(0, 8) as one, i (i)}<li>{one}</li>{/each}
			</ul>
			{#if data.draft.says.length > 8}
				<details>
					<summary class="cursor-pointer">And {data.draft.says.length - 8} more</summary>
					<ul class="list-disc pl-5">
						{#each data.draft.says.slice(8) as one, i (i)}<li>{one}</li>{/each}
					</ul>
				</details>
			{/if}
			{#each data.draft.notProven as one, at (at)}<p class="wrong">Not proven: {one}</p>{/each}
			{#each data.draft.idle as one, at (at)}<p class="quiet">{one}</p>{/each}
			{#each form?.problems ?? data.draft.problems as problem, at (at)}<p class="wrong" role="alert">
					{problem}
				</p>{/each}
			{#if data.draft.stale !== undefined}<p class="wrong" role="status">
					This draft was begun from {data.draft.stale ? `version ${data.draft.stale}` : 'nothing'}; version {data
						.published?.number} is in force since. What is told here is against that version: publishing replaces it.
				</p>{/if}
			<form
				method="post"
				action="?/publish"
				use:enhance={() =>
					async ({ update }) => {
						// the next draft counts its revisions from nothing
						made = 0;
						dragged = undefined;
						await update({ reset: false });
					}}
				class="mt-2 flex items-end gap-2"
			>
				<input type="hidden" name="revision" value={revision} />
				<label class="grow"
					><span class="sub"
						>{data.draft.empty.length
							? `Why nothing in: ${data.draft.empty.slice(0, 3).join(' · ')}`
							: 'Why (kept in the history)'}</span
					><input
						name="reason"
						value={form?.reason ?? ''}
						required={data.draft.empty.length + data.draft.notProven.length > 0}
					/></label
				>
				<button class="button main" data-save>Publish line-up</button>
				<button class="button" formaction="?/discard" formnovalidate>Throw the draft away</button>
			</form>
		</div>
	{/if}

	<h2>Line-up</h2>
	{#if offers.length}
		<div class="{COLUMNS} offer-head quiet border-rule-strong border-b pb-1 text-[12px]" aria-hidden="true">
			<span></span><span>Offered as</span><span>Route, standby</span><span>Currencies</span><span>Card types</span><span
				class="text-right">Amount</span
			><span class="text-right">Shown to</span>
		</div>
		<ol
			use:dragHandleZone={{
				items: offers,
				flipDurationMs: 120,
				dropTargetStyle: {},
				autoAriaDisabled: true,
				zoneTabIndex: -1,
				zoneItemTabIndex: -1
			}}
			onconsider={(event) => {
				dragged = event.detail.items;
				isStored = false;
			}}
			onfinalize={(event) => void keep(event.detail.items)}
		>
			{#each offers as offer, i (offer.id)}
				<li class="{COLUMNS} border-rule bg-sheet border-b py-1.5" class:opacity-60={!offer.on}>
					<span class="quiet flex cursor-grab" use:dragHandle tabindex="-1" aria-label="Drag {offer.name}"
						><GripVertical size={13} class="mt-0.5 -ml-1" aria-hidden="true" />{i + 1}</span
					>
					<span class="min-w-0">
						<a
							id="offer-{offer.id}"
							data-row
							class="font-semibold underline decoration-transparent hover:decoration-current"
							href="/accept/tills/{data.till.slug}/offers/{offer.id}"
							onkeydown={(event) => move(event, offer.id)}
							title="Alt ↑ ↓ moves it">{offer.name}</a
						>
						<span class="sub">{offer.method.replace('-', ' ')}{offer.on ? '' : ', switched off'}</span>
					</span>
					<span
						>{offer.route}<span class="sub">{offer.standby ? `then ${offer.standby}` : 'no standby'}</span
						>{#if offer.now}<span class="sub text-clay">{offer.now}</span>{/if}</span
					>
					<span>{offer.currencies.join(' ')}</span>
					<span class="quiet"
						>{offer.types || 'none needed'}{#each offer.conditions as one, at (at)}<span class="sub">{one}</span
							>{/each}</span
					>
					<span class="text-right"
						>{#each offer.amounts as one, at (at)}<span class="block">{one}</span>{:else}any{/each}</span
					>
					<span class="text-right"
						>{#if offer.share}<span class="offer-label">Shown to </span><span class="whitespace-nowrap"
								><Figure working={shareWorking(offer.name, offer.share)}>{share(offer.share)}</Figure></span
							>{:else}<span class="quiet">–</span>{/if}</span
					>
				</li>
			{/each}
		</ol>
		<p class="sr-only" aria-live="polite">{live}</p>
		<form method="post" action="?/order" bind:this={orderForm} use:enhance={store}>
			<input type="hidden" name="revision" value={revision} />
			<input type="hidden" name="order" value={order} />
		</form>
	{:else}
		<p class="max-w-prose">
			No offers yet. Each is one way to pay: a method, the route that carries it, the card types it takes.
		</p>
	{/if}
	<p class="mt-3"><a class="button" href="/accept/tills/{data.till.slug}/offers/new">Add an offer</a></p>

	{#if offers.length}
		<h2>
			Coverage <span class="quiet font-sans text-[12px] font-normal"
				>ways to pay at each amount, {data.draft ? 'draft' : 'as published'}</span
			>
		</h2>
		{#each data.rulers as ruler (ruler.currency)}
			<div class="my-1 grid grid-cols-[46px_1fr] items-center">
				<b>{ruler.currency}</b>
				<div class="track">
					{#each ruler.stretches as one (one.from)}
						{@const share = width(one.from, one.to, ruler.currency)}
						{#if share > 0}
							<div class="w{Math.min(4, one.offers.length)}" style:width="{share * 100}%">
								<Figure working={stretchWorking(ruler.currency, one)}>
									{one.offers.length === 0
										? 'nothing'
										: share > 0.25 && one.carriers === 1
											? `${one.offers.length}, one route only`
											: one.offers.length}
								</Figure>
							</div>
						{/if}
					{/each}
				</div>
			</div>
		{/each}
		<div class="quiet ml-[46px] flex justify-between text-[11px]">
			{#each data.decades as decade (decade)}<span>{decade.toLocaleString(data.locale)}</span>{/each}
		</div>
	{/if}
</TillSheet>
<Workings
	first={{
		title: 'What is accepted here',
		about: data.unmet.length
			? 'In the last 90 days, payers came and could not pay so:'
			: 'In the last 90 days nobody met an empty checkout or a refused card type here.',
		steps: data.unmet.map((one) => ({
			mark: 'no' as const,
			title: one.kind === 'card type' ? 'Card type not taken' : 'Nothing offered',
			sub: `${one.count} time${one.count === 1 ? '' : 's'}`,
			sum: one.sum
		}))
	}}
/>

<style>
	.offer-label {
		display: none;
	}
	/* on a phone an offer is a block, its parts below its name */
	@media (max-width: 760px) {
		.offer-head {
			display: none !important;
		}
		.offer-line {
			display: grid !important;
			grid-template-columns: 24px minmax(0, 1fr) auto !important;
			row-gap: 3px;
			padding-block: 10px;
		}
		.offer-line > :global(*) {
			grid-column: 2 / -1;
			text-align: left;
		}
		.offer-line > :global(:first-child) {
			grid-column: 1;
			grid-row: 1 / 4;
		}
		.offer-label {
			display: inline;
			color: var(--quiet);
		}
	}
</style>
