"""The brief: the keys of `rivelt.toml` as tables, each with its one default and description; and a whole brief as a value.

The loader, the JSON Schema, the pages of the docs and the starter brief are made from these tables. The keys of one platform, such as
those of [android], are in the `options` module of its package. In a table `None` means "left out"; colours and paths are plain text
there, and get their meaning in `rivelt.brief.load`.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Annotated, Any, ClassVar, Literal, TypeAlias, TypeVar

from msgspec import Meta, Struct, field

from rivelt.colour import Colour
from rivelt.errors import Place, RiveltError
from rivelt.findings import Severity
from rivelt.patterns import regex
from rivelt.units import LOOKS, Look, Size
from rivelt.values import Keyed

FILE_NAME = "rivelt.toml"

Role: TypeAlias = Literal["mark", "imprint"]
ROLES: tuple[Role, ...] = ("mark", "imprint")

Centre: TypeAlias = Literal["circle", "box", "mass"]

DERIVE = "derive"
"""In place of a path under [dark]: the light art, recoloured for the dark ground."""

NO_DISC = "none"
"""In place of a colour: no disc in this look, although the other has one."""

EDITION_NAME = regex(r"[A-Za-z][A-Za-z0-9_-]{0,59}")
"""What the name of an edition looks like: it becomes part of paths and of option values."""

THE_BRIEF = "main"
"""What `--edition` calls the brief itself, without its editions; so no edition can have this name."""


class Token(Struct, frozen=True, forbid_unknown_fields=True):
    """A colour in a W3C design-tokens file: the file, and the token's dotted path in it."""

    tokens: Annotated[
        str, Meta(description='the path of a design-tokens file, such as "brand.tokens.json"', min_length=1)
    ]
    name: Annotated[str, Meta(description='the token, such as "color.brand.ground"', min_length=1)]


_COLOUR = 'any CSS colour, such as "#F3EBDD", or { tokens = "brand.tokens.json", name = "color.brand.ground" }'
ColourText = Annotated[str, Meta(description=_COLOUR, min_length=1)] | Annotated[Token, Meta(description=_COLOUR)]
ArtPath = Annotated[
    str,
    Meta(
        description='the path of an SVG, PNG, JPEG or WebP file, such as "art/mark.svg"; under [dark] also "derive"',
        min_length=1,
    ),
]


class AppTable(Struct, frozen=True, kw_only=True):
    """[app]: the app, and where its native projects are."""

    name: Annotated[str, Meta(description="the app's name, as text")] | None = None
    project: Annotated[str, Meta(description='a folder, relative to the brief, such as "."', min_length=1)] = "."
    small_files: Annotated[
        bool, Meta(description="true or false: whether much more time is spent on smaller image files")
    ] = False
    targets: Annotated[list[str], Meta(description='a list such as ["android", "ios"]', min_length=1)] | None = None
    exclude: Annotated[
        list[Annotated[str, Meta(min_length=1)]],
        Meta(
            description='patterns as in .gitignore, relative to the project, of what holds no app of this brief: ["**/samples/**"]'
        ),
    ] = []  # msgspec copies it


_Share = Annotated[float, Meta(ge=0, le=1)]
_DISC = 'any CSS colour or design token, or "none"'
Disc = Annotated[str, Meta(description=_DISC, min_length=1)] | Annotated[Token, Meta(description=_DISC)]


class LookTable(Struct, frozen=True, kw_only=True):
    """[light] or [dark]: what the screen shows in one look. What [dark] leaves out is taken from [light]."""

    ground: ColourText | None = None
    mark: ArtPath | None = None
    imprint: ArtPath | None = None
    backdrop: ArtPath | None = None
    disc: Disc | None = None


_SAME = 1e-6


class LayoutTable(Struct, frozen=True, kw_only=True):
    """[layout]: how large, how far from the edges, and round which middle."""

    mark_size: (
        Annotated[
            float,
            Meta(
                description='a number of dp/pt above 0 (the longer side), or "fit": as large as the narrowest mask of all targets allows; one size everywhere, unless a platform\'s own table gives another',
                gt=0,
                le=1000,
            ),
        ]
        | Literal["fit"]
    ) = "fit"
    clearance: Annotated[
        float,
        Meta(
            description="the free ring inside a circular mask, as a share of its diameter, from 0 to 0.4", ge=0, le=0.4
        ),
    ] = 0.06
    centre: (
        Annotated[
            Centre,
            Meta(description='what is centred: "circle" (the smallest round it), "box" (its bounds) or "mass"'),
        ]
        | None
    ) = None
    focus: Annotated[
        tuple[_Share, _Share],
        Meta(
            description="two numbers from 0 to 1: the point of the backdrop that every screen should show, such as [0.5, 0.35]"
        ),
    ] = (0.5, 0.5)
    trim: (
        Annotated[
            bool,
            Meta(
                description='true or false: whether transparent margins of the art are left out, or a list of the art they are left out of: ["mark"]; an imprint of exactly 5:2 is finished, and keeps them'
            ),
        ]
        | Annotated[list[Role], Meta(max_length=2)]
    ) = True
    enlarge: Annotated[bool, Meta(description="true or false: whether a bitmap may be enlarged more than twice")] = (
        False
    )

    def trims(self, role: Role, size: Size) -> bool:
        """Return whether the margins of some art are left out; an imprint in the system's own shape, 5:2, has those that it needs."""
        is_wanted = self.trim if isinstance(self.trim, bool) else role in self.trim
        return is_wanted and not (role == "imprint" and abs(size.width * 2 - size.height * 5) < _SAME * size.width)


class HandoffTable(Struct, frozen=True, kw_only=True):
    """[handoff]: what comes after the launch screen, for the proof."""

    first_ground: ColourText | None = None
    dark_first_ground: ColourText | None = None


class CheckTable(Struct, frozen=True, kw_only=True):
    """[check]: which rules are left out, and why, and how severe the others are."""

    ignore: Annotated[
        dict[str, Annotated[str, Meta(min_length=1)]],
        Meta(
            description='codes of rules, each with the reason for leaving it out, such as { AND09 = "old phones only" }'
        ),
    ] = {}  # msgspec copies it
    severity: Annotated[
        dict[str, Severity],
        Meta(description='codes of rules, each with "error", "warning" or "note"'),
    ] = {}
    most_bytes: Annotated[
        dict[str, Annotated[int, Meta(ge=1)]],
        Meta(description="what all launch images of a platform may weigh, in bytes, by target: { android = 400_000 }"),
    ] = {}


class PlatformOptions(Struct, frozen=True, kw_only=True):
    """What every platform's own table has in common."""

    mark_size: (
        Annotated[
            float,
            Meta(description="the mark's size on this platform alone, as under [layout]", gt=0, le=1000),
        ]
        | Literal["fit"]
        | None
    ) = None

    @property
    def chosen(self) -> tuple[str, tuple[str, ...]]:
        """The key that says which sites are meant, and the names or patterns that it holds; no key where a platform has one site."""
        return "", ()

    @property
    def is_part_of_site(self) -> bool:
        """Whether what is meant is only a part of a site, such as one flavour of an app module; another part is somebody else's."""
        return False

    def for_edition(self, _name: str, _given: frozenset[str]) -> PlatformOptions:
        """Return the table as an edition has it, where what it leaves to Rivelt depends on that; `given`: the keys that the edition gives."""
        return self

    def problems(self, _brief: Brief) -> Iterable[RiveltError]:
        """Yield what is wrong with the table by its values alone, whatever project it is for."""
        return ()

    def files(self) -> Mapping[str, str]:
        """Return the keys whose values are paths of files that planning needs, relative to the brief, with those paths."""
        return {}


TABLES: dict[str, type[Struct]] = {
    "app": AppTable,
    "light": LookTable,
    "dark": LookTable,
    "layout": LayoutTable,
    "handoff": HandoffTable,
    "check": CheckTable,
}
"""The tables that every platform shares, by their names in the file."""

REQUIRED = {"light.ground": "#F3EBDD"}
"""The keys that cannot be left out, each with a sample value."""

Options = TypeVar("Options", bound=PlatformOptions)


class LookBrief(Keyed, frozen=True):
    """What the screen shows in one look: an opaque ground, and art as paths relative to the brief.

    `disc`: the colour of a circle under the mark, or None. `is_ground_given`: whether the brief says the ground; if not, it is
    to be taken from the backdrop. `ground_name`: the CSS name of the ground, where the brief gives it by name.
    """

    ground: Colour
    mark: str | None = None
    imprint: str | None = None
    backdrop: str | None = None
    disc: Colour | None = None
    is_ground_given: bool = True
    ground_name: str | None = None
    not_in_key: ClassVar[frozenset[str]] = frozenset({"ground_name"})

    @property
    def behind_mark(self) -> Colour:
        """The flat colour that the mark stands on."""
        return self.disc or self.ground

    def art(self, role: Role) -> str | None:
        """Return the path of the art that plays `role`, or None."""
        return self.mark if role == "mark" else self.imprint


class Brief(Keyed, frozen=True):
    """Everything the person decides, every default filled in, every colour and key understood.

    `folder` holds the brief; art paths are relative to it. `project` is where the native projects are. `targets` is None when the survey
    is to say. `first_grounds`: the ground of the app's first screen, for the looks in which the brief says it. `options` holds the table
    of each platform, by target. `places` maps keys ("light.ground") to where they stand in the file. `edition`: the name of the edition
    that this is, "" for the brief itself, which holds its `editions`; `given`: the keys that the edition itself gives. `source`: the tables of the file as they were read, those of an
    edition laid over the brief's own. `token_files`: the files of design tokens that colours are taken from.
    """

    path: Path
    name: str
    project: Path
    targets: tuple[str, ...] | None
    looks: Mapping[Look, LookBrief]
    app: AppTable = field(default_factory=AppTable)
    layout: LayoutTable = field(default_factory=LayoutTable)
    check: CheckTable = field(default_factory=CheckTable)
    first_grounds: Mapping[Look, Colour] = field(default_factory=dict)
    options: Mapping[str, PlatformOptions] = field(default_factory=dict)
    places: Mapping[str, Place] = field(default_factory=dict)
    edition: str = ""
    given: frozenset[str] = frozenset()
    editions: tuple[Brief, ...] = ()
    source: Mapping[str, Any] = field(default_factory=dict)
    token_files: tuple[str, ...] = ()
    not_in_key: ClassVar[frozenset[str]] = frozenset({"places", "editions", "source"})

    @property
    def folder(self) -> Path:
        """The folder that holds the brief."""
        return self.path.parent

    @property
    def shown_looks(self) -> tuple[Look, ...]:
        """Both looks, or only light when dark would show the very same."""
        return LOOKS if self.looks["dark"] != self.looks["light"] else ("light",)

    @property
    def named_files(self) -> tuple[str, ...]:
        """The files that it names, as it names them."""
        names = [name for shown in self.looks.values() for name in (shown.mark, shown.imprint, shown.backdrop)]
        names += [*self.token_files, *(path for one in self.options.values() for path in one.files().values())]
        return tuple(dict.fromkeys(name for name in names if name and name != DERIVE))

    def table(self, target: str, kind: type[Options]) -> Options:
        """Return the table of a platform; its defaults where the brief has none."""
        found = self.options.get(target)
        return found if isinstance(found, kind) else kind()

    def place(self, key: str) -> Place | None:
        """Return where the value of `key` stands in the file, or the table `key`; for a dark key that was left out, that of its light one."""
        light = key.replace("dark.", "light.", 1)
        return next((self.places[name] for name in (f"{key}=", key, f"{light}=", light) if name in self.places), None)
