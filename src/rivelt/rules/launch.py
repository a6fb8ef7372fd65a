"""The rules on a recorded launch."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.rules.books import LAUNCHES
from rivelt.rules.rulebook import Said, broken, unknown
from rivelt.scene.handoff import FLASH
from rivelt.scene.launch import Against, Launch, Moment

_LONG_MS = 1500.0
_SHORT_MS = 150.0
_SAME_GROUND = 6.0  # CIEDE2000: what a codec and a screen's colours leave of the same colour
_OTHER_GROUND = 12.0
_MOVED = 3.0  # dp or pt
_SCALED = 0.04
_DISTORTED = 0.04


def _launch(subject: Launch) -> Moment | None:
    return next(iter(subject.of("launch")), None)


def _is_this(against: Against) -> bool:
    """Whether what was recorded is the launch screen that was worked out, as far as its ground tells."""
    return against.ground is None or against.ground < _OTHER_GROUND


def _told(moment: Moment) -> str:
    ground = f" in {moment.ground.hex[:7]}" if moment.ground is not None else ""
    return f"{moment.length:.0f} ms{ground}, from {moment.start:.0f} ms on"


@LAUNCHES.rule("REP01")
def no_flash(subject: Launch) -> Iterator[Said]:
    """No other colour fills the screen between launch screen and first screen."""
    launch = _launch(subject)
    for flash in subject.of("flash"):
        apart = launch.ground.difference(flash.ground) if launch and launch.ground and flash.ground else None
        change = f", a colour difference of {apart:.0f} to the launch screen" if apart is not None else ""
        fix = "Give the app's window and its first screen the ground of the launch screen; `rivelt check` names the files."
        yield broken(f"a flash: {_told(flash)}{change}", fix)


@LAUNCHES.rule("REP02")
def one_launch_screen(subject: Launch) -> Iterator[Said]:
    """One launch screen is shown, not two."""
    for second in subject.of("second"):
        fix = "Remove the app's own launch screen, or let the system's hold until the app is ready (second_screen, hold_while)."
        yield broken(f"a second launch screen: {_told(second)}", fix)


@LAUNCHES.rule("REP03")
def nothing_jumps(subject: Launch) -> Iterator[Said]:
    """The mark stays where it is while the app begins."""
    launch = _launch(subject)
    against = subject.against
    if launch is None or launch.mark is None:
        return
    for later in subject.of("waiting", "second"):
        if later.mark is None or launch.ground is None or later.ground is None:
            continue
        if launch.ground.difference(later.ground) > _SAME_GROUND:
            continue
        across = later.mark.centre.x - launch.mark.centre.x
        down = later.mark.centre.y - launch.mark.centre.y
        grown = later.mark.width / launch.mark.width
        if max(abs(across), abs(down)) > 0.02 * launch.mark.width + 2 or abs(grown - 1) > 2 * _SCALED:
            far = f"{abs(across):.0f} px across and {abs(down):.0f} px down"
            screen = against.screen if against is not None else ""
            fix = "Show the same mark as large and in the same place: `waiting = true` under the platform makes such a screen."
            yield broken(
                f"the mark jumps by {far}, to {grown:.2f} times its size, at {later.start:.0f} ms", fix, screen=screen
            )


@LAUNCHES.rule("REP04")
def it_is_this_projects(subject: Launch) -> Iterator[Said]:
    """The launch screen is the one that the project's files give."""
    if (against := subject.against) is None:
        yield unknown(subject.why or "nothing is known that the recording could be held against")
        return
    if not _is_this(against) and not _is_other_look(subject):
        message = f"this is not the project's launch screen: its ground differs by {against.ground:.0f}"
        fix = (
            "Build and install again. iOS keeps an old one: delete the app and restart the device, or set `fresh_names = true` "
            "under [ios]; on Android, clear the launcher's cache or restart."
        )
        yield broken(message, fix, screen=against.screen, look=against.look)


@LAUNCHES.rule("REP05")
def not_distorted(subject: Launch) -> Iterator[Said]:
    """The mark has its own proportions."""
    against = subject.against
    if against is None or against.wide is None or against.high is None or not _is_this(against):
        return
    stretched = against.wide / against.high
    if abs(stretched - 1) > _DISTORTED:
        way = "wide" if stretched > 1 else "high"
        message = f"the mark is distorted: {max(stretched, 1 / stretched):.2f} times too {way}"
        yield broken(
            message,
            "Build and install again; if it stays so, run: rivelt check",
            screen=against.screen,
            look=against.look,
        )


def _is_other_look(subject: Launch) -> bool:
    """Whether the other look was shown: its ground fits, and that of the look in question does not."""
    against = subject.against
    return (
        against is not None
        and against.ground is not None
        and against.other_look is not None
        and against.ground >= _SAME_GROUND
        and against.other_look < _SAME_GROUND
    )


@LAUNCHES.rule("REP06")
def right_look(subject: Launch) -> Iterator[Said]:
    """The look is the one that the device was set to."""
    against = subject.against
    if against is not None and subject.wanted_look is not None and _is_other_look(subject):
        shown = "light" if against.look == "dark" else "dark"
        message = f"the {shown} launch screen was shown, not the {against.look} one"
        fix = (
            "Where the app sets its look by itself, the system does not know it at launch: see `rivelt explain REP06`."
        )
        yield broken(message, fix, screen=against.screen, look=against.look)


@LAUNCHES.rule("REP07")
def not_longer_than_needed(subject: Launch) -> Iterator[Said]:
    """The launch screen goes when the app is ready."""
    launch = _launch(subject)
    if launch is not None and launch.length > _LONG_MS:
        message = f"the launch screen was shown for {launch.length:.0f} ms; a recording does not show whether the app was ready earlier"
        yield broken(message, "Do less before the first screen; hold the launch screen for nothing but what it needs.")


@LAUNCHES.rule("REP08")
def long_enough_to_be_seen(subject: Launch) -> Iterator[Said]:
    """The launch screen can be seen."""
    launch = _launch(subject)
    if launch is not None and launch.length < _SHORT_MS:
        message = f"the launch screen was shown for {launch.length:.0f} ms only: hardly anybody sees it"
        yield broken(message, "Nothing is wrong with it. Was this a warm start? Record a cold one as well.")


@LAUNCHES.rule("REP09")
def first_screen_goes_on(subject: Launch) -> Iterator[Said]:
    """The first screen's ground continues that of the launch screen."""
    launch, first = _launch(subject), next(iter(subject.of("first")), None)
    if launch is None or first is None or launch.ground is None or first.ground is None:
        return
    apart = launch.ground.difference(first.ground)
    if apart >= FLASH:
        message = f"the first screen is {first.ground.hex[:7]}, a colour difference of {apart:.0f} to the launch screen"
        yield broken(message, "Give both the same ground, or leave it where the change is meant.")


@LAUNCHES.rule("REP10")
def mark_is_where_it_should_be(subject: Launch) -> Iterator[Said]:
    """The mark is as large, and where, the project's files say."""
    against = subject.against
    if against is None or not _is_this(against):
        return
    fix = "Build and install again; if it stays so, the proof and the device disagree: report it with the recording."
    if against.is_missing:
        yield broken("the mark is missing", fix, screen=against.screen, look=against.look)
    if against.moved is None or against.wide is None or against.high is None:
        return
    across, down = against.moved
    if max(abs(across), abs(down)) > _MOVED:
        far = f"{across:+.1f} {against.unit} across, {down:+.1f} {against.unit} down"
        yield broken(f"the mark is not where it should be: {far}", fix, screen=against.screen, look=against.look)
    grown = (against.wide * against.high) ** 0.5
    if abs(grown - 1) > _SCALED and abs(against.wide / against.high - 1) <= _DISTORTED:
        yield broken(
            f"the mark is {grown:.2f} times as large as it should be", fix, screen=against.screen, look=against.look
        )


@LAUNCHES.rule("REP11")
def imprint_is_there(subject: Launch) -> Iterator[Said]:
    """The imprint is shown."""
    against = subject.against
    if against is not None and against.is_imprint_missing and _is_this(against):
        fix = "Build and install again. Some launchers of Android 12 and later leave it out."
        yield broken("the imprint is missing", fix, screen=against.screen, look=against.look)
