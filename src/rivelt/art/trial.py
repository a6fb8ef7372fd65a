"""Drawing an SVG once, small, in a process of its own that may take only so much time and memory.

What the process cannot finish would hold up every command without end, and nothing can stop a renderer that runs in a thread.
"""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

from rivelt.errors import BadInput

SIDE = 256
"""The longer side of the drawing, in px."""
SECONDS = 3
"""The processor time that it may take; logos take less than a tenth of one."""
BYTES = 2 << 30
"""The memory that it may take."""
_WAIT = 20  # seconds: the end where a system has no limit of processor time

_tried: set[str] = set()
"""SHA-256 of what was drawn in time: true of the content, whatever project it is in."""


def refuse_slow(svg: str, digest: str, name: str) -> None:
    """Refuse a drawing that takes far too long.

    Args:
        svg: a whole SVG, `SIDE` px large at most.
        digest: the SHA-256 of the source file: each is drawn once.
        name: what messages call it.

    Raises:
        BadInput: it is not drawn in time.
    """
    if digest in _tried:
        return
    script = str(Path(__file__).with_name("trial_process.py"))
    command = [sys.executable, "-P", script, str(SECONDS), str(BYTES)]
    try:
        done = subprocess.run(command, input=svg.encode(), capture_output=True, timeout=_WAIT, check=False)
        is_slow = done.returncode not in {0, 1}
    except subprocess.TimeoutExpired:
        is_slow = True
    if is_slow:
        hint = "Flatten its effects, patterns and dashes in the drawing program, or export it as a PNG file."
        raise BadInput(f"{name} takes too long to draw: more than {SECONDS} s for {SIDE} px", hint=hint)
    _tried.add(digest)
