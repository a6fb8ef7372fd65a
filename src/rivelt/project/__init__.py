"""A project: its files as one read-only value (`Snapshot`), and what they say, each file read and parsed once (`Project`)."""
