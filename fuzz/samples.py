"""The projects whose files the harnesses corrupt: the sample app, applied, with troublesome files added; and an older one."""

from __future__ import annotations

import re
import shutil
import tempfile
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from rivelt.layout.context import PlanContext

_RES = "android/app/src/main/res"
_ANDROID = 'xmlns:android="http://schemas.android.com/apk/res/android"'
JOURNAL = ".rivelt/0001/applied.json"
_PROJECT = "ios/Skerryline.xcodeproj/project.pbxproj"


def _troublesome(files: dict[str, bytes]) -> dict[str, bytes]:
    """What the sample does not hold: shapes, a nine-patch, other drawables, a configuration file; all of them in use."""
    import pyvips

    window = (
        f'<layer-list {_ANDROID}><item><shape android:shape="oval"><gradient android:angle="45" android:startColor="#FF0000" '
        'android:centerX="0.3" android:endColor="#0000FF"/><stroke android:width="3dp" android:color="#00FF00"/><corners android:radius="9dp"/>'
        '<size android:width="90dp" android:height="60dp"/></shape></item><item android:top="9dp" android:gravity="center|bottom" '
        'android:drawable="@drawable/frame"/><item><inset android:inset="12dp" android:drawable="@drawable/states"/></item></layer-list>'
    )
    states = f'<selector {_ANDROID}><item android:state_pressed="true" android:drawable="@drawable/frame"/><item android:drawable="@drawable/rivelt_mark"/></selector>'
    frame = pyvips.Image.black(14, 12, bands=4).linear([1] * 4, [9, 9, 9, 255]).cast("uchar").pngsave_buffer()
    settings = '#include "More.xcconfig"\nINFOPLIST_KEY_UIStatusBarStyle[sdk=iphoneos*] = UIStatusBarStyleDefault\nNAME = $(TARGET_NAME)\n'
    more = {
        f"{_RES}/drawable/rivelt_window.xml": window.encode(),
        f"{_RES}/drawable/states.xml": states.encode(),
        f"{_RES}/drawable/frame.9.png": bytes(frame),
        "ios/Base.xcconfig": settings.encode(),
        "ios/More.xcconfig": b"A = 1\n",
    }
    configuration = (
        b'FACE00000000000000000001 = {isa = PBXFileReference; path = Base.xcconfig; sourceTree = "<group>"; };'
    )
    project = files[_PROJECT].replace(
        b"isa = XCBuildConfiguration;",
        b"isa = XCBuildConfiguration;\n\t\t\tbaseConfigurationReference = FACE00000000000000000001;",
    )
    project = project.replace(b"objects = {", b"objects = {\n\t\t" + configuration, 1)
    main = re.search(rb"mainGroup = (\w+)", project)
    assert main is not None
    project = re.sub(
        rb"(" + main[1] + rb"[^=;{}]*= \{\s*isa = PBXGroup;\s*children = \()", rb"\1FACE00000000000000000001, ", project
    )
    return {**files, **more, _PROJECT: project}


_DESCRIBED = """name: Holm
targets:
  Holm:
    type: application
    platform: iOS
    deploymentTarget: "12.0"
    sources: [App, {path: Shared, excludes: [x]}]
    settings: {base: {TARGETED_DEVICE_FAMILY: "1,2"}}
    info:
      path: App/Info.plist
      properties: {UILaunchStoryboardName: Launch, UIMainStoryboardFile: Launch}
"""
_STORYBOARD = """<document launchScreen="YES" initialViewController="n"><scenes><scene><objects>
<navigationController id="n"><connections><segue destination="c" kind="relationship" relationship="rootViewController"/></connections></navigationController>
<viewController id="c" customClass="Holm"><view key="view" id="V"><rect key="frame" x="0" y="0" width="375" height="667"/><subviews>
<stackView id="K" axis="vertical" distribution="equalCentering" alignment="center" spacing="8" translatesAutoresizingMaskIntoConstraints="NO"><subviews>
<imageView id="A" image="RiveltMark" contentMode="bottomLeft" alpha="0.5" translatesAutoresizingMaskIntoConstraints="NO"/>
<label id="L" text="Holm" numberOfLines="0" translatesAutoresizingMaskIntoConstraints="NO"><fontDescription key="fontDescription" pointSize="17"/></label>
<button id="B" translatesAutoresizingMaskIntoConstraints="NO"/></subviews></stackView>
<scrollView id="S" clipsSubviews="YES"><rect key="frame" x="0" y="0" width="100" height="100"/><autoresizingMask key="autoresizingMask" flexibleMinX="YES" heightSizable="YES"/></scrollView>
</subviews><viewLayoutGuide key="safeArea" id="G"/><color key="backgroundColor" systemColor="systemBackgroundColor"/><constraints>
<constraint firstItem="K" firstAttribute="centerX" secondItem="V" secondAttribute="centerXWithinMargins" multiplier="1/3" id="1"/>
<constraint firstItem="K" firstAttribute="top" secondItem="G" secondAttribute="top" constant="9" priority="998" id="2"><variation key="heightClass=compact" constant="3"/></constraint>
<constraint firstItem="A" firstAttribute="width" secondItem="A" secondAttribute="height" multiplier="16:9" id="3"/></constraints>
<variation key="widthClass=regular"><mask key="constraints"><exclude reference="3"/></mask></variation></view></viewController>
</objects></scene></scenes></document>"""
_DELEGATE = """@implementation Holm
- (void)viewDidLoad { if (@available(iOS 13.0, *)) { self.view.backgroundColor = [UIColor systemBackgroundColor]; }
  else { rootView.backgroundColor = [[UIColor alloc] initWithRed:1.0f green:243.0/255.0 blue:1 alpha:1]; } }
@end
"""


def _described() -> dict[str, bytes]:
    """An iOS app whose project is made from a description, with a storyboard of every kind of view."""
    files = {
        "ios/holm/project.yml": _DESCRIBED,
        "ios/holm/App/Launch.storyboard": _STORYBOARD,
        "ios/holm/App/Holm.mm": _DELEGATE,
        "ios/holm/App/Holm.swift": '@main struct Holm: App { var body: some Scene { WindowGroup { ZStack { Color("Sand") } } } }\n',
    }
    return {path: text.encode() for path, text in files.items()}


@cache
def projects() -> dict[str, dict[str, bytes]]:
    """The projects by name, applied to, each as path -> bytes."""
    return {"skerryline": _troublesome(_applied({})), "tern": _applied(_tern()), "holm": _described()}


def _applied(instead: dict[str, bytes]) -> dict[str, bytes]:
    """The sample project, or another one's files under the sample's brief, after an apply."""
    from rivelt import opening
    from rivelt.demo.layout import lay_out
    from rivelt.workspace import commit

    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        lay_out(root)
        if instead:
            for target in ("android", "ios", "windows", "web"):
                shutil.rmtree(root / target, ignore_errors=True)
            for path, content in instead.items():
                (root / path).parent.mkdir(parents=True, exist_ok=True)
                (root / path).write_bytes(content)
        brief = root / "rivelt.toml"
        brief.write_bytes(brief.read_bytes().replace(b'screens = "all"', b'screens = ["iPhone 15"]'))
        commit.apply(opening.open_brief(root).changes())
        files = {path.relative_to(root).as_posix(): path.read_bytes() for path in root.rglob("*") if path.is_file()}
    kept = {path: content for path, content in files.items() if not path.startswith(".rivelt/")}
    kept[JOURNAL] = files[JOURNAL]
    return kept


@cache
def context() -> PlanContext:
    """The measured art of the sample brief."""
    from rivelt import opening
    from rivelt.demo.layout import lay_out

    with tempfile.TemporaryDirectory() as folder:
        lay_out(Path(folder))
        return opening.open_brief(Path(folder)).editions[0].context


def _tern() -> dict[str, bytes]:
    """An older app before and after: Groovy build files, a Java activity, an iOS target with a xib."""
    launcher = '<intent-filter><action android:name="android.intent.action.MAIN"/><category android:name="android.intent.category.LAUNCHER"/></intent-filter>'
    return {
        "android/settings.gradle": b"include ':app'\n",
        "android/build.gradle": b"buildscript {\n    ext.kotlin_version = '1.9.0'\n}\n",
        "android/gradle.properties": b"android.useAndroidX=true\n",
        "android/app/build.gradle": (
            b"plugins {\n    id 'com.android.application'\n}\n\nandroid {\n    namespace 'example.tern'\n    compileSdk 34\n"
            b"    defaultConfig {\n        minSdkVersion 21\n        targetSdkVersion 34\n    }\n    flavorDimensions 'mode'\n"
            b"    productFlavors {\n        free { dimension 'mode' }\n        paid { dimension 'mode' }\n    }\n}\n\n"
            b"dependencies {\n    implementation 'androidx.appcompat:appcompat:1.6.1'\n}\n"
        ),
        "android/app/src/main/AndroidManifest.xml": (
            f'<manifest {_ANDROID}>\n    <application android:theme="@style/Tern">\n        <activity android:name=".Main" android:exported="true">\n'
            f"            {launcher}\n        </activity>\n    </application>\n</manifest>\n"
        ).encode(),
        "android/app/src/main/res/values/styles.xml": (
            b'<resources>\n    <style name="Tern" parent="Theme.AppCompat.Light.NoActionBar">\n        <item name="colorPrimary">#336699</item>\n'
            b'        <item name="android:windowBackground">@drawable/old</item>\n    </style>\n    <color name="sea">#336699</color>\n</resources>\n'
        ),
        "android/app/src/main/res/drawable/old.xml": (
            f'<layer-list {_ANDROID}>\n    <item android:drawable="@color/sea"/>\n    <item>\n        <rotate android:fromDegrees="30" '
            f'android:drawable="@color/sea"/>\n    </item>\n</layer-list>\n'
        ).encode(),
        "android/app/src/main/java/example/tern/Main.java": (
            b"package example.tern;\n\nimport android.os.Bundle;\nimport android.os.Handler;\nimport android.content.Intent;\n"
            b"import androidx.appcompat.app.AppCompatActivity;\n\npublic class Main extends AppCompatActivity {\n    @Override\n"
            b"    protected void onCreate(Bundle state) {\n        super.onCreate(state);\n        setContentView(R.layout.main);\n"
            b"        new Handler().postDelayed(() -> { startActivity(new Intent(this, Next.class)); finish(); }, 2000);\n    }\n}\n"
        ),
    }
