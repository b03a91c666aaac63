<script lang="ts">
	import { enhance } from '$app/forms';
	import { page } from '$app/state';
	import { TillSheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	/** so many situations are named one by one */
	const NAMED = 6;
	const why = $derived(data.working);
	const more = $derived(
		!!(data.asked.payer || data.asked.goods || data.asked.delivery || data.asked.groups.length || data.asked.online) ||
			data.asked.ordered === 'interface' ||
			!!data.asked.recurring
	);
	let width = $state<'phone' | 'desk'>('phone');
</script>

<TillSheet
	till={data.till}
	title="What a payer would see"
	about="{data.till.name}: the same function answers here and at the payer’s page"
>
	{#snippet acts()}<a class="button" href="/accept/tills/{data.till.slug}">Back to the line-up</a>{/snippet}
	<form method="get" class="mt-4 max-w-[640px]" data-sveltekit-keepfocus>
		{#if data.asked.method}<input type="hidden" name="method" value={data.asked.method} />{/if}
		<div class="grid items-end gap-3 sm:grid-cols-[1fr_90px_1.4fr_auto]">
			<label
				><span class="legend">Amount</span><input
					name="amount"
					inputmode="decimal"
					value={data.asked.amount}
					required
					aria-invalid={data.wrong ? 'true' : undefined}
				/></label
			>
			<label
				><span class="legend">Currency</span><select name="currency" value={data.asked.currency}>
					{#each [...new Set([...data.till.currencies, 'EUR', 'GBP', 'USD', 'CHF', 'JPY'])] as code (code)}<option
							>{code}</option
						>{/each}
				</select></label
			>
			<label
				><span class="legend">Payer’s country</span><select name="country" value={data.asked.country}>
					<option value="">not known</option>
					{#each data.countries as { code, name } (code)}<option value={code}>{name}</option>{/each}
				</select></label
			>
			<button class="button main" data-save>Ask the line-up</button>
		</div>
		<details class="mt-2" open={more}>
			<summary class="cursor-pointer">More of the payer and the order</summary>
			<div class="mt-1 grid grid-cols-3 gap-3">
				<label
					><span class="legend">A payer, by mail</span><input
						name="payer"
						type="email"
						value={data.asked.payer}
					/></label
				>
				<label><span class="legend">Goods</span><input name="goods" value={data.asked.goods} /></label>
				<label><span class="legend">Delivery</span><input name="delivery" value={data.asked.delivery} /></label>
				<label
					><span class="legend">Ordered</span><select name="ordered" value={data.asked.ordered || 'page'}>
						<option value="page">on the page</option><option value="interface">through the API</option>
					</select></label
				>
				<label
					><span class="legend">Paid</span><select name="recurring" value={data.asked.recurring}>
						<option value="">as the till’s kind</option><option value="no">once</option><option value="yes"
							>again and again</option
						>
					</select></label
				>
				<label
					><span class="legend">Online method</span><select name="online" value={data.asked.online}>
						<option value="">not known</option><option value="yes">has one</option><option value="no">has none</option>
					</select></label
				>
				{#if data.domains.length > 1}<label
						><span class="legend">Web domain</span><select name="domain" value={data.asked.domain}>
							{#each data.domains as domain (domain)}<option>{domain}</option>{/each}
						</select></label
					>{/if}
				{#if Object.keys(data.groups).length}<fieldset class="col-span-3 ticks">
						<legend class="legend">Groups; none ticked is not known</legend>
						<label
							><input type="checkbox" name="groups" value="none" checked={data.asked.groups.includes('none')} /> in none</label
						>
						{#each Object.entries(data.groups) as [id, name] (id)}<label
								><input type="checkbox" name="groups" value={id} checked={data.asked.groups.includes(id)} />
								{name}</label
							>{/each}
					</fieldset>{/if}
			</div>
		</details>
		{#if data.hasDraft && data.hasPublished}
			<div class="ticks">
				<label><input type="radio" name="which" value="draft" checked={data.asked.which === 'draft'} /> the draft</label
				>
				<label
					><input type="radio" name="which" value="published" checked={data.asked.which === 'published'} /> what is published</label
				>
			</div>
		{/if}
	</form>
	{#if data.wrong}<p class="wrong" role="alert">{data.wrong}</p>{/if}
	{#if data.readAs}<p class="quiet mt-1">{data.readAs}</p>{/if}
	{#if data.offered}
		<h2>The payer sees</h2>
		{#if data.offered.length}
			<ol class="max-w-[420px]">
				{#each data.offered as one, i (i)}
					<li class="border-rule border-b py-2" class:border-t={i === 0}>
						<b>{one.name}</b>{#if i === 0}<span class="quiet ml-2">open, as the first way</span>{/if}<span class="sub"
							>{one.note}</span
						>
					</li>
				{/each}
			</ol>
		{:else}
			<p class="note clay max-w-[420px]">Nothing: an empty checkout. Every reason stands in the margin.</p>
		{/if}
		{#if data.made && data.offered.length}<p class="note moss mt-3 max-w-[640px]" role="status">
				The draft offers this payer something now. <a class="why" href="/accept/tills/{data.till.slug}"
					>Look at the draft and publish it</a
				>
			</p>{/if}
		{#if form?.changeWrong}<p class="wrong" role="alert">{form.changeWrong}</p>{/if}
		{#if data.changes?.length}
			<section class="mt-4 max-w-[640px]" aria-labelledby="least">
				<h2 id="least">
					{data.methodName
						? `The least change that offers ${data.methodName}`
						: data.offered.length
							? 'What would offer more'
							: 'The least change'}
				</h2>
				<ol>
					{#each data.changes as change, at (change.key)}
						<li class="border-rule border-t py-2.5">
							<b>{change.name}</b>
							<ul>
								{#each change.acts as act, n (n)}<li>
										{act.says}
										{#if act.where !== 'in the draft'}<span class="quiet">{act.where}</span>{/if}
										{#if act.link}<a class="why" href={act.link.href}>{act.link.label}</a>{/if}
									</li>{/each}
							</ul>
							{#await data.ripples}<p class="quiet">Working out what else changes …</p>
							{:then ripples}
								{@const ripple = ripples?.[at]}
								{#if ripple}
									{#if ripple.opens.length}<p class="quiet">
											{ripple.opens.length} empty situation{ripple.opens.length === 1 ? '' : 's'} would be offered something:
											{ripple.opens.slice(0, NAMED).join(' · ')}{ripple.opens.length > NAMED ? ' …' : ''}
										</p>{/if}
									{#if ripple.closes.length}<p class="text-clay">
											{ripple.closes.length} situation{ripple.closes.length === 1 ? '' : 's'} would be empty: {ripple.closes
												.slice(0, NAMED)
												.join(' · ')}
										</p>{:else if change.isDraft}<p class="quiet">No situation becomes empty.</p>{/if}
									{#if ripple.notLooked}<p class="quiet">Not every situation could be looked at.</p>{/if}
								{/if}
							{:catch}<p class="quiet">What else changes could not be worked out just now.</p>{/await}
							{#if change.isDraft && data.canDraft}
								<form method="post" action="?/change&{page.url.searchParams}" use:enhance class="mt-1">
									<input type="hidden" name="key" value={change.key} />
									<input type="hidden" name="revision" value={data.revision} />
									<button class="button" class:main={at === 0 && !data.offered.length}
										>{data.hasDraft ? 'Change the draft' : 'Make it a draft'}{change.acts.every(
											(act) => act.where === 'in the draft'
										)
											? ''
											: ', as far as it goes'}</button
									>
								</form>
							{/if}
						</li>
					{/each}
				</ol>
			</section>
		{:else if data.methodName}
			<p class="quiet mt-3">
				No change of ours would offer {data.methodName} here: no account of yours carries it in this currency and sum.
				<a class="why" href="/connect/abilities">See what each account can do</a>
			</p>
		{:else if data.withheld && !data.offered.length}
			<p class="quiet mt-3">
				No change of ours would offer this payer anything: no account carries a way to pay in this currency and sum.
				<a class="why" href="/connect/processors">See which processor would</a>
			</p>
		{/if}
		{#if data.page}
			<h2>
				The page itself <span class="quiet font-sans text-[12px] font-normal"
					>{data.asked.which === 'draft' ? 'by the draft' : 'as published'}; nothing can be paid in it</span
				>
			</h2>
			<div class="ticks !mt-1">
				<label><input type="radio" value="phone" bind:group={width} /> at phone width</label>
				<label><input type="radio" value="desk" bind:group={width} /> at desk width</label>
			</div>
			<iframe
				title="The payer’s page"
				src={data.page}
				class="border-rule-strong mt-2 h-[560px] border"
				style:width={width === 'phone' ? '390px' : '100%'}
			></iframe>
		{/if}
	{/if}
</TillSheet>
<Workings first={why}>
	<h2>Ask</h2>
	<p class="quiet">
		Give an amount, a currency and a country. What is offered and what is withheld, with every reason, will stand here.
	</p>
</Workings>
