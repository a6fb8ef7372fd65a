"""Launch storyboards as UIKit lays them out and draws them: solved from the native files, held against results worked out by hand."""

from __future__ import annotations

import itertools
import json
from collections.abc import Mapping
from pathlib import Path

import kiwisolver
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Command, write_tree
from rivelt.edit.xml import Document, parse_xml
from rivelt.platforms import platform
from rivelt.platforms.ios.facts import size_classes, splits, turned
from rivelt.platforms.ios.native.catalog import find_image
from rivelt.platforms.ios.reader.layout import Layout, solve
from rivelt.platforms.ios.reader.tiers import Relation, Tiers
from rivelt.platforms.ios.reader.traits import Traits
from rivelt.platforms.ios.reader.views import read_tree
from rivelt.project.project import Project
from rivelt.scene.model import Cause, Fill, Picture, Scene, Screen, TextBox, Unknown
from rivelt.units import LOOKS, Rect, Size
from test_apple_projects import FILES, PLIST, project
from test_other_scenes import png

SCREEN = Screen("ios", "phone", "iOS", 400, 800, 3, 17, top=50, bottom=30)
PAD = Screen("ios", "pad", "iPadOS", 820, 1180, 2, 17, top=24, bottom=20)
NO = 'translatesAutoresizingMaskIntoConstraints="NO"'


def laid_out_on(document: Document, screen: Screen, sizes: Mapping[str, Size] | None = None) -> Layout:
    traits = Traits.of(screen)
    tree = read_tree(document, traits)
    assert not isinstance(tree, str), tree
    return solve(tree, screen, sizes or {}, traits)


STORYBOARD = """<document launchScreen="YES"><scenes><scene><objects><viewController><view key="view" id="root">
<subviews><imageView id="mark" translatesAutoresizingMaskIntoConstraints="NO" image="M"/></subviews>
<viewLayoutGuide key="safeArea" id="safe"/><constraints>{}</constraints></view></viewController></objects></scene></scenes></document>"""
CENTRED = (
    '<constraint firstItem="mark" firstAttribute="centerX" secondItem="root" secondAttribute="centerX"/>'
    '<constraint firstItem="mark" firstAttribute="centerY" secondItem="root" secondAttribute="centerY"/>'
)

WIDE = '<constraint firstItem="mark" firstAttribute="width" constant="{}" priority="{}"/>'


@pytest.mark.parametrize(
    ("constraints", "frame"),
    [
        (CENTRED, (150, 375, 100, 50)),  # its own size
        (CENTRED.replace('"centerY"/>', '"centerY" constant="-40"/>'), (150, 335, 100, 50)),
        (
            '<constraint firstItem="mark" firstAttribute="width" constant="200"/>'
            '<constraint firstItem="mark" firstAttribute="height" secondItem="mark" secondAttribute="width" multiplier="3:4"/>'
            + CENTRED,
            (100, 325, 200, 150),
        ),
        (
            '<constraint firstItem="mark" firstAttribute="width" secondItem="root" secondAttribute="width" multiplier="1/4"/>'
            + CENTRED,
            (150, 375, 100, 50),
        ),
        (
            (
                '<constraint firstItem="safe" firstAttribute="bottom" secondItem="mark" secondAttribute="bottom" constant="20"/>'
                '<constraint firstItem="mark" firstAttribute="leading" secondItem="safe" secondAttribute="leading" constant="16"/>'
            ),
            (16, 700, 100, 50),
        ),
        (
            "".join(
                f'<constraint firstItem="mark" firstAttribute="{side}" secondItem="root" secondAttribute="{side}"/>'
                for side in ("leading", "trailing", "top", "bottom")
            ),
            (0, 0, 400, 800),
        ),
        # What a view's own size resists: growing with 250, shrinking with 750.
        (CENTRED + WIDE.format(400, 249), (150, 375, 100, 50)),
        (CENTRED + WIDE.format(400, 252), (0, 375, 400, 50)),
        (CENTRED + WIDE.format(60, 749), (150, 375, 100, 50)),
        (CENTRED + WIDE.format(60, 751), (170, 375, 60, 50)),
        (
            CENTRED
            + '<constraint firstItem="mark" firstAttribute="width" relation="greaterThanOrEqual" constant="300"/>'
            '<constraint firstItem="mark" firstAttribute="width" constant="350" priority="200"/>',
            (50, 375, 300, 50),
        ),
    ],
)
def test_constraints_are_solved_like_by_hand(constraints: str, frame: tuple[float, ...]) -> None:
    layout = laid_out_on(parse_xml(STORYBOARD.format(constraints).encode(), "s"), SCREEN, {"mark": Size(100, 50)})
    assert not layout.unknown
    assert tuple(layout.frames["mark"]) == pytest.approx(frame, abs=0.01)


@pytest.mark.parametrize(
    ("own", "constraint", "width"),
    [
        ('horizontalHuggingPriority="800"', WIDE.format(400, 799), 100),
        ('horizontalHuggingPriority="800"', WIDE.format(400, 801), 400),
        ('verticalHuggingPriority="800"', WIDE.format(400, 799), 400),
        ('horizontalCompressionResistancePriority="300"', WIDE.format(60, 301), 60),
        ('horizontalCompressionResistancePriority="300"', WIDE.format(60, 299), 100),
        ('horizontalHuggingPriority="much"', "", None),
    ],
)
def test_a_view_resists_as_it_says_itself(own: str, constraint: str, width: float | None) -> None:
    text = STORYBOARD.format(CENTRED + constraint).replace('image="M"', f'image="M" {own}')
    layout = laid_out_on(parse_xml(text.encode(), "s"), SCREEN, {"mark": Size(100, 50)})
    if width is None:
        assert "mark" in layout.unknown
    else:
        assert layout.frames["mark"].width == pytest.approx(width, abs=0.01)


# Priorities


@given(
    st.lists(
        st.tuples(st.sampled_from([1, 250, 998, 999]), st.integers(-50, 50), st.sampled_from(Relation)), max_size=9
    )
)
def test_a_tier_is_never_given_up_for_lower_ones(wishes: list[tuple[int, int, Relation]]) -> None:
    """One unknown: the best value is found by trying every value that a wish names, tier by tier."""
    value = kiwisolver.Variable()
    tiers = Tiers()
    for priority, wanted, relation in wishes:
        tiers.wish(value - wanted, priority, relation)
    tiers.solve()

    def errors(at: float) -> list[float]:
        found = []
        for tier in sorted({priority for priority, _, _ in wishes}, reverse=True):
            off = [(at - wanted, relation) for priority, wanted, relation in wishes if priority == tier]
            found.append(
                sum(
                    abs(one) if relation is Relation.EQUAL else max(0, one if relation is Relation.AT_MOST else -one)
                    for one, relation in off
                )
            )
        return found

    tried = sorted({wanted for _, wanted, _ in wishes})
    candidates = [-1000.0, *tried, *(sum(pair) / 2 for pair in itertools.pairwise(tried)), 1000.0]
    best = min(errors(at) for at in candidates)
    assert errors(value.value()) == pytest.approx(best, abs=0.01)
    winners = [at for at in candidates if errors(at) == pytest.approx(best, abs=1e-9)]
    assert tiers.is_open([value], 0.1) == (len(winners) > 1)


# Storyboards and nibs, through the platform's reader


def image_set(**properties: object) -> str:
    images = [{"idiom": "universal", "filename": "m.png", "scale": "1x"}]
    return json.dumps({"images": images, **properties})


def scene_of(
    view: str,
    screen: Screen = SCREEN,
    look: str = "light",
    *,
    constraints: str = "",
    document: str = 'launchScreen="YES" initialViewController="c"',
    more: str = "",
    files: Mapping[str, str | bytes] | None = None,
    own: str = "",
) -> Scene:
    """What a storyboard with these subviews shows; its view is 375 x 667 in the design, white, and has a safe area."""
    text = (
        f'<document {document}><scenes><scene><objects><viewController id="c"><view key="view" id="V" {own}>'
        f'<rect key="frame" x="0" y="0" width="375" height="667"/><subviews>{view}</subviews>'
        f'<viewLayoutGuide key="safeArea" id="S"/><color key="backgroundColor" white="1" alpha="1" colorSpace="custom" customColorSpace="genericGamma22GrayColorSpace"/>'
        f"<constraints>{constraints}</constraints></view></viewController></objects></scene>{more}</scenes></document>"
    )
    tree = {
        "X.xcodeproj/project.pbxproj": project(
            files="B1, B2",
            more='B2 = {isa = PBXBuildFile; fileRef = F9; }; F9 = {isa = PBXFileReference; path = Launch.storyboard; sourceTree = "<group>"; };',
        ).replace("(F1, F2)", "(F1, F2, F9)"),
        "App/Info.plist": PLIST.format("<key>UILaunchStoryboardName</key><string>Launch</string>"),
        "App/Launch.storyboard": text,
        "App/Assets.xcassets/M.imageset/Contents.json": image_set(),
        "App/Assets.xcassets/M.imageset/m.png": png(100, 50),
        **(files or {}),
    }
    snapshot = Project.of_files(
        {path: data if isinstance(data, bytes) else data.encode() for path, data in tree.items()}
    )
    (site,) = platform("ios").survey(snapshot)
    return platform("ios").scene(snapshot, site, screen, "dark" if look == "dark" else "light")


def view(name: str, inside: str = "", attributes: str = "", tag: str = "view", frame: str = "") -> str:
    colour = '<color key="backgroundColor" red="1" green="0" blue="0" alpha="1" colorSpace="custom" customColorSpace="sRGB"/>'
    return f'<{tag} id="{name}" {attributes or NO}>{frame}{inside}{"" if tag == "stackView" else colour}</{tag}>'


def image(name: str, attributes: str = "", inside: str = "") -> str:
    return f'<imageView id="{name}" image="M" {NO} {attributes}>{inside}</imageView>'


def tied(first: str, second: str, attribute: str, other: str = "", **more: object) -> str:
    extra = "".join(f' {key}="{value}"' for key, value in more.items())
    return f'<constraint id="{first}.{attribute}" firstItem="{first}" firstAttribute="{attribute}" secondItem="{second}" secondAttribute="{other or attribute}"{extra}/>'


def long(name: str, attribute: str, constant: float, **more: object) -> str:
    extra = "".join(f' {key}="{value}"' for key, value in more.items())
    return f'<constraint id="{name}.{attribute}" firstItem="{name}" firstAttribute="{attribute}" constant="{constant}"{extra}/>'


def filled(name: str, outer: str = "V") -> str:
    return "".join(tied(name, outer, side) for side in ("leading", "trailing", "top", "bottom"))


def middle(name: str, outer: str = "V") -> str:
    return tied(name, outer, "centerX") + tied(name, outer, "centerY")


def boxes(scene: Scene) -> list[tuple[float, ...]]:
    """Where everything but the ground is, rounded."""
    assert not scene.unknowns, scene.unknowns
    return [tuple(round(value, 1) for value in layer.rect) for layer in scene.layers[1:]]


STACK = '<stackView id="K" {} ' + NO + "><subviews>{}</subviews></stackView>"
TWO = view("A") + view("B")
SIZED = long("A", "width", 40) + long("A", "height", 20) + long("B", "width", 60) + long("B", "height", 30)
MASK = '<autoresizingMask key="autoresizingMask" {}/>'
FRAME = '<rect key="frame" x="{}" y="{}" width="{}" height="{}"/>'
EFFECT = (
    f'<visualEffectView id="E" {NO}><view key="contentView" id="EC">{{0}}<autoresizingMask key="autoresizingMask" widthSizable="YES" heightSizable="YES"/>{{1}}</view>'
    "{0}</visualEffectView>"
)
NAVIGATION = '<scene><objects><navigationController id="n"><connections><segue destination="c" kind="relationship" relationship="rootViewController"/></connections></navigationController></objects></scene>'

# The subviews; constraints; more arguments; where what is drawn is.
LAID_OUT: dict[str, tuple[str, str, dict[str, object], list[tuple[float, ...]]]] = {
    "a row in the middle": (
        STACK.format('spacing="8"', TWO),
        SIZED.replace(long("B", "height", 30), "") + middle("K"),
        {},
        [(146, 390, 40, 20), (194, 390, 60, 20)],
    ),
    "a column, centred": (
        STACK.format('axis="vertical" alignment="center" spacing="10"', TWO),
        SIZED + middle("K"),
        {},
        [(180, 370, 40, 20), (170, 400, 60, 30)],
    ),
    "a column at its leading edge": (
        STACK.format('axis="vertical" alignment="leading"', TWO),
        SIZED + middle("K"),
        {},
        [(170, 375, 40, 20), (170, 395, 60, 30)],
    ),
    "a row that is filled equally": (
        STACK.format('distribution="fillEqually" spacing="20"', TWO),
        filled("K"),
        {},
        [(0, 0, 190, 800), (210, 0, 190, 800)],
    ),
    "a row with equal spaces": (
        STACK.format('distribution="equalSpacing" alignment="top"', TWO + view("C")),
        SIZED
        + long("C", "width", 100)
        + long("C", "height", 10)
        + tied("K", "V", "leading")
        + tied("K", "V", "trailing")
        + tied("K", "S", "top"),
        {},
        [(0, 50, 40, 20), (140, 50, 60, 30), (300, 50, 100, 10)],
    ),
    "a row with equal centres": (
        STACK.format('distribution="equalCentering" alignment="top"', TWO + view("C")),
        SIZED
        + long("C", "width", 100)
        + long("C", "height", 10)
        + tied("K", "V", "leading")
        + tied("K", "V", "trailing")
        + tied("K", "S", "top"),
        {},
        [(0, 50, 40, 20), (155, 50, 60, 30), (300, 50, 100, 10)],
    ),
    "images filled in proportion": (
        STACK.format('distribution="fillProportionally"', image("A") + image("B")),
        filled("K"),
        {},
        [(0, 0, 200, 800), (200, 0, 200, 800)],
    ),
    "a hidden view takes no room in a stack": (
        STACK.format('spacing="8"', view("A", attributes=f'hidden="YES" {NO}') + view("B")),
        SIZED + middle("K"),
        {},
        [(170, 385, 60, 30)],
    ),
    "an image by its own size in a stack": (
        STACK.format('axis="vertical" alignment="center"', image("A")),
        middle("K"),
        {},
        [(150, 375, 100, 50)],
    ),
    "the content of a scroll view begins at its corner": (
        view("L", f"<subviews>{view('A')}</subviews>", tag="scrollView"),
        filled("L")
        + tied("A", "L", "leading", constant=10)
        + tied("A", "L", "top", constant=20)
        + long("A", "width", 50)
        + long("A", "height", 60),
        {},
        [(0, 0, 400, 800), (10, 20, 50, 60)],
    ),
    "an effect view without an effect": (
        EFFECT.format(FRAME.format(0, 0, 100, 100), f"<subviews>{view('A')}</subviews>"),
        filled("E")
        + tied("A", "EC", "leading")
        + tied("A", "EC", "top")
        + long("A", "width", 50)
        + long("A", "height", 60),
        {},
        [(0, 0, 50, 60)],
    ),
    "a container with a view controller in it": (
        f'<containerView id="N" {NO}><connections><segue destination="d" kind="embed"/></connections></containerView>',
        filled("N", "S"),
        {
            "more": f'<scene><objects><viewController id="d">{view("D").replace("<view ", chr(60) + "view key=" + chr(34) + "view" + chr(34) + " ")}</viewController></objects></scene>'
        },
        [(0, 50, 400, 720)],
    ),
    "the second view controller is the initial one": (
        view("A"),
        filled("A"),
        {
            "document": 'initialViewController="d"',
            "more": f'<scene><objects><viewController id="d"><view key="view" id="W"><color key="backgroundColor" white="0" alpha="1"/><subviews>{view("B")}</subviews><constraints>{middle("B", "W") + long("B", "width", 2) + long("B", "height", 2)}</constraints></view></viewController></objects></scene>',
        },
        [(199, 399, 2, 2)],
    ),
    "frames with a mask, one in the other": (
        view(
            "A",
            f"{MASK.format('widthSizable=' + chr(34) + 'YES' + chr(34) + ' heightSizable=' + chr(34) + 'YES' + chr(34))}<subviews>{view('B', MASK.format('flexibleMinX=' + chr(34) + 'YES' + chr(34) + ' flexibleMinY=' + chr(34) + 'YES' + chr(34)), attributes='fixedFrame=' + chr(34) + 'YES' + chr(34) + ' ' + NO, frame=FRAME.format(300, 600, 75, 67))}</subviews>",
            attributes='opaque="NO"',
            frame=FRAME.format(0, 0, 375, 667),
        ),
        "",
        {},
        [(0, 0, 400, 800), (325, 733, 75, 67)],
    ),
    "a thousand constraints of a lower priority do not outweigh one": (
        view("A"),
        middle("A")
        + long("A", "height", 10)
        + long("A", "width", 50, priority=999)
        + "".join(long("A", "width", 300, priority=998) for _ in range(50)),
        {},
        [(175, 395, 50, 10)],
    ),
    "the margins of the view": (
        view("A"),
        tied("A", "V", "leading", "leadingMargin")
        + tied("A", "V", "trailing", "trailingMargin")
        + tied("A", "V", "top", "topMargin")
        + long("A", "height", 9),
        {},
        [(16, 50, 368, 9)],
    ),
    "a readable width": (
        view("A"),
        tied("A", "V", "leading", "leadingMargin")
        + tied("A", "V", "trailing", "trailingMargin")
        + tied("A", "V", "top", "topMargin")
        + long("A", "height", 9),
        {"screen": PAD, "own": 'layoutMarginsFollowReadableWidth="YES"'},
        [(74, 24, 672, 9)],
    ),
    "the safe area of a view within": (
        view("A", f'<subviews>{view("B")}</subviews><viewLayoutGuide key="safeArea" id="AS"/>'),
        tied("A", "V", "leading")
        + tied("A", "V", "top", constant=20)
        + long("A", "width", 300)
        + long("A", "height", 200)
        + filled("B", "AS"),
        {},
        [(0, 20, 300, 200), (0, 50, 300, 170)],
    ),
    "what is not installed in the size class": (
        view("A") + view("B"),
        middle("A") + SIZED + middle("B"),
        {
            "own": "",
            "files": {},
            "screen": PAD,
            "varied": '<variation key="heightClass=regular-widthClass=regular"><mask key="subviews"><exclude reference="B"/></mask></variation>',
        },
        [(390, 580, 40, 20)],
    ),
    "a constant for one size class": (
        view("A"),
        middle("A")
        + long("A", "height", 10)
        + '<constraint id="w" firstItem="A" firstAttribute="width" constant="50"><variation key="widthClass=regular" constant="90"/></constraint>',
        {"screen": PAD},
        [(365, 585, 90, 10)],
    ),
    "a placeholder constraint is not there": (
        view("A"),
        middle("A") + long("A", "height", 10) + long("A", "width", 50) + long("A", "width", 70, placeholder="YES"),
        {},
        [(175, 395, 50, 10)],
    ),
    "what a view clips": (
        view("A", f"<subviews>{view('B')}</subviews>", attributes=f'clipsSubviews="YES" {NO}'),
        SIZED + middle("A") + tied("B", "A", "leading") + tied("B", "A", "top"),
        {},
        [(180, 390, 40, 20), (180, 390, 40, 20)],
    ),
}


@pytest.mark.parametrize("shape", LAID_OUT)
def test_what_a_storyboard_holds_lies_where_uikit_puts_it(shape: str) -> None:
    subviews, constraints, more, where = LAID_OUT[shape]
    varied = str(more.get("varied", ""))
    arguments = {key: value for key, value in more.items() if key != "varied"}
    scene = scene_of(subviews, constraints=f"{constraints}</constraints>{varied}<constraints>", **arguments)  # type: ignore[arg-type]
    assert boxes(scene) == where


# The subviews; constraints; more arguments; why something is unknown, or how it differs; whether the file itself leaves it open.
UNDECIDED: dict[str, tuple[str, str, dict[str, object], str, bool]] = {
    "no place": (image("A"), "", {}, "its constraints leave open where it is horizontally and vertically", True),
    "no height": (view("A"), middle("A") + long("A", "width", 9), {}, "where it is vertically", True),
    "only inequalities": (
        view("A"),
        middle("A") + long("A", "height", 9) + long("A", "width", 9, relation="greaterThanOrEqual"),
        {},
        "where it is horizontally",
        True,
    ),
    "equal wishes that disagree": (
        view("A"),
        middle("A")
        + long("A", "height", 9)
        + long("A", "width", 9, priority=500)
        + long("A", "width", 19, priority=500),
        {},
        "where it is horizontally",
        True,
    ),
    "two that contradict": (view("A"), middle("A") + SIZED.replace('"B', '"A'), {}, "contradicts another one", True),
    "tied to one that contradicts": (
        view("A") + view("B"),
        middle("A") + long("A", "width", 1) + SIZED + tied("B", "A", "top") + tied("B", "A", "leading"),
        {},
        "<view> B: constraint A.width contradicts",
        True,
    ),
    "the baseline of text": (
        f'<label id="L" text="Skerryline" {NO}/>' + image("A"),
        middle("L") + tied("A", "L", "firstBaseline") + tied("A", "V", "centerX"),
        {},
        "firstBaseline, which is not worked out",
        True,
    ),
    "a place that depends on text": (
        f'<label id="L" text="Skerryline" {NO}/>' + image("A"),
        middle("L") + tied("A", "L", "leading", "trailing") + tied("A", "L", "centerY"),
        {},
        "depends on the size of what is not drawn (label)",
        False,
    ),
    "a button": (f'<button id="B" {NO}/>', middle("B") + SIZED, {}, "a button, which is not drawn", False),
    "a place that depends on a button": (
        STACK.format('axis="vertical" alignment="center"', f'<button id="B" {NO}/>' + image("A")),
        middle("K"),
        {},
        "depends on the size of what is not drawn (button)",
        False,
    ),
    "a spinner": (
        f'<activityIndicatorView id="B" {NO}/>',
        middle("B") + SIZED,
        {},
        "a activityIndicatorView, which is not drawn",
        False,
    ),
    "a blur": (
        f'<visualEffectView id="E" {NO}><view key="contentView" id="EC"/><blurEffect style="regular"/></visualEffectView>',
        filled("E"),
        {},
        "an effect over what is behind it",
        False,
    ),
    "a container of another file": (
        f'<containerView id="N" {NO}/>',
        filled("N"),
        {},
        "a container view whose content is not in this file",
        False,
    ),
    "a class of the app": (
        view("A", attributes=f'customClass="Wave" {NO}'),
        SIZED + middle("A"),
        {},
        "the app's own class Wave",
        False,
    ),
    "a symbol": (
        f'<imageView id="A" image="ferry" catalog="system" {NO}/>',
        filled("A"),
        {},
        "the system's symbol ferry",
        False,
    ),
    "no initial view controller": (
        "",
        "",
        {"document": 'initialViewController="gone"'},
        "no view controller is the initial one",
        False,
    ),
    "a navigation bar": (
        "",
        "",
        {"document": 'initialViewController="n"', "more": NAVIGATION},
        "a navigation bar, which is not drawn",
        False,
    ),
    "a split view": (
        "",
        "",
        {
            "document": 'initialViewController="s"',
            "more": '<scene><objects><splitViewController id="s"/></objects></scene>',
        },
        "its initial view controller is a splitViewController",
        False,
    ),
    "an image that is a PDF": (
        image("A"),
        middle("A"),
        {
            "files": {
                "App/Assets.xcassets/M.imageset/Contents.json": image_set().replace("m.png", "m.pdf"),
                "App/Assets.xcassets/M.imageset/m.pdf": b"%PDF-1.4 /MediaBox [0 0 100 50]",
            }
        },
        "is a PDF, which is not drawn",
        False,
    ),
    "translucent views that overlap": (
        view("A", f"<subviews>{view('B')}</subviews>", attributes=f'alpha="0.5" {NO}'),
        SIZED + middle("A") + tied("B", "A", "leading") + tied("B", "A", "top"),
        {},
        "a translucent view with views in it that overlap",
        False,
    ),
    "spacing that the system chooses": (
        view("A"),
        SIZED + tied("A", "V", "centerX") + tied("A", "V", "top", symbolic="YES"),
        {},
        "the standard spacing, which the system chooses",
        True,
    ),
}


@pytest.mark.parametrize("shape", UNDECIDED)
def test_what_is_not_known_is_unknown_and_never_drawn_somewhere(shape: str) -> None:
    subviews, constraints, more, reason, is_undecided = UNDECIDED[shape]
    scene = scene_of(subviews, constraints=constraints, **more)  # type: ignore[arg-type]
    found = [layer for layer in scene.layers if isinstance(layer, Unknown) and reason in layer.reason]
    assert found, scene.unknowns
    assert (found[0].cause is Cause.UNDECIDED) == is_undecided


def test_an_unknown_view_of_known_size_hatches_its_own_area() -> None:
    scene = scene_of(
        f'<slider id="B" {NO}/>' + image("A"),
        constraints=middle("B")
        + long("B", "width", 60)
        + long("B", "height", 30)
        + tied("A", "V", "centerX")
        + tied("A", "S", "top"),
    )
    (unknown,) = [layer for layer in scene.layers if isinstance(layer, Unknown)]
    assert unknown.rect == Rect(170, 385, 60, 30)
    (picture,) = scene.pictures
    assert picture.rect == Rect(150, 50, 100, 50)


MODES = {
    "scaleToFill": (100, 100, 200, 300),
    "redraw": (100, 100, 200, 300),
    "scaleAspectFit": (100, 200, 200, 100),
    "scaleAspectFill": (-100, 100, 600, 300),
    "center": (150, 225, 100, 50),
    "top": (150, 100, 100, 50),
    "bottom": (150, 350, 100, 50),
    "left": (100, 225, 100, 50),
    "right": (200, 225, 100, 50),
    "topLeft": (100, 100, 100, 50),
    "topRight": (200, 100, 100, 50),
    "bottomLeft": (100, 350, 100, 50),
    "bottomRight": (200, 350, 100, 50),
}


@pytest.mark.parametrize("mode", MODES)
def test_content_modes(mode: str) -> None:
    place = tied("A", "V", "leading", constant=100) + tied("A", "V", "top", constant=100)
    size = long("A", "width", 200) + long("A", "height", 300)
    (picture,) = scene_of(image("A", f'contentMode="{mode}"'), constraints=place + size).pictures
    assert tuple(picture.rect) == pytest.approx(MODES[mode], abs=0.01)


TEMPLATE = {
    "App/Assets.xcassets/M.imageset/Contents.json": image_set(properties={"template-rendering-intent": "template"})
}


def test_templates_take_the_tint_of_the_nearest_view() -> None:
    tint = '<color key="tintColor" red="0" green="1" blue="0" alpha="1" colorSpace="custom" customColorSpace="sRGB"/>'
    for inside, expected in ((tint, "#00FF00"), ("", "#007AFF")):
        (picture,) = scene_of(image("A", inside=inside), constraints=middle("A"), files=TEMPLATE).pictures
        assert picture.tint is not None
        assert picture.tint.hex == expected


def test_a_sliced_image_keeps_its_ends() -> None:
    images = [
        {
            "idiom": "universal",
            "filename": "m.png",
            "scale": "1x",
            "resizing": {
                "mode": "3-part-horizontal",
                "cap-insets": {"left": 10, "right": 20},
                "center": {"mode": "stretch", "width": 1},
            },
        }
    ]
    files = {"App/Assets.xcassets/M.imageset/Contents.json": json.dumps({"images": images})}
    (picture,) = scene_of(image("A"), constraints=filled("A"), files=files).pictures
    drawn = picture.image.data.decode()
    assert 'width="10" height="800"' in drawn
    assert 'x="380" y="0" width="20" height="800"' in drawn


# A colour in a storyboard; what it is in light, and in dark; None for unknown.
COLOURS: dict[str, tuple[str, str | None, str | None]] = {
    "sRGB": (
        'red="0.5" green="1" blue="0" alpha="1" colorSpace="custom" customColorSpace="sRGB"',
        "#80FF00",
        "#80FF00",
    ),
    "P3 in sRGB": (
        'red="0.5" green="0.5" blue="0.5" alpha="1" colorSpace="custom" customColorSpace="displayP3"',
        "#808080",
        "#808080",
    ),
    "P3 outside sRGB": (
        'red="1" green="0" blue="0" alpha="1" colorSpace="custom" customColorSpace="displayP3"',
        "#FF0000",
        "#FF0000",
    ),
    "P3 near its edge": (
        'red="0.918" green="0.2" blue="0.137" alpha="1" colorSpace="custom" customColorSpace="displayP3"',
        "#FF0101",
        "#FF0101",
    ),
    "gray": (
        'white="0.5" alpha="0.5" colorSpace="custom" customColorSpace="genericGamma22GrayColorSpace"',
        "#80808080",
        "#80808080",
    ),
    "of the device": ('white="0.33333333333333331" alpha="1" colorSpace="deviceWhite"', "#555555", "#555555"),
    "another space": (
        'red="1" green="0" blue="0" alpha="1" colorSpace="custom" customColorSpace="adobeRGB1998"',
        None,
        None,
    ),
    "the system's": ('systemColor="secondarySystemBackgroundColor"', "#F2F2F7", "#1C1C1E"),
    "an old name of the system's": ('cocoaTouchSystemColor="groupTableViewBackgroundColor"', "#F2F2F7", "#000000"),
    "one that only the file knows": ('systemColor="tideColor"', "#0000FF", None),
}


@pytest.mark.parametrize("shape", COLOURS)
def test_colours_of_storyboards_are_srgb(shape: str) -> None:
    attributes, *expected = COLOURS[shape]
    resources = '</scenes><resources><systemColor name="tideColor"><color red="0" green="0" blue="1" alpha="1" colorSpace="custom" customColorSpace="sRGB"/></systemColor></resources><scenes>'
    part = f'<view id="A" {NO}><color key="backgroundColor" {attributes}/></view>'
    for look, wanted in zip(("light", "dark"), expected, strict=True):
        layer = scene_of(part, look=look, constraints=filled("A"), more=resources).layers[1]
        if wanted is None:
            assert isinstance(layer, Unknown)
        else:
            assert isinstance(layer, Fill)
            shown = [int(wanted[at : at + 2], 16) for at in range(1, len(wanted), 2)]
            assert list(layer.colour)[: len(shown)] == pytest.approx(shown, abs=1)


def test_opacity_and_hidden_views() -> None:
    scene = scene_of(
        view("A", attributes=f'alpha="0.5" {NO}') + view("B", attributes=f'hidden="YES" {NO}'),
        constraints=SIZED + middle("A") + middle("B"),
    )
    (fill,) = scene.layers[1:]
    assert isinstance(fill, Fill)
    assert fill.colour.alpha == 128


def test_labels_wrap_and_keep_their_frame() -> None:
    words = "Timetables and tickets of small island ferries"
    label = f'<label id="L" text="{words}" numberOfLines="0" {NO}/>'
    scene = scene_of(label, constraints=middle("L") + tied("L", "V", "width", multiplier="1/4"))
    (box,) = [layer for layer in scene.layers if isinstance(layer, TextBox)]
    assert box.rect.width == pytest.approx(100)
    assert box.rect.height == pytest.approx(4 * 17 * 1.193, abs=0.1)


def test_a_loose_image_file_of_the_target_is_found() -> None:
    loose = project(
        files="B1, B2, B3",
        more='B2 = {isa = PBXBuildFile; fileRef = F9; }; F9 = {isa = PBXFileReference; path = Launch.storyboard; sourceTree = "<group>"; };'
        'B3 = {isa = PBXBuildFile; fileRef = F8; }; F8 = {isa = PBXFileReference; path = "M@2x.png"; sourceTree = "<group>"; };',
    ).replace("(F1, F2)", "(F1, F2, F9, F8)")
    files: dict[str, str | bytes] = {
        "X.xcodeproj/project.pbxproj": loose,
        "App/M@2x.png": png(80, 40),
        "App/Assets.xcassets/M.imageset/Contents.json": "{}",
    }
    (picture,) = scene_of(image("A"), constraints=middle("A"), files=files).pictures
    assert picture.rect == Rect(180, 390, 40, 20)
    assert isinstance(picture, Picture)


# Orientations and models

ORIENTATIONS = "<key>UISupportedInterfaceOrientations{}</key><array><string>UIInterfaceOrientation{}</string></array>"
NAMED = "<key>UILaunchStoryboardName</key><string>Launch</string>"
SETTINGS = (
    'TARGETED_DEVICE_FAMILY = "1,2"; GENERATE_INFOPLIST_FILE = YES; '
    'INFOPLIST_KEY_UISupportedInterfaceOrientations_iPad = "UIInterfaceOrientationPortrait UIInterfaceOrientationLandscapeLeft"; '
    "INFOPLIST_KEY_UISupportedInterfaceOrientations_iPhone = UIInterfaceOrientationLandscapeLeft;"
)
WAYS: dict[str, tuple[str, str, list[str]]] = {
    "nothing said": ("", "", ["iPhone 393 x 852", "iPad 820 x 1180"]),
    "on its side alone": (
        ORIENTATIONS.format("", "LandscapeLeft"),
        "",
        ["iPhone 393 x 852, landscape", "iPad 820 x 1180, landscape"],
    ),
    "iPads on their side": (
        ORIENTATIONS.format("~ipad", "LandscapeRight") + ORIENTATIONS.format("", "Portrait"),
        "",
        ["iPhone 393 x 852", "iPad 820 x 1180, landscape"],
    ),
    "iPhones alone": ("", "TARGETED_DEVICE_FAMILY = 1;", ["iPhone 393 x 852"]),
    "by build settings": (
        "",
        SETTINGS,
        ["iPhone 393 x 852, landscape", "iPad 820 x 1180", "iPad 820 x 1180, landscape"],
    ),
}


@pytest.mark.parametrize("shape", WAYS)
def test_screens_are_held_as_the_app_allows(tmp_path: Path, rivelt: Command, shape: str) -> None:
    keys, settings, names = WAYS[shape]
    text = project(settings=f'INFOPLIST_FILE = "$(SRCROOT)/App/Info.plist"; {settings}')
    root = write_tree(tmp_path, {**FILES, "X.xcodeproj/project.pbxproj": text, "App/Info.plist": PLIST.format(keys)})
    found = rivelt("proof", root, "--json", "--only", "ios", "--screens", "iPhone 15", "--screens", 'iPad 10.9"')
    assert list(dict.fromkeys(scene["screen"] for scene in found.json["scenes"])) == names


def test_a_screen_on_its_side_has_its_insets_there() -> None:
    phone = next(screen for screen in platform("ios").every_screen() if screen.name == "iPhone 402 x 874")
    small = next(screen for screen in platform("ios").every_screen() if screen.name == "iPhone 375 x 667")
    assert turned(phone).safe_area == Rect(62, 0, 874 - 124, 402 - 21)
    assert turned(small).safe_area == turned(small).frame
    pad = next(screen for screen in platform("ios").every_screen() if screen.name == "iPad 1024 x 1366")
    assert turned(pad).safe_area == Rect(0, 24, 1366, 1024 - 44)
    assert {size_classes(part)[0] for part in splits(turned(pad)) if part.width < 678} == {"compact"}
    assert {size_classes(part)[0] for part in splits(turned(pad)) if part.width >= 678} == {"regular"}


MODELS = {
    "iPhone 16e": ["iPhone 390 x 844"],
    "iphone 16": ["iPhone 393 x 852"],
    "iPhone 17 Pro Max": ["iPhone 440 x 956"],
    "iPhone Air": ["iPhone 420 x 912"],
    "iPhone SE (3rd generation)": ["iPhone 375 x 667"],
    "iPad Air 13": ["iPad 1024 x 1366"],
    "iPad Air 13-inch (M3)": ["iPad 1024 x 1366"],
    "iPad Pro 13-inch (M5)": ["iPad 1032 x 1376"],
    "iPad mini (A17 Pro)": ["iPad 744 x 1133"],
    "iPad (10th generation)": ["iPad 820 x 1180"],
    "iPad (A16)": ["iPad 820 x 1180"],
}


@pytest.mark.parametrize("model", MODELS)
def test_a_models_name_finds_its_screen(tmp_path: Path, rivelt: Command, model: str) -> None:
    root = write_tree(tmp_path, {**FILES, "App/Info.plist": PLIST.format(NAMED)})
    found = rivelt("proof", root, "--json", "--only", "ios", "--screens", model)
    assert found.code == 0, found.err
    assert list(dict.fromkeys(scene["screen"] for scene in found.json["scenes"])) == MODELS[model]
    lost = rivelt("proof", root, "--only", "ios", "--screens", "landscape")
    assert (lost.code, "no screen is called landscape" in lost.err) == (2, True)


# Info.plist: dictionaries, keys for one kind of device, variables, and the look

SAND, SEA = "#F3EBDD", "#13212B"


def colour_set(name: str, light: str, dark: str | None = None, **more: object) -> dict[str, str]:
    def entry(value: str, **also: object) -> dict[str, object]:
        parts = {part: f"0x{value[at : at + 2]}" for part, at in (("red", 1), ("green", 3), ("blue", 5))}
        return {"idiom": "universal", "color": {"color-space": "srgb", "components": {**parts, "alpha": "1.0"}}, **also}

    entries = [entry(light, **more)]
    if dark is not None:
        entries.append(entry(dark, appearances=[{"appearance": "luminosity", "value": "dark"}]))
    return {f"App/Assets.xcassets/{name}.colorset/Contents.json": json.dumps({"colors": entries})}


LAUNCH = "<key>UILaunchScreen{}</key><dict><key>UIColorName</key><string>{}</string>{}</dict>"
SCREENS = (
    "<key>UILaunchScreens</key><dict><key>UIDefaultLaunchScreen</key><string>b</string><key>UILaunchScreenDefinitions</key><array>"
    "<dict><key>UILaunchScreenIdentifier</key><string>a</string><key>UIColorName</key><string>Sea</string></dict>"
    "<dict><key>UILaunchScreenIdentifier</key><string>b</string><key>UIColorName</key><string>Sand</string></dict></array></dict>"
)
# The keys; build settings; the grounds on a phone in light and dark, and on an iPad; what is unknown on the phone.
KEYS: dict[str, tuple[str, str, tuple[str, str, str], str]] = {
    "a dictionary": (LAUNCH.format("", "Both", ""), "", (SAND, SEA, SAND), ""),
    "one for iPads": (LAUNCH.format("", "Sand", "") + LAUNCH.format("~ipad", "Sea", ""), "", (SAND, SAND, SEA), ""),
    "one for iPhones": (LAUNCH.format("", "Sand", "") + LAUNCH.format("~iphone", "Sea", ""), "", (SEA, SEA, SAND), ""),
    "several, for schemes": (SCREENS, "", (SAND, SAND, SAND), ""),
    "a variable": (LAUNCH.format("", "$(TIDE)", ""), "TIDE = Sea;", (SEA, SEA, SEA), ""),
    "a variable of another form": (LAUNCH.format("", "S${TIDE:lower}", ""), "TIDE = ea;", (SEA, SEA, SEA), ""),
    "always light": (
        LAUNCH.format("", "Both", "") + "<key>UIUserInterfaceStyle</key><string>Light</string>",
        "",
        (SAND, SAND, SAND),
        "",
    ),
    "always dark": (
        LAUNCH.format("", "Both", "") + "<key>UIUserInterfaceStyle</key><string>Dark</string>",
        "",
        (SEA, SEA, SEA),
        "",
    ),
    "no colour": ("<key>UILaunchScreen</key><dict/>", "", ("#FFFFFF", "#000000", "#FFFFFF"), ""),
    "a navigation bar": (
        LAUNCH.format("", "Sand", "<key>UINavigationBar</key><dict/>"),
        "",
        (SAND, SAND, SAND),
        "a navigation bar",
    ),
    "a tab bar": (LAUNCH.format("", "Sand", "<key>UITabBar</key><dict/>"), "", (SAND, SAND, SAND), "a tab bar"),
    "by contrast": (LAUNCH.format("", "Contrast", ""), "", (SAND, SEA, SAND), ""),
}


@pytest.mark.parametrize("shape", KEYS)
def test_what_info_plist_declares_is_read_as_the_system_does(shape: str) -> None:
    keys, settings, grounds, unknown = KEYS[shape]
    high = json.loads(next(iter(colour_set("Contrast", "#000000").values())))["colors"][0]
    contrast = json.loads(next(iter(colour_set("Contrast", SAND, SEA).values())))
    contrast["colors"] = [
        {**high, "appearances": [{"appearance": "contrast", "value": "high"}]},
        {
            **high,
            "appearances": [{"appearance": "luminosity", "value": "dark"}, {"appearance": "contrast", "value": "high"}],
        },
        *contrast["colors"],
    ]
    files: dict[str, str | bytes] = {
        **FILES,
        "X.xcodeproj/project.pbxproj": project(settings=f'INFOPLIST_FILE = "App/Info.plist"; {settings}'),
        "App/Info.plist": PLIST.format(keys),
        **colour_set("Both", SAND, SEA),
        **colour_set("Sand", SAND),
        **colour_set("Sea", SEA),
        "App/Assets.xcassets/Contrast.colorset/Contents.json": json.dumps(contrast),
    }
    snapshot = Project.of_files(
        {path: data if isinstance(data, bytes) else data.encode() for path, data in files.items()}
    )
    (site,) = platform("ios").survey(snapshot)
    scenes = [
        platform("ios").scene(snapshot, site, screen, look)
        for screen, look in zip((SCREEN, SCREEN, PAD), (*LOOKS, LOOKS[0]), strict=True)
    ]
    assert tuple(scene.ground.hex if scene.ground else "" for scene in scenes) == grounds
    assert any(unknown in reason for reason in scenes[0].unknowns) if unknown else not scenes[0].unknowns


def entry(file: str, idiom: str = "universal", look: str = "", **more: object) -> dict[str, object]:
    appearances = [{"appearance": "luminosity", "value": look}] if look else None
    return {
        "idiom": idiom,
        "scale": "2x",
        "filename": file,
        **({"appearances": appearances} if appearances else {}),
        **more,
    }


# The entries of an image set; the file on a phone and an iPad, in light and dark each; None where it is not certain.
IDIOMS: dict[str, tuple[list[dict[str, object]], list[str | None]]] = {
    "universal": ([entry("a"), entry("b", look="dark")], ["a", "b", "a", "b"]),
    "a dark one for iPhones alone": (
        [entry("a", "iphone"), entry("b", "iphone", "dark"), entry("c", "ipad")],
        ["a", "b", "c", "c"],
    ),
    "a dark one for iPads alone": ([entry("a"), entry("c", "ipad", "dark")], ["a", "a", "a", "c"]),
    "dark for all and light for iPads": (
        [entry("a"), entry("b", look="dark"), entry("c", "ipad")],
        ["a", "b", "c", None],
    ),
    "named light and dark": ([entry("a", look="light"), entry("b", look="dark")], ["a", "b", "a", "b"]),
    "by height": ([entry("a"), entry("b", **{"height-class": "compact"})], ["a", "a", "a", "a"]),
}


@pytest.mark.parametrize("shape", IDIOMS)
def test_an_image_set_gives_each_device_and_look_its_own(shape: str) -> None:
    entries, expected = IDIOMS[shape]
    contents = {"A.xcassets/M.imageset/Contents.json": json.dumps({"images": entries}).encode()}
    snapshot = Project.of_files(contents)
    found = [find_image(snapshot, ["A.xcassets"], "M", screen, look) for screen in (SCREEN, PAD) for look in LOOKS]
    assert [one.path.rpartition("/")[2] if one else None for one in found] == expected


def test_each_configuration_is_shown_where_they_differ(tmp_path: Path, rivelt: Command) -> None:
    text = project(settings='INFOPLIST_FILE = "App/$(CONFIGURATION_LIST)"; CONFIGURATION_LIST = Info.plist;').replace(
        'D2 = {isa = XCBuildConfiguration; name = Release; buildSettings = {INFOPLIST_FILE = "App/$(CONFIGURATION_LIST)"; CONFIGURATION_LIST = Info.plist;',
        'D2 = {isa = XCBuildConfiguration; name = Release; buildSettings = {INFOPLIST_FILE = "App/Shipped.plist";',
    )
    files = {
        **FILES,
        "X.xcodeproj/project.pbxproj": text,
        "App/Info.plist": PLIST.format(LAUNCH.format("", "Sand", "")),
        "App/Shipped.plist": PLIST.format(LAUNCH.format("", "Sea", "")),
        **colour_set("Sand", SAND),
        **colour_set("Sea", SEA),
    }
    root = write_tree(tmp_path, files)
    scenes = rivelt("proof", root, "--now", "--json", "--only", "ios").json["scenes"]
    shown = {(tuple(scene["variants"]), scene["ground"]) for scene in scenes}
    assert shown == {(("Debug",), SAND), (("Release",), SEA)}


def test_namespaces_are_part_of_a_name() -> None:
    files = {
        "A.xcassets/Brand/Contents.json": '{"properties": {"provides-namespace": true}}',
        "A.xcassets/Brand/M.imageset/Contents.json": json.dumps({"images": [entry("a")]}),
        "A.xcassets/Plain/Contents.json": "{}",
        "A.xcassets/Plain/N.imageset/Contents.json": json.dumps({"images": [entry("b")]}),
    }
    snapshot = Project.of_files({path: text.encode() for path, text in files.items()})
    assert find_image(snapshot, ["A.xcassets"], "M", SCREEN, "light") is None
    assert find_image(snapshot, ["A.xcassets"], "Brand/M", SCREEN, "light") is not None
    assert find_image(snapshot, ["A.xcassets"], "N", SCREEN, "light") is not None
