"""What cannot be resolved, said to the person."""

from __future__ import annotations


class Unresolved(Exception):
    """Something that is drawn otherwise by the renderer than by browsers, and cannot be resolved; the message says what."""
