"""Media queries: their grammar, and what a device answers."""
