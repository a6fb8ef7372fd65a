"""The project's files as one read-only value."""
