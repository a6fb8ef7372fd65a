"""The process of `rivelt.art.trial`: draws the SVG on its standard input, within the limits of its arguments (seconds, bytes).

Ends with 0 when it is drawn, with 1 when it is broken, which is found out again where it matters; the system ends it where it takes too long.
"""

import os
import sys

if __name__ == "__main__":
    seconds, most = map(int, sys.argv[1:3])
    try:
        import resource

        resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
        resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 1))
        resource.setrlimit(resource.RLIMIT_AS, (most, most))
    except (ImportError, OSError, ValueError):
        pass  # Windows: whoever started this process ends it
    os.environ["VIPS_CONCURRENCY"] = "1"
    import pyvips

    try:
        pyvips.Image.svgload_buffer(sys.stdin.buffer.read(), dpi=96, scale=72 / 96).copy_memory()
    except pyvips.Error:
        sys.exit(1)
