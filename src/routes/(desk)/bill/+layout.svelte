<script lang="ts">
	import { Index } from '$lib/ui';
	const { data, children } = $props();
</script>

<Index label="Bill" groups={data.index} />
{@render children()}
