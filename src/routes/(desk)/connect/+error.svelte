<script lang="ts">
	import ErrorSheet from '$lib/ui/ErrorSheet.svelte';
</script>

<ErrorSheet section="Connect" href="/connect" />
