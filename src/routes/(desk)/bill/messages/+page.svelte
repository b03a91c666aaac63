<script lang="ts">
	import { enhance } from '$app/forms';
	import { Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
</script>

<Sheet title="Messages" about="The outbox: every message with its words as sent, its tries and what became of it">
	{#snippet acts()}<a class="button" href="/bill/templates">Templates</a>{/snippet}
	<Said form={form as never} />
	{#if !data.hasMail}<p class="note clay mt-3">
			No mail server is set up: mails wait. <a class="why" href="/bill/settings#mail">Set it up</a>
		</p>{/if}
	<nav class="mt-3 flex flex-wrap gap-2" aria-label="States">
		<a class="chip no-underline" aria-current={data.state === '' ? 'page' : undefined} href="/bill/messages">all</a
		>{#each data.states as one (one.value)}<a
				class="chip no-underline"
				aria-current={data.state === one.value ? 'page' : undefined}
				href="?state={one.value}">{one.name}</a
			>{/each}
	</nav>
	<table class="mt-3">
		<thead
			><tr><th>When</th><th>To</th><th>What</th><th>Became</th><th><span class="sr-only">Acts</span></th></tr></thead
		>
		<tbody>
			{#each data.lines as one (one.id)}<tr
					><td>{one.when}</td><td>{one.to}<span class="sub">by {one.channel}</span></td><td
						><a data-row class="underline" href="/bill/messages/{one.id}">{one.subject}</a><span class="sub"
							>{one.event}</span
						></td
					><td class:text-clay={one.bad}
						>{one.stateSays}{#if one.says}<span class="sub">{one.says}</span>{/if}</td
					><td class="n"
						><form method="post" action="?/again" use:enhance>
							<input type="hidden" name="id" value={one.id} /><button
								class="why"
								aria-label="Send “{one.subject}” again">{one.state === 'waiting' ? 'Try now' : 'Send again'}</button
							>
						</form></td
					></tr
				>{:else}<tr
					><td colspan="5" class="quiet"
						>No messages here. Invoices, receipts and reminders are written down as they are sent.</td
					></tr
				>{/each}
		</tbody>
	</table>
	{#if data.next}<p class="mt-2"><a class="button" href="?state={data.state}&before={data.next}">Next page</a></p>{/if}
</Sheet>
<Workings
	how={{
		title: 'When something is not known',
		steps: [
			{
				title: 'Not known whether it arrived',
				sub: 'the mail server had all of it and gave no answer. It is not sent again by itself: ask the payer, or send it again.'
			},
			{
				title: 'Refused',
				sub: 'the server takes no mail for this address. Mend the address at the payer, then send it again.'
			}
		]
	}}
/>
