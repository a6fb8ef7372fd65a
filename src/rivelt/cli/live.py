"""`rivelt proof --live`."""

from __future__ import annotations

import threading
from typing import TYPE_CHECKING

from rivelt.cli import output
from rivelt.errors import BadInput, ExitCode

if TYPE_CHECKING:
    from rivelt.cli.proof import Chosen


def live(chosen: Chosen, *, opens_browser: bool) -> int:
    """Serve the proof until Ctrl-C."""
    try:
        from rivelt.live.server import Server
        from rivelt.live.session import Session
        from rivelt.live.watching import follow
    except ModuleNotFoundError as error:
        raise BadInput(
            f"the live page needs {error.name}, which is not installed",
            hint="Install it with: pip install 'rivelt[live]'",
        ) from error
    server = Server(Session(chosen.source, only=chosen.only, screens=chosen.screens, all_screens=chosen.all_screens))
    over = threading.Event()
    watcher = follow(server.session, over)
    output.plain(server.address)
    output.flush()
    output.warn("saves are shown at once; Ctrl-C ends it")
    if opens_browser:
        threading.Thread(target=_open, args=(server.address,), daemon=True).start()
    try:
        server.run()
    except KeyboardInterrupt:
        pass
    finally:
        over.set()
        watcher.join(2)
    output.warn("stopped: nothing is served any more")
    if server.session.crash is not None:
        raise server.session.crash
    return ExitCode.OK


def _open(address: str) -> None:
    import webbrowser

    webbrowser.open_new_tab(address)
