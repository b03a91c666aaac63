<script lang="ts">
	import PaymentSheet from '$lib/ui/PaymentSheet.svelte';
	const { data } = $props();
</script>

<PaymentSheet title={data.title} path={data.path} {data} />
