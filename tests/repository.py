"""Real git repositories for tests: nothing of the machine's own settings counts in them."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Mapping
from pathlib import Path

from conftest import write_tree

ENVIRONMENT = {
    "GIT_CONFIG_GLOBAL": os.devnull,
    "GIT_CONFIG_SYSTEM": os.devnull,
    "GIT_AUTHOR_NAME": "Ada",
    "GIT_AUTHOR_EMAIL": "ada@example.org",
    "GIT_COMMITTER_NAME": "Ada",
    "GIT_COMMITTER_EMAIL": "ada@example.org",
    "GIT_AUTHOR_DATE": "2026-01-01T00:00:00Z",
    "GIT_COMMITTER_DATE": "2026-01-01T00:00:00Z",
}


def git(root: Path, *arguments: object) -> str:
    """Run git in a folder."""
    command = ("git", "-c", "protocol.file.allow=always", "-c", "core.autocrlf=false", *map(str, arguments))
    done = subprocess.run(command, cwd=root, env={**os.environ, **ENVIRONMENT}, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    return done.stdout.strip()


def repository(root: Path, files: Mapping[str, str | bytes] | None = None) -> Path:
    """A new repository on the branch main; `files` are its first commit."""
    root.mkdir(parents=True, exist_ok=True)
    git(root, "init", "-q", "-b", "main")
    if files is not None:
        commit(root, files)
    return root


def commit(root: Path, files: Mapping[str, str | bytes] | None = None, message: str = "change") -> str:
    """Write files, commit everything, and return the commit's name."""
    write_tree(root, files or {})
    git(root, "add", "-A")
    git(root, "commit", "-q", "--allow-empty", "-m", message)
    return git(root, "rev-parse", "HEAD")
