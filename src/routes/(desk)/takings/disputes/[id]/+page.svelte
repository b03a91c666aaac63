<script lang="ts">
	import { enhance } from '$app/forms';
	import { Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const dispute = $derived(data.dispute);
	const text = $derived(form && 'text' in form && typeof form.text === 'string' ? form.text : dispute.text);
	const OUTCOMES: Record<string, string> = {
		won: 'You won: the money is yours again.',
		lost: 'It was lost: the money stays with the payer.',
		accepted: 'It was given up: the money stays with the payer.'
	};
</script>

<Sheet title="Dispute of {dispute.reference}" about="{dispute.payer ? `${dispute.payer}, ` : ''}{dispute.amount}">
	{#snippet acts()}<a class="button" href="/takings/payments/{dispute.id}">See the payment</a>{/snippet}
	<p class="mt-3 max-w-prose text-[15px]">
		{#if dispute.outcome}{OUTCOMES[dispute.outcome]}
		{:else if dispute.answered}<span class="yes">Answered</span>
			{dispute.answered}, by {dispute.answeredBy}{dispute.way === 'by hand' ? ', at the processor by hand' : ''}. {dispute.connection}
			decides.
		{:else if dispute.isOver}<span class="no">The time to answer is over</span>, since {dispute.answerBy}.
		{:else}<span class="no">Not answered.</span>
			{dispute.answerBy
				? `It can be answered until ${dispute.answerBy}: ${dispute.left}.`
				: `${dispute.connection} does not tell until when it can be answered: look there.`}{/if}
	</p>
	<p class="quiet">
		Opened {dispute.opened}. Reason: {dispute.reason || 'not told'}.
	</p>
	<Said form={form as never} />

	<h2>Files</h2>
	{#if dispute.files.length}
		<ul class="list-none p-0">
			{#each dispute.files as file (file.id)}<li class="flex flex-wrap items-center gap-3">
					<a class="why" href="/takings/disputes/{dispute.id}/file/{file.id}">{file.name}</a><span class="quiet"
						>{file.size}</span
					>
					{#if !dispute.answered}<form method="post" action="?/drop" use:enhance>
							<input type="hidden" name="file" value={file.id} />
							<button class="why" aria-label="Remove {file.name}">Remove</button>
						</form>{/if}
				</li>{/each}
		</ul>
	{:else}<p class="quiet">None. A delivery note is the strongest answer to goods that did not come.</p>{/if}
	{#if !dispute.answered && !dispute.isOver}
		<form
			method="post"
			action="?/file"
			enctype="multipart/form-data"
			use:enhance
			class="mt-2 flex flex-wrap items-end gap-3"
		>
			<label
				><span class="legend">PDF, PNG, JPEG or text, at most 2 MB</span><input
					type="file"
					name="file"
					accept=".pdf,.png,.jpg,.jpeg,.txt"
					required
				/></label
			>
			<button class="button">Add the file</button>
		</form>
	{/if}

	<h2>Answer</h2>
	{#if dispute.answered || dispute.isOver}
		<p class="note whitespace-pre-wrap">{dispute.text}</p>
	{:else}
		<form
			method="post"
			action="?/answer"
			use:enhance={() =>
				({ update }) =>
					update({ reset: false })}
		>
			<label
				><span class="legend"
					>What {dispute.connection || 'the processor'} is told; what is known stands here already</span
				><textarea name="text" rows="14" maxlength="10000" class="w-full max-w-2xl" value={text}></textarea></label
			>
			<p class="mt-3 flex flex-wrap gap-3">
				{#if dispute.takesAnswers}<button class="button main" name="way" value="processor"
						>Send it to {dispute.connection}</button
					>{/if}
				<button class="button" class:main={!dispute.takesAnswers} name="way" value="by hand"
					>I answered there by hand</button
				>
				<button class="button" formaction="?/keep" data-save>Keep what I wrote</button>
			</p>
		</form>
		<form
			method="post"
			action="?/accept"
			class="mt-4"
			use:enhance={({ cancel }) => {
				if (!confirm('Give this dispute up? The money stays with the payer.')) cancel();
			}}
		>
			<button class="button">Give it up</button>
		</form>
	{/if}
</Sheet>
<Workings
	how={{
		title: 'What convinces',
		steps: [
			{ title: 'Goods did not come', sub: 'the delivery note, and the address that the payer gave' },
			{ title: 'Not as described', sub: 'what was ordered, and what you wrote to each other' },
			{ title: 'Not known', sub: 'the receipt that was sent, and earlier payments of the same payer' },
			{ title: 'Given back already', sub: 'the refund, with its day' }
		]
	}}
/>
