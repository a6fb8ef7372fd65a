"""What a brief may say to Android alone."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Annotated, Literal, get_args

from msgspec import Meta

from rivelt.brief.faults import nearest
from rivelt.brief.model import Brief, PlatformOptions
from rivelt.errors import BadInput, RiveltError
from rivelt.units import Look

Way = Literal["auto", "compat", "platform"]
_Name = Annotated[str, Meta(min_length=1)]
SecondScreenChoice = Literal["keep", "replace"]
MarkForm = Literal["auto", "vector", "bitmaps"]
ImageForm = Literal["png", "webp", "lossy-webp"]
Manner = Literal["draw", "rise", "fade", "settle"]
MANNERS: tuple[Manner, ...] = get_args(Manner)
"""How a mark can move that needs no file: `draw`, its lines one after the other; `rise`, its parts from below; `fade`, its parts; `settle`,
as a whole, from a little larger."""


class AndroidTable(PlatformOptions, frozen=True, kw_only=True):
    """[android]: what only Android has."""

    module: (
        Annotated[
            str,
            Meta(
                description='the folder of an app module, such as "android/app", or a list of folders and patterns ("apps/*/app")',
                min_length=1,
            ),
        ]
        | Annotated[list[_Name], Meta(min_length=1)]
        | None
    ) = None
    activity: (
        Annotated[
            str,
            Meta(
                description='the activity that starts the app, such as ".MainActivity", when the launcher shows several',
                min_length=1,
            ),
        ]
        | None
    ) = None
    source_set: Annotated[
        str,
        Meta(
            description='the source set to write to: "main", a flavour, a build type, or a combination ("festivalDebug")',
            pattern=r"^[A-Za-z][A-Za-z0-9_]*$",
        ),
    ] = "main"
    app_theme: (
        Annotated[
            str,
            Meta(
                description='the theme that the app has after launch, such as "@style/Theme.Tern", where the project does not say it',
                pattern=r"^@(?:android:)?style/[\w.]+$",
            ),
        ]
        | None
    ) = None
    compile_sdk: (
        Annotated[
            int,
            Meta(
                description="the API level that the app is compiled with, where the build files do not say it as a number",
                ge=1,
            ),
        ]
        | None
    ) = None
    min_sdk: (
        Annotated[
            int,
            Meta(
                description="the lowest API level that the app runs on, where the build files do not say it as a number",
                ge=1,
            ),
        ]
        | None
    ) = None
    prefix: Annotated[
        str,
        Meta(
            description='what generated resource names begin with, such as "rivelt_"; made safe where Android would refuse it',
            min_length=1,
            max_length=40,
        ),
    ] = "rivelt_"
    way: Annotated[
        Way,
        Meta(
            description='how the screen is made: "compat" (androidx.core:core-splashscreen), "platform" (without a library) or "auto"'
        ),
    ] = "auto"
    mark_form: Annotated[
        MarkForm,
        Meta(
            description='how the mark is written: "vector", "bitmaps", or "auto" (a vector where its outlines allow that)'
        ),
    ] = "auto"
    image_form: Annotated[
        ImageForm,
        Meta(
            description='how bitmaps are stored: "png"; "webp" (lossless, about two thirds of the bytes; API 18 and later); "lossy-webp" (the same, but photographs lose what the eye does not miss)'
        ),
    ] = "png"
    ldpi: Annotated[bool, Meta(description="true or false: whether bitmaps are made for ldpi (120 dpi) too")] = False
    motion: (
        Annotated[
            str,
            Meta(
                description='how the mark moves on Android 12 and later: "draw", "rise", "fade" or "settle"; or the path of an animated vector drawable, such as "art/motion.xml"',
                min_length=1,
            ),
        ]
        | None
    ) = None
    dark_motion: (
        Annotated[
            str,
            Meta(
                description="the same for the dark look, where it moves in another way",
                min_length=1,
            ),
        ]
        | None
    ) = None
    motion_ms: (
        Annotated[
            int,
            Meta(
                description="how long the mark moves, in milliseconds: 800 if left out, or what the file of the motion says",
                ge=1,
                le=1000,
            ),
        ]
        | None
    ) = None
    waiting: Annotated[
        bool,
        Meta(
            description="true or false: whether a layout for the app's own first moment is made, equal to the launch screen"
        ),
    ] = False
    second_screen: Annotated[
        SecondScreenChoice,
        Meta(
            description='what becomes of a launch screen of the app\'s own after the system\'s: "keep" (what to do is listed) or "replace" (the app begins with what it leads to)'
        ),
    ] = "keep"
    hold_while: (
        Annotated[
            str,
            Meta(
                description="an expression of the activity's language, on one line; the launch screen stays while it is true",
                min_length=1,
                max_length=500,
                pattern=r"^[^\r\n]+$",
            ),
        ]
        | None
    ) = None
    hold_limit_ms: Annotated[
        int,
        Meta(
            description="milliseconds, from 100 to 60000, after which the app is shown all the same", ge=100, le=60000
        ),
    ] = 3000

    @property
    def chosen(self) -> tuple[str, tuple[str, ...]]:
        """The app modules that are meant."""
        names = (self.module,) if isinstance(self.module, str) else tuple(self.module or ())
        return "module", tuple(name.rstrip("/") or "." for name in names)

    @property
    def is_part_of_site(self) -> bool:
        """Whether only the variants of one source set are meant."""
        return self.source_set != "main"

    def files(self) -> Mapping[str, str]:
        """Return the files of the moving icon."""
        given = {"motion": self.motion, "dark_motion": self.dark_motion}
        return {key: path for key, path in given.items() if path and path not in MANNERS}

    def problems(self, brief: Brief) -> Iterable[RiveltError]:
        """Yield what is wrong with the manners in which the mark is to move."""
        for key, value in (("motion", self.motion), ("dark_motion", self.dark_motion)):
            if value is not None and value not in MANNERS and "." not in value:
                near = nearest(value, MANNERS)
                hint = f'Did you mean "{near}"?' if near else f"There are {', '.join(MANNERS)}; or give a file."
                at = brief.place(f"android.{key}")
                yield BadInput(f"`android.{key}` is neither a manner nor a file: {value}", place=at, hint=hint)

    def motion_of(self, look: Look) -> tuple[str, str | None]:
        """Return the key that says how the mark moves in a look, and what it says: a manner, or a path."""
        if look == "dark" and self.dark_motion is not None:
            return "dark_motion", self.dark_motion
        return "motion", self.motion
