"""The art: source files as values, measured and fitted. Nothing here renders; see `rivelt.pixels`."""
