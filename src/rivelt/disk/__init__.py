"""The file system: every call that lists, reads, writes, moves or removes files, and nothing that decides which."""
