"""The app's first screen on iOS: its ground is read from Swift, Objective-C and storyboards, a flash is reported, and fixed where asked."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import pytest

from conftest import Command, read_tree, write_tree
from rivelt.edit.xml import parse_xml
from rivelt.platforms.ios.native.code_colours import colour_in_code
from test_apple_projects import FILES, PLIST, project

BRIEF = '[app]\nname = "Tern"\n[light]\nground = "#F3EBDD"\nmark = "mark.svg"\n[dark]\nground = "#13212B"\nmark = "derive"\n'
UIKIT = """import UIKit
class FerryViewController: UIViewController {{
    override func viewDidLoad() {{
        super.viewDidLoad()
        {}
    }}
}}
"""
DELEGATE = """import UIKit
@main
class AppDelegate: UIResponder, UIApplicationDelegate {{
    func application(_ application: UIApplication) -> Bool {{
        {}
        return true
    }}
}}
"""
SWIFTUI = """import SwiftUI
@main
struct SkerryApp: App {{
    var body: some Scene {{
        WindowGroup {{ ContentView().environmentObject(model) }}
    }}
}}
struct ContentView: View {{
    var body: some View {{
        {}
    }}
}}
"""
OBJC = """#import "AppDelegate.h"
@implementation AppDelegate
- (BOOL)application:(UIApplication *)application didFinishLaunchingWithOptions:(NSDictionary *)launchOptions
{
  UIView *rootView = [[RCTRootView alloc] initWithBridge:bridge moduleName:@"tern"];
  %s
  self.window.rootViewController = rootViewController;
  return YES;
}
@end
"""
MAIN = (
    '<?xml version="1.0"?>\n<document initialViewController="n">\n    <scenes><scene><objects>'
    '<navigationController id="n"><connections><segue destination="c" kind="relationship" relationship="rootViewController"/></connections></navigationController>'
    '<viewController id="c"{}><view key="view" id="V">{}</view></viewController></objects></scene></scenes>\n</document>\n'
)
STATED = '<color key="backgroundColor" systemColor="systemBackgroundColor"/>'
ROOT = "window.rootViewController = UINavigationController(rootViewController: FerryViewController())"
STORYBOARD_KEY = "<key>UIMainStoryboardFile</key><string>Main</string>"
AVAILABLE = (
    "if (@available(iOS 13.0, *)) { rootView.backgroundColor = [UIColor systemBackgroundColor]; }"
    " else { rootView.backgroundColor = [UIColor redColor]; }"
)

# The sources; more of Info.plist; what comes first, its grounds in both looks or why it is unknown; the text that is replaced.
SHAPES: dict[str, tuple[dict[str, str], str, str, tuple[str, str] | str, str]] = {
    "a root view of a framework": (
        {
            "AppDelegate.mm": OBJC
            % "rootView.backgroundColor = [UIColor colorWithRed:1.0f green:0 blue:128.0f/255.0f alpha:1];"
        },
        "",
        "root view",
        ("#FF0080", "#FF0080"),
        "[UIColor colorWithRed:1.0f green:0 blue:128.0f/255.0f alpha:1]",
    ),
    "by the version": (
        {"AppDelegate.m": OBJC % AVAILABLE},
        "",
        "root view",
        ("#FFFFFF", "#000000"),
        "[UIColor systemBackgroundColor]",
    ),
    "by a setter": (
        {"AppDelegate.m": OBJC % "[rootView setBackgroundColor:UIColor.whiteColor];"},
        "",
        "root view",
        ("#FFFFFF", "#FFFFFF"),
        "UIColor.whiteColor",
    ),
    "in several ways": (
        {
            "AppDelegate.m": OBJC
            % "rootView.backgroundColor = [UIColor redColor]; rootView.backgroundColor = [UIColor blueColor];"
        },
        "",
        "root view",
        "its ground is set in several ways in App/AppDelegate.m",
        "",
    ),
    "a comment is not code": (
        {"AppDelegate.m": OBJC % "// rootView.backgroundColor = [UIColor redColor];"},
        "",
        "first screen",
        "nothing that Rivelt reads",
        "",
    ),
    "the first view controller of the code": (
        {
            "AppDelegate.swift": DELEGATE.format(ROOT),
            "Ferry.swift": UIKIT.format("view.backgroundColor = .systemBackground"),
        },
        "",
        "first screen",
        ("#FFFFFF", "#000000"),
        ".systemBackground",
    ),
    "the window": (
        {"AppDelegate.swift": DELEGATE.format("window?.backgroundColor = UIColor(white: 0.5, alpha: 1)")},
        "",
        "window",
        ("#808080", "#808080"),
        "UIColor(white: 0.5, alpha: 1)",
    ),
    "a colour that code works out": (
        {"AppDelegate.swift": DELEGATE.format("window?.backgroundColor = Theme.current.sea")},
        "",
        "window",
        "Theme.current.sea in App/AppDelegate.swift:5:35 is not a colour that is read",
        "",
    ),
    "the first colour of a stack": (
        {
            "App.swift": SWIFTUI.format(
                'ZStack { Color("Harbour").ignoresSafeArea(); Text("x").foregroundColor(Color.red) }'
            )
        },
        "",
        "first screen",
        ("#102030", "#405060"),
        'Color("Harbour")',
    ),
    "a background": (
        {"App.swift": SWIFTUI.format("VStack { Text(title).background(.red) }.background(Color(.systemBackground))")},
        "",
        "first screen",
        ("#FFFFFF", "#000000"),
        "Color(.systemBackground)",
    ),
    "a view of another file": (
        {
            "App.swift": SWIFTUI.format("HarbourView()"),
            "Harbour.swift": "import SwiftUI\nstruct HarbourView: View { var body: some View { Color.black } }\n",
        },
        "",
        "first screen",
        ("#000000", "#000000"),
        "Color.black",
    ),
    "a colour of text is not a ground": (
        {"App.swift": SWIFTUI.format("Text(title).foregroundColor(Color.red)")},
        "",
        "first screen",
        "the view ContentView shows no Color that could be its ground",
        "",
    ),
    "the main storyboard": (
        {"Main.storyboard": MAIN.format("", STATED)},
        STORYBOARD_KEY,
        "first screen",
        ("#FFFFFF", "#000000"),
        STATED,
    ),
    "the main storyboard's class": (
        {
            "Main.storyboard": MAIN.format(' customClass="FerryViewController"', STATED),
            "Ferry.swift": UIKIT.format("view.backgroundColor = UIColor.black"),
        },
        STORYBOARD_KEY,
        "first screen",
        ("#000000", "#000000"),
        "UIColor.black",
    ),
    "a class that sets nothing": (
        {
            "Main.storyboard": MAIN.format(' customClass="FerryViewController"', STATED),
            "Ferry.swift": UIKIT.format('title = "Today"'),
        },
        STORYBOARD_KEY,
        "first screen",
        ("#FFFFFF", "#000000"),
        STATED,
    ),
    "a class from elsewhere": (
        {"Main.storyboard": MAIN.format(' customClass="EngineViewController"', STATED)},
        STORYBOARD_KEY,
        "first screen",
        "its class EngineViewController is not among the app's sources",
        "",
    ),
}
HARBOUR = """{"colors": [{"idiom": "universal", "color": {"color-space": "srgb", "components": {"red": "0x10", "green": "0x20", "blue": "0x30", "alpha": "1.0"}}},
{"idiom": "universal", "appearances": [{"appearance": "luminosity", "value": "dark"}],
 "color": {"color-space": "srgb", "components": {"red": "0x40", "green": "0x50", "blue": "0x60", "alpha": "1.0"}}}]}"""


def laid_out(root: Path, sources: Mapping[str, str], keys: str, options: str = "") -> Path:
    numbers = {name: f"S{number}" for number, name in enumerate(sources)}
    references = "".join(
        f'F{one} = {{isa = PBXFileReference; path = {name}; sourceTree = "<group>"; }}; B{one} = {{isa = PBXBuildFile; fileRef = F{one}; }}; '
        for name, one in numbers.items()
    )
    resources = [one for name, one in numbers.items() if name.endswith(".storyboard")]
    compiled = [one for one in numbers.values() if one not in resources]
    phase = f"P1 = {{isa = PBXSourcesBuildPhase; files = ({', '.join(f'B{one}' for one in compiled)}); }};"
    text = project(more=references + phase, files=", ".join(["B1", *(f"B{one}" for one in resources)])).replace(
        "(R1)", "(R1, P1)"
    )
    text = text.replace("(F1, F2)", f"({', '.join(['F1', 'F2', *(f'F{one}' for one in numbers.values())])})")
    return write_tree(
        root,
        {
            **FILES,
            "rivelt.toml": BRIEF + options,
            "X.xcodeproj/project.pbxproj": text,
            "App/Info.plist": PLIST.format(keys),
            "App/Assets.xcassets/Harbour.colorset/Contents.json": HARBOUR,
            **{f"App/{name}": content for name, content in sources.items()},
        },
    )


def tree_of(root: Path) -> dict[str, object]:
    return {path: data for path, data in read_tree(root).items() if not path.startswith((".rivelt", "proof."))}


def steps(root: Path, rivelt: Command) -> list[dict[str, object]]:
    """The steps of the handoff in both looks, without the launch screen."""
    found = rivelt("proof", "--now", "--json", cwd=root).json["handoffs"]
    return [step for one in found for step in one["steps"] if step["moment"] != "launch screen"]


@pytest.mark.parametrize("shape", SHAPES)
def test_the_first_screen_is_read_and_a_flash_is_mended(tmp_path: Path, rivelt: Command, shape: str) -> None:
    sources, keys, moment, grounds, text = SHAPES[shape]
    root = laid_out(tmp_path, sources, keys)
    assert rivelt("apply", cwd=root).code == 0
    found = steps(root, rivelt)
    assert [step["moment"] for step in found] == [moment, moment]
    checked = rivelt("check", "--select", "HND01", "--json", cwd=root).json["findings"]
    if isinstance(grounds, str):
        assert grounds in str(found[0]["source"])
        assert {one["verdict"] for one in checked} == {"unknown"}
        return
    assert tuple(step["ground"] for step in found) == grounds
    broken = [one for one in checked if one["verdict"] == "broken"]
    assert broken
    name = next(name for name, content in sources.items() if text in content)
    content = sources[name]
    line = content[: content.index(text)].count("\n") + 1
    assert {(one["path"], one["line"]) for one in broken} == {(f"App/{name}", line)}
    assert "RiveltGround" in broken[0]["fix"]

    before = tree_of(root)
    brief = root / "rivelt.toml"
    brief.write_text(BRIEF + '[ios]\nfirst_ground = "apply"\n')
    assert rivelt("apply", cwd=root).code == 0
    after = (root / f"App/{name}").read_text()
    assert text not in after
    assert after.count("RiveltGround") == (2 if name.endswith(".storyboard") else 1)
    if name.endswith(".storyboard"):
        assert parse_xml(after.encode(), "s").root.first("resources") is not None
    assert [step["ground"] for step in steps(root, rivelt)] == ["#F3EBDD", "#13212B"]
    assert rivelt("check", "--select", "HND01", cwd=root).code == 0
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    assert rivelt("undo", cwd=root).code == 0
    brief.write_text(BRIEF)
    assert tree_of(root) == before


def test_a_new_name_of_the_ground_is_followed(tmp_path: Path, rivelt: Command) -> None:
    sources = {"AppDelegate.swift": DELEGATE.format("window?.backgroundColor = UIColor.white")}
    root = laid_out(tmp_path, sources, "", '[ios]\nfirst_ground = "apply"\nfresh_names = true\n')
    assert rivelt("apply", cwd=root).code == 0
    first = (root / "App/AppDelegate.swift").read_text()
    (root / "rivelt.toml").write_text((root / "rivelt.toml").read_text().replace("#F3EBDD", "#E0EBDD"))
    assert rivelt("apply", cwd=root).code == 0
    second = (root / "App/AppDelegate.swift").read_text()
    assert first != second
    assert [step["ground"] for step in steps(root, rivelt)] == ["#E0EBDD", "#13212B"]


def test_waiting_screens_are_read_from_disk(tmp_path: Path, rivelt: Command) -> None:
    for kind in ("true", '"swiftui"'):
        root = laid_out(
            tmp_path / kind.strip('"'), {"App.swift": SWIFTUI.format("Color.black")}, "", f"[ios]\nwaiting = {kind}\n"
        )
        assert rivelt("apply", cwd=root).code == 0
        assert [(step["moment"], step["ground"]) for step in steps(root, rivelt)] == [
            ("waiting screen", "#F3EBDD"),
            ("first screen", "#000000"),
            ("waiting screen", "#13212B"),
            ("first screen", "#000000"),
        ]
        generated = next(root.glob("App/RiveltWaiting.*"))
        generated.write_text(generated.read_text().replace("RiveltGround", "Harbour"))
        assert steps(root, rivelt)[0]["ground"] == "#102030"


CODE = {
    'UIColor(named: "Sand")': "#010203",
    'UIColor(named:"Sand")!': "#010203",
    'UIColor(named: "Sand") ?? .white': "#010203",
    'UIColor(named: "Sand")?.withAlphaComponent(0.5)': None,
    '[UIColor colorNamed:@"Sand"]': "#010203",
    "UIColor(red: 243/255, green: 235.0 / 255.0, blue: 1, alpha: 1.0)": "#F3EBFF",
    "UIColor(displayP3Red: 1, green: 1, blue: 1, alpha: 1)": "#FFFFFF",
    "[[UIColor alloc] initWithRed:1.0f green:0.5f blue:0 alpha:1]": "#FF8000",
    "[UIColor colorWithWhite:1.0 alpha:1]": "#FFFFFF",
    "UIColor.black": "#000000",
    ".secondarySystemBackground": "#F2F2F7",
    "UIColor(hex: 0xFF0000)": None,
    "UIColor { traits in .white }": None,
    "UIColor(red: 1/0, green: 0, blue: 0, alpha: 1)": None,
    "[Theme ground]": None,
}


@pytest.mark.parametrize("text", CODE)
def test_colours_in_code(text: str) -> None:
    from rivelt.colour import Colour

    found = colour_in_code(
        text, "light", 17, lambda name: Colour(1, 2, 3) if name == "Sand" else None, is_swiftui=False
    )
    assert (found.hex if found else None) == CODE[text]
    assert colour_in_code(".red", "dark", 17, lambda _: None, is_swiftui=True) == Colour(0xFF, 0x45, 0x3A)
