<script lang="ts">
	import { Sheet, Workings } from '$lib/ui';
	const { data } = $props();
</script>

<Sheet title="No answer to a consent of yours">
	<p class="note clay mt-4" role="alert">{data.stranger}</p>
	<p class="mt-4">
		<a class="button main" href="/connect/processors/{data.processor}">Begin at {data.name} once more</a>
	</p>
</Sheet>
<Workings
	first={{
		title: 'When this happens',
		steps: [
			{ title: 'The page was opened twice', sub: 'an answer is good once' },
			{ title: 'It was begun in another browser, or by somebody else' },
			{ title: 'Somebody sent you this address', sub: 'then it is as well that nothing came of it' }
		]
	}}
/>
