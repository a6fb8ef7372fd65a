"""The live page in a real browser, served by the real command."""

from __future__ import annotations

import http.client
import io
import json
import os
import re
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import pytest
from PIL import Image

from chromium import FLAGS, browser
from conftest import MARK, Command, read_tree, small_android, write_tree

playwright = pytest.importorskip("playwright.sync_api", reason="Playwright is not installed")

AXE = Path(__file__).parent / "node_modules" / "axe-core" / "axe.min.js"
needs_browser = pytest.mark.skipif(browser() is None, reason="Chromium is not installed")
needs_axe = pytest.mark.skipif(not AXE.is_file() and "CI" not in os.environ, reason="axe-core is not installed")

BRIEF = """\
# The brief of a small app.
[app]
name = "Tern"  # as in the store

[light]
ground = "#F3EBDD"  # sand
mark = "art/mark.svg"
imprint = "art/imprint.svg"
backdrop = "art/dunes.png"

[dark]
ground = "#13212B"

# How it is laid out.
[layout]
focus = [0.5, 0.5]
"""
DARK_MARK = MARK.replace("#1F6E7D", "#102A33")
IMPRINT = '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="40"><rect width="200" height="40" fill="#114455"/></svg>'


def dunes() -> bytes:
    data = io.BytesIO()
    image = Image.new("RGB", (600, 900), "#F3EBDD")
    image.paste("#E0D2B8", (0, 600, 600, 900))
    image.paste("#C2402B", (40, 80, 90, 130))
    image.save(data, "PNG")
    return data.getvalue()


def app(root: Path, brief: str = BRIEF) -> Path:
    files = small_android(brief=brief)
    del files["mark.svg"]
    return write_tree(root, files | {"art/mark.svg": DARK_MARK, "art/imprint.svg": IMPRINT, "art/dunes.png": dunes()})


@dataclass
class Served:
    """A running `rivelt proof --live`."""

    root: Path
    process: subprocess.Popen[str]
    address: str

    @property
    def origin(self) -> str:
        return self.address.rpartition("/")[0].rpartition("/")[0]

    def ask(self, method: str, path: str, body: object = None, **headers: str) -> tuple[int, dict[str, str], bytes]:
        """One request below the address, with the headers of the page itself but for those given (None: left out)."""
        parts = urlsplit(self.address)
        connection = http.client.HTTPConnection(parts.hostname or "", parts.port, timeout=20)
        own = {"Host": parts.netloc, "Origin": self.origin, "Content-Type": "application/json"}
        named = {name.replace("_", "-"): value for name, value in headers.items()}
        target = path if path.startswith("/") else parts.path + path
        connection.putrequest(method, target, skip_host=True, skip_accept_encoding=True)
        data = body if isinstance(body, bytes) else b"" if body is None else json.dumps(body).encode()
        for name, value in {**own, **named}.items():
            if value:
                connection.putheader(name, value)
        connection.putheader("Content-Length", str(len(data)))
        connection.endheaders(data)
        try:
            answer = connection.getresponse()
            return answer.status, {key.lower(): value for key, value in answer.getheaders()}, answer.read()
        finally:
            connection.close()

    def state(self) -> dict[str, Any]:
        return json.loads(self.ask("GET", "state")[2])  # type: ignore[no-any-return]

    def settled(self, holds: Callable[[dict[str, Any]], bool] = lambda _: True) -> dict[str, Any]:
        """The state, once nothing is being worked out and something holds."""
        end = time.monotonic() + 40
        while time.monotonic() < end:
            state = self.state()
            if not state["busy"] and holds(state):
                return state
            time.sleep(0.03)
        raise AssertionError(self.state())

    def set(self, key: str, value: object) -> int:
        return self.ask("POST", "set", {"key": key, "value": value})[0]


@pytest.fixture
def serve(tmp_path: Path) -> Iterator[Callable[..., Served]]:
    """Start the command on an app; ended with Ctrl-C, which must be said, and be a success."""
    running: list[Served] = []

    def start(root: Path | None = None, *options: str) -> Served:
        folder = root or app(tmp_path / "app")
        process = subprocess.Popen(
            [sys.executable, "-m", "rivelt", "proof", "--live", "--no-browser", *options],
            cwd=folder,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
        )
        assert process.stdout is not None
        address = process.stdout.readline().rstrip("\n")
        assert re.fullmatch(r"http://127\.0\.0\.1:\d+/[\w-]{24}/", address), address
        running.append(Served(folder, process, address))
        return running[-1]

    yield start
    for one in running:
        one.process.send_signal(signal.SIGINT)
        out, told = one.process.communicate(timeout=20)
        assert (one.process.returncode, out) == (0, "")
        assert told.rstrip().endswith("stopped: nothing is served any more"), told
        assert "Traceback" not in told


@pytest.fixture(scope="session")
def chromium() -> Iterator[Any]:
    program = browser()
    if program is None:
        pytest.skip("Chromium is not installed")
    flags = [flag for flag in FLAGS if flag not in {"--headless", "--remote-debugging-pipe"}]
    with playwright.sync_playwright() as driver:
        opened = driver.chromium.launch(executable_path=program, args=flags)
        yield opened
        opened.close()


@pytest.fixture
def tab(chromium: Any) -> Iterator[Callable[..., Any]]:
    """Open a tab of its own; what the page complains of fails the test."""
    contexts: list[Any] = []
    complaints: list[str] = []

    def open_tab(served: Served, width: int = 1280, height: int = 800, **options: Any) -> Any:
        context = chromium.new_context(viewport={"width": width, "height": height}, **options)
        contexts.append(context)
        page = context.new_page()
        page.on("pageerror", lambda error: complaints.append(str(error)))
        page.on(
            "console",
            lambda told: (
                complaints.append(told.text)
                if told.type == "error" and "422" not in told.text and "409" not in told.text
                else None
            ),
        )
        page.goto(served.address)
        until(
            page,
            "document.getElementById('status').textContent !== 'connecting' && document.querySelectorAll('.device').length > 0",
        )
        return page

    yield open_tab
    for context in contexts:
        context.close()
    assert not complaints


def until(page: Any, holds: str, argument: object = None) -> None:
    """Wait until an expression, or a function of an argument, holds in the page; its policy lets no script be made from text."""
    end = time.monotonic() + 40
    while not page.evaluate(holds, argument):
        assert time.monotonic() < end, (holds, argument)
        page.wait_for_timeout(30)


def control(page: Any, key: str) -> Any:
    return page.locator(f'[data-key="{key}"]')


def pictures(state: dict[str, Any], look: str = "light") -> set[str]:
    return {shot["picture"] for screen in state["screens"] for shot in screen["shots"] if shot["look"] == look}


def moved(locator: Any, value: object) -> None:
    """Set a range or a colour as a person does, by its events."""
    locator.evaluate(
        "(one, value) => { one.value = value; one.dispatchEvent(new Event('input', {bubbles: true})); }", value
    )


# Controls


@needs_browser
def test_every_control_changes_what_is_shown_and_nothing_is_written(
    serve: Callable[..., Served], tab: Callable[..., Any]
) -> None:
    served = serve()
    before = read_tree(served.root)
    page = tab(served)
    state = served.settled()
    assert [one["key"] for one in state["controls"]] == [
        "light.ground", "dark.ground", "layout.mark_size", "layout.clearance", "light.disc", "dark.disc",
        "layout.focus", "light.imprint", "dark.mark", "dark.imprint",
    ]  # fmt: skip

    def changes(act: Callable[[], object], line: str, look: str = "light") -> None:
        earlier = pictures(served.settled(), look)
        act()
        state = served.settled(lambda state: line in state["diff"] and pictures(state, look) != earlier)
        until(page, "line => document.getElementById('diff').textContent.includes(line)", line)
        shown = page.eval_on_selector_all(".device .after", "all => all.map((one) => one.src)")
        assert {name for name in pictures(state, look) if not any(name in src for src in shown)} == set()

    ground = control(page, "light.ground")

    def typed() -> None:
        ground.locator('input[type="text"]').fill("navy")
        ground.locator('input[type="text"]').press("Enter")

    changes(typed, '+ground = "navy"')
    assert "% of the outline reaches 3:1" in ground.inner_text()
    changes(lambda: moved(ground.locator('input[type="color"]'), "#cfe3ee"), '+ground = "#CFE3EE"')
    changes(lambda: moved(control(page, "dark.ground").locator('input[type="color"]'), "#000040"), '"#000040"', "dark")
    changes(lambda: moved(control(page, "layout.mark_size").locator('input[type="range"]'), "90"), "+mark_size = 90")
    changes(lambda: control(page, "layout.mark_size").locator('input[type="checkbox"]').check(), "ground")
    changes(lambda: moved(control(page, "layout.clearance").locator("input"), "0.3"), "+clearance = 0.3")
    changes(lambda: control(page, "light.disc").locator('input[type="checkbox"]').check(), "+disc = ")
    changes(lambda: control(page, "light.imprint").locator("input").uncheck(), "-imprint = ")
    served.settled(lambda state: "-imprint" in state["diff"])
    control(page, "light.imprint").locator("input").check()
    served.settled(lambda state: "-imprint" not in state["diff"])
    changes(lambda: control(page, "dark.mark").locator("select").select_option("derive"), '+mark = "derive"', "dark")
    assert read_tree(served.root) == before


@needs_browser
def test_the_focus_is_dragged_on_the_picture_with_all_windows_drawn(
    serve: Callable[..., Served], tab: Callable[..., Any]
) -> None:
    served = serve()
    page = tab(served)
    state = served.settled(lambda state: any(shot["window"] for screen in state["screens"] for shot in screen["shots"]))
    wanted = {tuple(shot["window"]) for screen in state["screens"] for shot in screen["shots"] if shot["window"]}
    picture = control(page, "layout.focus").locator(".focus")
    picture.scroll_into_view_if_needed()
    until(page, "document.querySelector('.focus img').naturalWidth > 0")
    assert picture.locator("rect").count() == len(wanted)
    box = picture.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.1, box["y"] + box["height"] * 0.2, steps=4)
    page.mouse.up()
    dragged = served.settled(lambda state: "+focus = [0." in state["diff"] and state["errors"] == [])
    (line,) = [line for line in dragged["diff"].splitlines() if line.startswith("+focus")]
    x, y = json.loads(line.partition("= ")[2])
    assert (x, y) == (pytest.approx(0.1, abs=0.02), pytest.approx(0.2, abs=0.02))
    windows = {tuple(shot["window"]) for screen in dragged["screens"] for shot in screen["shots"] if shot["window"]}
    assert windows != wanted
    assert all(
        left <= x <= left + width and top - 1e-6 <= y <= top + height + 1e-6 for left, top, width, height in windows
    )
    until(page, "count => document.querySelectorAll('.focus rect').length === count", len(windows))


def test_a_control_takes_no_other_value_and_there_is_no_other_control(serve: Callable[..., Served]) -> None:
    served = serve()
    served.settled()
    wrong: list[tuple[str, object]] = [
        ("light.ground", "no colour"), ("light.ground", "#12345678"), ("light.ground", 7), ("light.ground", "x" * 5000),
        ("layout.mark_size", -1), ("layout.mark_size", 1e9), ("layout.mark_size", True), ("layout.mark_size", "large"),
        ("layout.mark_size", float("nan")), ("layout.clearance", 0.5), ("layout.focus", [0.5]), ("layout.focus", [2, 0]),
        ("light.imprint", "../../etc/passwd"), ("dark.mark", "own"), ("light.mark", "art/dunes.png"), ("edition", "none"),
        ("app.project", "/"), ("", None), ("__class__", "x"),
    ]  # fmt: skip
    for key, value in wrong:
        assert served.set(key, value) == 422, (key, value)
    assert served.settled()["changed"] == []


# Writing


def test_write_keeps_comments_shows_the_difference_first_and_is_undone_to_the_byte(
    serve: Callable[..., Served],
) -> None:
    served = serve()
    brief = served.root / "rivelt.toml"
    served.settled()
    assert served.set("light.ground", "#CFE3EE") == 200
    assert served.set("layout.clearance", 0.1) == 200
    state = served.settled(lambda state: len(state["changed"]) == 2)
    assert brief.read_text() == BRIEF
    assert served.ask("POST", "write", {"digest": "0" * 64})[0] == 409
    assert brief.read_text() == BRIEF
    assert served.ask("POST", "write", {"digest": state["digest"]})[0] == 200
    wanted = BRIEF.replace('"#F3EBDD"  # sand', '"#CFE3EE"  # sand').replace(
        "focus = [0.5, 0.5]\n", "focus = [0.5, 0.5]\nclearance = 0.1\n"
    )
    assert brief.read_text() == wanted
    after = served.settled(lambda state: state["undo"] and not state["diff"])
    assert after["changed"] == []
    assert served.ask("POST", "undo", {})[0] == 200
    assert brief.read_text() == BRIEF
    served.settled(lambda state: not state["undo"])
    assert served.ask("POST", "undo", {})[0] == 422
    assert served.ask("POST", "write", {"digest": ""})[0] == 422


def test_what_somebody_else_saves_in_between_is_never_lost(serve: Callable[..., Served]) -> None:
    served = serve()
    brief = served.root / "rivelt.toml"
    served.settled()
    served.set("light.ground", "#CFE3EE")
    seen = served.settled(lambda state: state["changed"])["digest"]
    brief.write_text(BRIEF.replace("#13212B", "#000040"))
    assert served.ask("POST", "write", {"digest": seen})[0] == 409
    assert brief.read_text() == BRIEF.replace("#13212B", "#000040")
    digest = served.settled(lambda state: state["digest"] != seen)["digest"]
    assert served.ask("POST", "write", {"digest": digest})[0] == 200
    assert brief.read_text() == BRIEF.replace("#13212B", "#000040").replace("#F3EBDD", "#CFE3EE")
    brief.write_text(BRIEF)
    assert served.ask("POST", "undo", {})[0] == 409
    assert brief.read_text() == BRIEF


def test_an_edition_is_set_in_its_own_table(serve: Callable[..., Served], tmp_path: Path) -> None:
    gradle = 'android { namespace "x"\n compileSdk 35\n flavorDimensions "brand"\n productFlavors { tern {}\n festival {} } }\n// com.android.application\n'
    root = app(
        tmp_path / "brands",
        BRIEF
        + '\n[edition.festival.light]\nground = "#FFEEFF"\n\n[edition.festival.android]\nsource_set = "festival"\n',
    )
    write_tree(root, {"app/build.gradle": gradle})
    served = serve(root)
    assert served.settled()["editions"] == ["main", "festival"]
    assert served.set("edition", "festival") == 200
    state = served.settled(lambda state: state["edition"] == "festival")
    (ground,) = [one for one in state["controls"] if one["key"] == "light.ground"]
    assert ground["shown"] == "#FFEEFF"
    assert served.set("layout.clearance", 0.2) == 200
    diff = served.settled(lambda state: state["diff"])["diff"]
    assert "+[edition.festival.layout]\n+clearance = 0.2" in diff
    (imprint,) = [one for one in state["controls"] if one["key"] == "light.imprint"]
    assert imprint["why"]  # an edition cannot take out what the brief has
    assert served.set("light.disc", "#FFFFFF") == 200
    assert 'disc = "#FFFFFF"' in served.settled(lambda state: "disc" in state["diff"])["diff"]


# Saves


@needs_browser
def test_a_save_is_shown_in_every_tab_and_so_is_what_one_of_them_sets(
    serve: Callable[..., Served], tab: Callable[..., Any]
) -> None:
    served = serve()
    one, two = tab(served), tab(served)
    first = pictures(served.settled())
    (served.root / "rivelt.toml").write_text(BRIEF.replace("#F3EBDD", "#204060"))
    second = pictures(served.settled(lambda state: pictures(state) != first))
    is_shown = 'names => names.every((name) => document.querySelector(`.device[data-picture="${name}"]`))'
    for page in (one, two):
        until(page, is_shown, sorted(second))
    write_tree(served.root, {"art/mark.svg": DARK_MARK.replace("#102A33", "#FF0000")})
    third = pictures(served.settled(lambda state: not pictures(state) & second))
    until(two, is_shown, sorted(third))
    control(one, "light.ground").locator('input[type="text"]').fill("#010203")
    control(one, "light.ground").locator('input[type="text"]').press("Enter")
    until(two, "document.getElementById('diff').textContent.includes('#010203')")
    styles = served.root / "app/src/main/res/values/styles.xml"
    before = [shot["before"] for screen in served.settled()["screens"] for shot in screen["shots"]]
    styles.write_text(styles.read_text().replace("#FFFFFF", "#804020"))
    served.settled(lambda state: [shot["before"] for screen in state["screens"] for shot in screen["shots"]] != before)


@needs_browser
def test_a_broken_brief_is_an_error_in_place_and_what_was_shown_stays(
    serve: Callable[..., Served], tab: Callable[..., Any]
) -> None:
    served = serve()
    page = tab(served)
    count = len(served.settled()["screens"])
    brief = served.root / "rivelt.toml"
    brief.write_text(BRIEF.replace('ground = "#13212B"', 'grund = "#13212B"'))
    page.wait_for_selector("#errors >> text=unknown key")
    assert "rivelt.toml:12:1" in page.inner_text("#errors")
    assert "Did you mean" in page.inner_text("#errors")
    assert page.inner_text("#status") == "with problems"
    assert page.locator(".screen").count() == count
    brief.write_text("[light\n")
    until(
        page,
        "!document.getElementById('errors').textContent.includes('unknown key') && document.getElementById('errors').textContent",
    )
    brief.unlink()
    until(
        page,
        "document.getElementById('errors').textContent.includes('rivelt.toml') || document.getElementById('errors').textContent.includes('brief')",
    )
    brief.write_text(BRIEF)
    until(
        page,
        "document.getElementById('errors').textContent === '' && document.getElementById('status').textContent === 'up to date'",
    )


def test_only_what_differs_is_drawn_again(serve: Callable[..., Served]) -> None:
    served = serve()
    before = served.settled()
    served.set("dark.ground", "#000040")
    after = served.settled(lambda state: state["changed"])
    assert pictures(after, "light") == pictures(before, "light")
    assert not pictures(after, "dark") & pictures(before, "dark")


def test_where_the_system_watches_no_more_folders_that_is_said_and_the_brief_is_watched(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    import threading

    import watchfiles

    from rivelt.live import watching
    from rivelt.live.session import Session

    plain = watchfiles.watch

    def limited(*folders: Path, recursive: bool = True, **options: Any) -> Any:
        if recursive:
            raise OSError(28, "No space left on device")
        return plain(*folders, recursive=False, **options)

    monkeypatch.setattr(watching, "watch", limited)
    root = app(tmp_path / "app")
    session, over = Session(root), threading.Event()
    session.start()
    thread = watching.follow(session, over)

    def settled(holds: Callable[[dict[str, Any]], bool]) -> dict[str, Any]:
        end = time.monotonic() + 40
        while not (holds(state := session.board.state()) and not state["busy"]):
            assert time.monotonic() < end, state
            time.sleep(0.03)
        return state

    before = settled(lambda state: any("too many folders" in one["message"] for one in state["errors"]))
    (root / "rivelt.toml").write_text(BRIEF.replace("#F3EBDD", "#204060"))
    settled(lambda state: pictures(state) != pictures(before))
    over.set()
    session.stop()
    thread.join(5)


# The view


@needs_browser
def test_looks_guides_slider_filter_and_true_pixels_by_mouse_and_by_keyboard(
    serve: Callable[..., Served], tab: Callable[..., Any]
) -> None:
    served = serve()
    page = tab(served)
    state = served.settled()
    until(page, "document.getElementById('status').textContent === 'up to date'")
    seen = 'look => [...document.querySelectorAll(`.device[data-look="${look}"]`)].every((one) => one.offsetParent !== null)'
    page.keyboard.press("l")
    assert (page.evaluate(seen, "light"), page.evaluate(seen, "dark")) == (True, False)
    page.keyboard.press("d")
    assert (page.evaluate(seen, "light"), page.evaluate(seen, "dark")) == (False, True)
    page.check('input[name="look"][value="both"]')
    assert page.evaluate(seen, "dark")
    page.locator("#screens").focus()
    page.keyboard.press("g")
    assert page.evaluate("getComputedStyle(document.querySelector('.guides')).visibility") == "visible"
    page.keyboard.press("ArrowLeft")
    assert page.input_value("#shown") == "90"
    assert page.evaluate("getComputedStyle(document.querySelector('.after')).clipPath") == "inset(0px 0px 0px 10%)"
    page.keyboard.press("/")
    page.keyboard.type("Android 14")
    assert page.locator(".screen:visible").count() == 1
    page.keyboard.press("Escape")
    assert page.locator(".screen:visible").count() == len(state["screens"])
    small = page.locator(".device").first.bounding_box()["width"]
    page.locator("#screens").focus()
    page.keyboard.press("+")
    page.keyboard.press("+")
    assert page.locator(".device").first.bounding_box()["width"] != small
    device = page.locator(".device").first
    device.focus()
    page.keyboard.press("Enter")
    until(page, "document.querySelector('dialog img').naturalWidth > 0")
    (screen,) = [one for one in state["screens"] if one["shots"][0]["picture"] == device.get_attribute("data-picture")]
    size = page.evaluate(
        "[document.querySelector('dialog img').naturalWidth, document.querySelector('dialog img').clientWidth]"
    )
    assert size == [screen["width"] * screen["scale"]] * 2
    page.keyboard.press("Escape")
    assert not page.evaluate("document.getElementById('true').open")


@needs_browser
def test_all_screens_are_in_one_view(serve: Callable[..., Served], tab: Callable[..., Any], applied: Path) -> None:
    served = serve(applied)
    page = tab(served)
    served.settled()
    until(page, "document.getElementById('status').textContent === 'up to date'")
    page.wait_for_timeout(300)
    boxes = page.eval_on_selector_all(".screen", "all => all.map((one) => one.getBoundingClientRect().toJSON())")
    assert len(boxes) == len(served.state()["screens"]) > 10
    assert all(box["bottom"] <= 800 and box["right"] <= 1280 and box["width"] > 20 for box in boxes)


@needs_browser
@needs_axe
@pytest.mark.parametrize(("width", "height"), [(1280, 800), (390, 844)])
@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_a_screen_reader_and_a_keyboard_find_their_way(
    serve: Callable[..., Served], tab: Callable[..., Any], width: int, height: int, scheme: str
) -> None:
    served = serve()
    page = tab(served, width, height, color_scheme=scheme, bypass_csp=True)
    served.settled()
    served.set("light.ground", "#FFF0F0")
    served.settled(lambda state: state["diff"])
    until(page, "document.getElementById('diff').textContent.includes('#FFF0F0')")
    for view in ("page", "dialog"):
        if view == "dialog":
            page.locator(".device").first.click()
        page.evaluate(AXE.read_text())
        found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
        assert [(one["id"], [node["html"] for node in one["nodes"]]) for one in found["violations"]] == []


def test_a_project_without_a_brief_has_no_controls(serve: Callable[..., Served], tmp_path: Path) -> None:
    files = small_android()
    del files["rivelt.toml"]
    served = serve(write_tree(tmp_path / "plain", files))
    state = served.settled(lambda state: state["screens"])
    assert (state["controls"], state["brief"]) == ([], None)
    assert served.set("light.ground", "red") == 422


# Safety


def test_a_foreign_page_a_foreign_host_and_who_does_not_know_the_token_are_refused(
    serve: Callable[..., Served],
) -> None:
    served = serve()
    served.settled()
    port = urlsplit(served.address).port
    body = {"key": "light.ground", "value": "#000000"}
    assert served.ask("POST", "set", body, Origin="http://evil.example")[0] == 403
    assert served.ask("POST", "set", body, Origin="null")[0] == 403
    assert served.ask("POST", "set", body, Origin="")[0] == 403
    assert served.ask("POST", "set", body, Origin=f"https://127.0.0.1:{port}")[0] == 403
    assert served.ask("GET", "state", Origin="http://evil.example")[0] == 403
    assert served.ask("GET", "state", Host=f"evil.example:{port}", Origin="")[0] == 421
    assert served.ask("GET", "state", Host="127.0.0.1", Origin="")[0] == 421
    assert served.ask("GET", "state", Host="")[0] in {400, 421}
    assert served.ask("POST", "set", body, Content_Type="text/plain")[0] == 415
    assert served.ask("POST", "set", b"x" * 20_000)[0] == 413
    assert served.ask("POST", "set", b"[" * 10_000)[0] == 400
    assert served.ask("POST", "set", [1])[0] == 400
    for path in ("/", "/state", "/x/state", "/static/live.js", f"/{'A' * 24}/state", "//state", "/%2e%2e/state"):
        assert served.ask("GET", path)[0] == 404, path
    for path in (
        "static/../server.py",
        "static/..%2fserver.py",
        "static/server.py",
        "picture/../../rivelt.toml.png",
        "true/x.png",
    ):
        assert served.ask("GET", path)[0] == 404, path
    for path in ("set", "write", "undo", "reset"):
        assert served.ask("GET", path)[0] == 405
    assert served.settled()["changed"] == []
    assert served.set("light.ground", "#000000") == 200  # and who may is not


def test_every_answer_forbids_what_the_page_does_not_need(serve: Callable[..., Served]) -> None:
    served = serve()
    name = served.settled()["screens"][0]["shots"][0]["picture"]
    for path in (
        "",
        "state",
        "static/live.js",
        "static/live.css",
        f"picture/{name}.png",
        f"true/{name}.png",
        "missing",
    ):
        _, headers, body = served.ask("GET", path)
        policy = headers["content-security-policy"]
        assert "default-src 'none'" in policy
        assert "unsafe" not in policy
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["referrer-policy"] == "no-referrer"
        assert headers["cross-origin-resource-policy"] == "same-origin"
        assert "server" not in headers
        if path == "":
            assert not re.search(rb"<script(?![^>]*src=)|\son\w+=|\sstyle=|<style", body)


def test_it_listens_on_the_loopback_address_alone(serve: Callable[..., Served]) -> None:
    served = serve()
    port = urlsplit(served.address).port or 0
    others = {str(info[4][0]) for info in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET)} - {
        "127.0.0.1"
    }
    for host in others:
        with pytest.raises(OSError), socket.create_connection((host, port), timeout=2):  # noqa: PT011
            pass
    assert served.settled()["screens"]


def test_art_that_looks_like_markup_is_text(serve: Callable[..., Served], tmp_path: Path) -> None:
    hostile = BRIEF.replace('"Tern"', '"<img src=x onerror=alert(1)>"')
    served = serve(app(tmp_path / "hostile", hostile))
    body = served.ask("GET", "")[2]
    assert b"<img src=x" not in body
    assert b"&lt;img src=x onerror=alert(1)&gt;" in body


# The command


@pytest.mark.parametrize("options", [("--out", "x.png"), ("--json",), ("--now",), ("--beside",), ("--since", "HEAD")])
def test_options_that_a_live_page_has_no_use_for(tmp_path: Path, rivelt: Command, options: tuple[str, ...]) -> None:
    run = rivelt("proof", "--live", *options, cwd=app(tmp_path / "app"))
    assert run.code == 2
    assert "--live shows all of that in the browser" in run.err + run.out


def test_a_brief_with_problems_is_told_before_anything_is_served(tmp_path: Path, rivelt: Command) -> None:
    run = rivelt("proof", "--live", "--no-browser", cwd=app(tmp_path / "app", BRIEF + "colour = 1\n"))
    assert (run.code, run.out) == (2, "")
    assert "unknown key" in run.err


def test_without_the_extra_the_command_says_what_to_install(
    tmp_path: Path, rivelt: Command, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in [name for name in sys.modules if name.startswith(("rivelt.live", "starlette", "uvicorn"))]:
        monkeypatch.delitem(sys.modules, name)
    monkeypatch.setitem(sys.modules, "uvicorn", None)
    run = rivelt("proof", "--live", cwd=app(tmp_path / "app"))
    assert run.code == 2
    assert "pip install 'rivelt[live]'" in run.err
