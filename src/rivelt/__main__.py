"""The command, from its very first moment: Ctrl-C ends it with one line, even while its modules are still being loaded."""

from __future__ import annotations

import gc
import os
import signal
import sys

_INTERRUPTED = 130


def start() -> None:
    """Run the command that the process was started with."""
    # A command makes many values and drops few: searching for reference cycles after every 700 of them costs a fifth of its time.
    gc.set_threshold(100_000, 50, 50)
    # OpenBLAS, which NumPy multiplies matrices with, would start a thread for each core that spins while it waits. Ours are too small to gain.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    try:
        from rivelt.cli.main import main

        main()
    except KeyboardInterrupt:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        sys.stderr.write("error: stopped; nothing was changed\n")
        sys.stderr.flush()
        os._exit(_INTERRUPTED)
    finally:
        # The interpreter would search all of them for cycles once more at exit.
        gc.freeze()


if __name__ == "__main__":
    start()
