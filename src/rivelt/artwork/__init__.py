"""The art of a brief, read from disk, measured, derived where the brief says so, and judged."""
