<script lang="ts">
	import { enhance } from '$app/forms';
	import { checkTemplate, fillIn } from '$lib/core/billing/fillIns';
	import { Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const kept = $derived((form ?? {}) as { problems?: string[]; subject?: string; body?: string });
	let subject = $derived(kept.subject ?? data.subject);
	let body = $derived(kept.body ?? data.body);
	const problems = $derived(checkTemplate(data.key.event, subject, body, data.key.channel));
	let area = $state<HTMLTextAreaElement>();
	function put(name: string) {
		const mark = `{{${name}}}`;
		const at = area?.selectionStart ?? body.length;
		body = body.slice(0, at) + mark + body.slice(area?.selectionEnd ?? at);
		setTimeout(() => {
			area?.focus();
			area?.setSelectionRange(at + mark.length, at + mark.length);
		});
	}
	const query = (changes: Record<string, string>) =>
		`?${new URLSearchParams({ event: data.key.event, channel: data.key.channel, language: data.key.language, brand: data.key.brandId, variant: data.key.variant, ...changes })}`;
	const isOwn = (event: string) => data.own.some((one) => one.event === event);
</script>

<Sheet
	title="Templates"
	about="What each message says, by event, language and channel; fill-ins stand in double braces"
>
	<Said form={form as never} />
	<form method="get" class="mt-3 flex flex-wrap items-end gap-2 text-[12px]">
		<label
			><span class="quiet block">Message</span><select name="event" value={data.key.event} class="!w-44"
				>{#each data.events as one (one)}<option value={one}>{one}{isOwn(one) ? ' (own)' : ''}</option>{/each}</select
			></label
		>
		<label
			><span class="quiet block">Channel</span><select name="channel" value={data.key.channel} class="!w-32"
				><option value="mail">mail</option><option value="text">text</option><option value="page">payer page</option
				></select
			></label
		>
		<label
			><span class="quiet block">Language</span><select name="language" value={data.key.language} class="!w-32"
				>{#each data.languages as one (one.value)}<option value={one.value}>{one.name}</option>{/each}</select
			></label
		>
		{#if data.brands.length}<label
				><span class="quiet block">Brand</span><select name="brand" value={data.key.brandId} class="!w-32"
					><option value="">all</option>{#each data.brands as one (one.id)}<option value={one.id}>{one.name}</option
						>{/each}</select
				></label
			>{/if}
		<label
			><span class="quiet block">Variant</span><input
				name="variant"
				list="variants"
				value={data.key.variant}
				class="!w-32"
				placeholder="the usual"
			/></label
		>
		<datalist id="variants"
			>{#each data.variants as one (one)}<option value={one}></option>{/each}</datalist
		>
		<button class="button">Open</button>
	</form>
	<div class="mt-3 grid grid-cols-2 gap-5">
		<form
			method="post"
			action="?/save"
			use:enhance={() =>
				async ({ update }) =>
					update({ reset: false })}
		>
			{#each [['event', data.key.event], ['channel', data.key.channel], ['language', data.key.language], ['brand', data.key.brandId], ['variant', data.key.variant]] as [name, value] (name)}<input
					type="hidden"
					{name}
					{value}
				/>{/each}
			{#if data.key.channel !== 'text'}<label class="field"
					><span class="legend">Subject</span><input name="subject" bind:value={subject} /></label
				>{/if}
			<label class="field"
				><span class="legend">Text</span><textarea name="body" rows="14" bind:value={body} bind:this={area}
				></textarea></label
			>
			{#each problems as one, at (at)}<span class="wrong" role="alert"
					>{one.at ? `Line ${one.at.line}, sign ${one.at.column}: ` : ''}{one.says}</span
				>{/each}
			<div class="mt-3 flex gap-2">
				<button class="button main" data-save disabled={problems.length > 0}>Save template</button
				>{#if data.isOwn}<button class="button" formaction="?/drop">Back to the first words</button>{/if}
			</div>
		</form>
		<section aria-label="Preview" class="border-rule-strong border p-4">
			<p class="quiet text-[12px]">As it would be sent now</p>
			{#if data.key.channel !== 'text'}<p class="mt-1 font-semibold">{fillIn(subject, data.values)}</p>{/if}
			<p class="mt-2 break-words whitespace-pre-line">{fillIn(body, data.values)}</p>
		</section>
	</div>
</Sheet>
<Workings>
	<h2>Fill-ins of this message</h2>
	<p class="quiet">
		Press one to put it where the cursor stands. {data.needs.length ? `Needed: ${data.needs.join('; ')}.` : ''}
	</p>
	{#each data.fillIns as one (one.name)}<p class="step !block">
			<button type="button" class="why mono" onclick={() => put(one.name)}>{`{{${one.name}}}`}</button><span
				class="sub break-words">{one.example}</span
			>
		</p>{/each}
	<p class="mt-3">
		<a class="why" href={query({ channel: data.key.channel === 'text' ? 'mail' : 'text' })}
			>The same as {data.key.channel === 'text' ? 'mail' : 'text'}</a
		>
	</p>
</Workings>
