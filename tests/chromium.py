"""Headless Chromium, driven through its debugging pipe (Chrome DevTools Protocol)."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

FLAGS = (
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--hide-scrollbars",
    "--remote-debugging-pipe",
)


def browser() -> str | None:
    """The program, if the machine has it."""
    return shutil.which("chromium") or shutil.which("chromium-browser")


class Page:
    """One page in a browser of its own."""

    def __init__(self, commands: Any, answers: Any) -> None:
        self._commands = commands
        self._answers = answers
        self._number = 0
        self._session: str | None = None
        self.requests: list[str] = []

    def call(self, method: str, **parameters: Any) -> dict[str, Any]:
        """Call a method of the protocol; requests that the page makes on the way are noted."""
        self._number += 1
        message = {"id": self._number, "method": method, "params": parameters}
        if self._session:
            message["sessionId"] = self._session
        self._commands.write(json.dumps(message).encode() + b"\0")
        self._commands.flush()
        while True:
            answer = json.loads(self._next())
            if answer.get("method") == "Network.requestWillBeSent":
                self.requests.append(answer["params"]["request"]["url"])
            if answer.get("id") == self._number:
                assert "error" not in answer, answer
                result: dict[str, Any] = answer["result"]
                return result

    def _next(self) -> bytes:
        parts = bytearray()
        while (byte := self._answers.read(1)) != b"\0":
            assert byte, "the browser has gone"
            parts += byte
        return bytes(parts)

    def open(self, path: Path, width: int, height: int) -> None:
        """Load a file in a window of CSS pixels."""
        target = self.call("Target.createTarget", url="about:blank")["targetId"]
        self._session = self.call("Target.attachToTarget", targetId=target, flatten=True)["sessionId"]
        self.call("Network.enable")
        self.call("Emulation.setDeviceMetricsOverride", width=width, height=height, deviceScaleFactor=1, mobile=False)
        self.call("Page.navigate", url=path.as_uri())
        while self.run("document.readyState") != "complete" or self.run("location.href") == "about:blank":
            pass

    def run(self, script: str) -> Any:
        """The value of an expression in the page."""
        answer = self.call("Runtime.evaluate", expression=script, returnByValue=True)
        assert "exceptionDetails" not in answer, answer
        return answer["result"].get("value")

    def press(self, key: str) -> None:
        """Press a key."""
        self.call("Input.dispatchKeyEvent", type="keyDown", key=key, **({"text": key} if len(key) == 1 else {}))
        self.call("Input.dispatchKeyEvent", type="keyUp", key=key)


@contextmanager
def open_page(path: Path, profile: Path, width: int = 1280, height: int = 800) -> Iterator[Page]:
    """A page of a file, in a browser with a new profile."""
    program = browser()
    assert program is not None
    (their_commands, our_commands), (our_answers, their_answers) = os.pipe(), os.pipe()

    def at_three_and_four() -> None:  # where the browser looks for its pipe
        for spare, own in ((30, their_commands), (31, their_answers)):
            os.dup2(own, spare)
        os.dup2(30, 3)
        os.dup2(31, 4)

    process = subprocess.Popen(
        [program, *FLAGS, f"--user-data-dir={profile}"],
        preexec_fn=at_three_and_four,  # noqa: PLW1509
        close_fds=False,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    os.close(their_commands)
    os.close(their_answers)
    try:
        with os.fdopen(our_commands, "wb") as commands, os.fdopen(our_answers, "rb") as answers:
            page = Page(commands, answers)
            page.open(path, width, height)
            yield page
    finally:
        process.kill()
        process.wait()
