"""Between the store and the core: stored sheets as parts of the file, and what the core makes of them."""
