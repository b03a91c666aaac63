<svg width="24" height="20" viewBox="0 0 24 20" fill="none" aria-hidden="true"
	><path
		d="M2 8.5C2 4 6.5 1.5 12 1.5S22 4 22 8.5V16a2.5 2.5 0 0 1-2.5 2.5h-15A2.5 2.5 0 0 1 2 16Z"
		stroke="#e8c98a"
		stroke-width="1.6"
	/><path d="M2 8.5h20" stroke="#e8c98a" stroke-width="1.6" /><circle cx="12" cy="8.5" r="2.1" fill="#e8c98a" /></svg
>
