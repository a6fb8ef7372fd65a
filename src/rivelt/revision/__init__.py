"""The files of a commit, read from git's own objects: nothing is checked out, and nothing is fetched."""
