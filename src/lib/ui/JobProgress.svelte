<script lang="ts">
	import { invalidateAll } from '$app/navigation';
	import { page } from '$app/state';

	interface Props {
		/** the address that tells how far it is, and stops it by DELETE */
		at: string;
		done: number;
		of: number;
		/** what is counted: "documents" */
		what: string;
	}
	/** How far a long computation has come, and the button that stops it. The page is loaded anew at its end. */
	let { at, done, of, what }: Props = $props();
	let told = $state<{ done: number; of: number }>();
	let stopped = $state(false);
	const shown = $derived(told ?? { done, of });

	$effect(() => {
		const timer = setInterval(async () => {
			const answer = await fetch(at).catch(() => undefined);
			if (!answer?.ok) return;
			const said = (await answer.json()) as { done: number; of: number; ended: boolean };
			if (!said.ended) return void (told = said);
			clearInterval(timer);
			await invalidateAll();
		}, 250);
		return () => clearInterval(timer);
	});
	async function stop() {
		stopped = true;
		await fetch(at, { method: 'DELETE' });
	}
</script>

<div class="mt-3 max-w-xl" role="status">
	<p>{shown.done.toLocaleString(page.data.locale)} of {shown.of.toLocaleString(page.data.locale)} {what}</p>
	<progress class="mt-2 w-full" max={shown.of || 1} value={shown.done} aria-label="Progress"></progress>
</div>
<p class="mt-2"><button class="button" type="button" onclick={stop} disabled={stopped}>Stop</button></p>
