<script lang="ts">
	import '../app.css';
	const { children } = $props();
</script>

{@render children()}
