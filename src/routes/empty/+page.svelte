<svelte:head><title>Empty</title></svelte:head>
