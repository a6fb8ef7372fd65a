"""Android projects of many shapes: each ends applied and compiling, or untouched with the reason."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

import pytest

from aapt import SYSTEM_ATTRIBUTES, Table, compile_app
from conftest import MANIFEST, read_tree, small_android, write_tree
from rivelt import opening
from rivelt.edit.source import languages
from rivelt.edit.source.language import MARKER
from rivelt.errors import RiveltError
from rivelt.workspace import commit, history

BRIEF = """[app]
name = "Tern"

[light]
ground = "#F3EBDD"
mark = "mark.svg"
imprint = "mark.svg"

[dark]
ground = "#13212B"
"""
SOURCE = "app/src/main/java/example/tern/Main.kt"
KOTLIN = """package example.tern

import android.os.Bundle
import androidx.appcompat.app.AppCompatActivity

class Main : AppCompatActivity() {
    override fun onCreate(savedInstanceState: Bundle?) {
        super.onCreate(savedInstanceState)
        setContentView(R.layout.main)
    }
}
"""
JAVA = """package example.tern;

import android.app.Activity;
import android.os.Bundle;

public class Main extends Activity {
    @Override
    protected void onCreate(Bundle state) {
        super.onCreate(state);
    }
}
"""
GROOVY = """plugins {
    id 'com.android.application'
}

android {
    namespace 'example.tern'
    compileSdk 35
    defaultConfig {
        minSdk 21
        targetSdk 35
    }
}

dependencies {
    implementation 'androidx.appcompat:appcompat:1.7.0'
    testImplementation 'junit:junit:4.13.2'
}
"""
MODERN_STYLES = """<resources>
    <style name="Tern" parent="Theme.AppCompat.Light.NoActionBar">
        <item name="android:windowBackground">#FFFFFF</item>
    </style>
</resources>
"""
NEEDS = "androidx.core:core-splashscreen:1.0.1"


Tree = Mapping[str, bytes]


@dataclass(frozen=True)
class Shape:
    """Files that differ from a plain AndroidX app with a Kotlin activity, and what must come of it.

    `way`: "compat", "platform", or None when the module is left alone. `says`: text of the note or reason. `holds`: path -> texts that
    the file must hold afterwards, each exactly once.
    """

    files: Mapping[str, str | bytes | None]
    way: str | None = "compat"
    says: str = ""
    after: str = "@style/Tern"
    holds: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    options: str = ""
    unused: tuple[str, ...] = ()
    level: int = 21
    compiles: int = 35


def tree(shape: Shape) -> dict[str, str | bytes]:
    plain: dict[str, str | bytes] = {
        **small_android(brief=f"{BRIEF}\n[android]\n{shape.options}", styles=MODERN_STYLES, gradle=GROOVY),
        SOURCE: KOTLIN,
    }
    plain.update({path: content for path, content in shape.files.items() if content is not None})
    return {path: content for path, content in plain.items() if shape.files.get(path, "") is not None}


MAIN, STYLE_FILE, GRADLE = "app/src/main/AndroidManifest.xml", "app/src/main/res/values/styles.xml", "app/build.gradle"
JAVA_SOURCE = "app/src/main/java/example/tern/Main.java"
INSTALL = f"        installSplashScreen() {MARKER}must stay first in onCreate\n        super.onCreate("
IMPORT = "import androidx.core.splashscreen.SplashScreen.Companion.installSplashScreen\n"
LAUNCH_ALONE: dict[str, str | bytes | None] = {
    STYLE_FILE: MODERN_STYLES.replace(
        "</resources>", '<style name="Tern.Launch" parent="Theme.SplashScreen"/></resources>'
    ),
    MAIN: MANIFEST.replace('".Main"', '".Main" android:theme="@style/Tern.Launch"'),
}
INSTALLING = KOTLIN.replace("        super", "        installSplashScreen()\n        super").replace(
    "import androidx", f"{IMPORT}import androidx"
)
CATALOG = """[versions]
appcompat = "1.7.0"
# the one below is for the tests

[libraries]
appcompat = { module = "androidx.appcompat:appcompat", version.ref = "appcompat" }
"""
KTS = """plugins { alias(libs.plugins.android.application) }
// a comment with { and "
android {
    namespace = "example.tern"
    compileSdk { version = release(36) }
    defaultConfig { minSdk = libs.versions.minSdk.get().toInt() }
}
dependencies { implementation(libs.appcompat) }"""
TWO_BLOCKS = """buildscript {
    dependencies {
        classpath "com.android.tools.build:gradle:8.0.0"
    }
}
apply plugin: 'com.android.application'
android {
    compileSdkVersion rootProject.ext.compileSdkVersion
    defaultConfig {
        minSdkVersion rootProject.ext.minSdkVersion
    }
    buildTypes { release { minifyEnabled false } }
}
dependencies {
    implementation fileTree(dir: "libs", include: ["*.jar"])
    implementation("androidx.appcompat:appcompat:$version") {
        exclude group: "x"
    }
}
"""
FRAMEWORK_MANIFEST = MANIFEST.replace("@style/Tern", "@style/NormalTheme").replace(
    '<activity android:name=".Main">',
    """<activity
            android:name=".Main"
            android:theme="@style/LaunchTheme">
            <meta-data
              android:name="example.NormalTheme"
              android:resource="@style/NormalTheme"
              />""",
)
FRAMEWORK_STYLE = """<?xml version="1.0" encoding="utf-8"?>
<resources>
    <!-- Shown while the engine starts -->
    <style name="LaunchTheme" parent="@android:style/Theme.{}.NoTitleBar">
        <item name="android:windowBackground">@drawable/launch_background</item>
    </style>
    <style name="NormalTheme" parent="@android:style/Theme.{}.NoTitleBar">
        <item name="android:windowBackground">?android:colorBackground</item>
    </style>
</resources>
"""
FRAMEWORK: dict[str, str | bytes | None] = {
    MAIN: FRAMEWORK_MANIFEST,
    SOURCE: "package example.tern\nclass Main: EngineActivity()\n",
    STYLE_FILE: FRAMEWORK_STYLE.format("Light", "Light").replace("?android:colorBackground", "#FFFFFF"),
    "app/src/main/res/values-night/styles.xml": FRAMEWORK_STYLE.format("Black", "Black").replace(
        "?android:colorBackground", "#000000"
    ),
    "app/src/main/res/drawable/logo.png": (Path(__file__).parents[1] / "docs/screenshots/undo.png").read_bytes(),
    "app/src/main/res/drawable/launch_background.xml": '<layer-list xmlns:android="http://schemas.android.com/apk/res/android">'
    '<item android:bottom="0dp"><bitmap android:src="@drawable/logo"/></item></layer-list>',
}
ALLMAN = (
    JAVA.replace("Activity {", "Activity\n{")
    .replace("state) {", "state)\n    {")
    .replace("super", "int x = 1;\n        super")
)

ACTIVITY = MANIFEST[MANIFEST.index("<activity") : MANIFEST.index("</activity>") + 11]
TWO_LAUNCHERS = MANIFEST.replace("</application>", ACTIVITY.replace(".Main", ".Two") + "</application>")

SHAPES = {
    "plain, with a copy of its manifest": Shape({"backup/AndroidManifest.xml": MANIFEST}),
    "plain": Shape({}, holds={SOURCE: (INSTALL, IMPORT), GRADLE: (f"    implementation '{NEEDS}'\n    test",)}),
    "crlf and no final newline": Shape(
        {
            SOURCE: KOTLIN.replace("\n", "\r\n"),
            GRADLE: GROOVY.replace("\n", "\r\n").rstrip(),
            MAIN: b"\xef\xbb\xbf" + MANIFEST.replace("\n", "\r\n").rstrip().encode(),
        },
        holds={SOURCE: (INSTALL.replace("\n", "\r\n"),), GRADLE: (f"    implementation '{NEEDS}'\r\n",)},
    ),
    "catalog, Kotlin build, one-line blocks": Shape(
        {
            GRADLE: None,
            "app/build.gradle.kts": KTS,
            "gradle/libs.versions.toml": CATALOG.replace("[lib", 'minSdk = "24"\n\n[lib', 1),
        },
        holds={
            "app/build.gradle.kts": (
                "dependencies { implementation(libs.appcompat); implementation(libs.androidx.core.splashscreen) }",
            ),
            "gradle/libs.versions.toml": (
                'minSdk = "24"\ncoreSplashscreen = "1.0.1"\n',
                f'"{NEEDS[:-6]}", version.ref',
            ),
        },
        level=24,
    ),
    "catalog that knows the library": Shape(
        {
            GRADLE: None,
            "app/build.gradle.kts": KTS.replace("libs.versions.minSdk.get().toInt()", "21"),
            "gradle/libs.versions.toml": CATALOG + f'splash = "{NEEDS}"\n',
        },
        holds={"app/build.gradle.kts": ("implementation(libs.splash)",)},
    ),
    "levels in variables, two blocks": Shape(
        {
            GRADLE: TWO_BLOCKS,
            "build.gradle": "ext {\n    minSdkVersion = 23\n    compileSdkVersion = 34\n}\n",
            "gradle.properties": "android.useAndroidX=true\n",
        },
        holds={GRADLE: (f'["*.jar"])\n    implementation("{NEEDS}")\n    implementation("androidx',)},
        level=23,
    ),
    "dependencies inside android": Shape(
        {GRADLE: GROOVY.replace("}\n\ndependencies {", "    dependencies {").rstrip() + "\n}\n"},
        holds={GRADLE: (f"implementation '{NEEDS}'",)},
    ),
    "no dependencies": Shape(
        {GRADLE: GROOVY.partition("dependencies")[0], "gradle.properties": "android.useAndroidX=true\n"},
        holds={GRADLE: (f"dependencies {{\n    implementation '{NEEDS}'\n}}\n",)},
    ),
    "below a folder of tests": Shape(
        {
            SOURCE: None,
            "app/src/test/java/example/tern/Main.kt": "package example.tern\nclass Main\n",
            "src/test/apps/src/main/java/example/tern/Main.kt": KOTLIN,
        },
        holds={"src/test/apps/src/main/java/example/tern/Main.kt": (INSTALL,)},
    ),
    "no class body": Shape(
        {SOURCE: "package example.tern\n\nclass Main : Base()\n"},
        holds={SOURCE: (INSTALL, "class Main : Base() {\n    override fun onCreate", "import android.os.Bundle\n")},
    ),
    "empty body, no package": Shape(
        {
            SOURCE: None,
            "app/src/main/kotlin/Main.kt": "class Main: Base() {}",
            MAIN: MANIFEST.replace(' package="example.tern"', ""),
            GRADLE: GROOVY.replace("    namespace 'example.tern'\n", ""),
        },
        holds={"app/src/main/kotlin/Main.kt": (INSTALL,)},
    ),
    "Compose": Shape(
        {
            SOURCE: KOTLIN.replace("super", "enableEdgeToEdge()\n        super")
            .replace("setContentView(R.layout.main)", "setContent { }")
            .replace(
                "\n\nc", "\nimport androidx.activity.compose.setContent\nimport androidx.activity.enableEdgeToEdge\n\nc"
            )
        },
        holds={SOURCE: (INSTALL.replace("super.onCreate(", "enableEdgeToEdge()"),)},
    ),
    "Java, after a comment of a licence, indented by two": Shape(
        {
            SOURCE: None,
            JAVA_SOURCE: "/*\n * All rights reserved.\n */\npackage example.tern;\n\nclass Base extends android.app.Activity {\n  int depth;\n}\n\npublic class Main extends Base {}\n",
        },
        holds={
            JAVA_SOURCE: (
                "{\n  @Override\n  public void onCreate(Bundle savedInstanceState) {\n    SplashScreen.install",
            )
        },
    ),
    "Java": Shape(
        {SOURCE: None, JAVA_SOURCE: JAVA},
        holds={
            JAVA_SOURCE: (
                f"        SplashScreen.installSplashScreen(this); {MARKER}",
                "import androidx.core.splashscreen.SplashScreen;\n",
            )
        },
    ),
    "Java, Allman, super not first": Shape(
        {SOURCE: None, JAVA_SOURCE: ALLMAN},
        holds={JAVA_SOURCE: (f"    {{\n        SplashScreen.installSplashScreen(this); {MARKER}",)},
    ),
    "Java, another SplashScreen": Shape(
        {
            SOURCE: None,
            JAVA_SOURCE: JAVA,
            JAVA_SOURCE.replace("Main", "SplashScreen"): "package example.tern;\nclass SplashScreen {}\n",
        },
        holds={JAVA_SOURCE: ("        androidx.core.splashscreen.SplashScreen.installSplashScreen(this);",)},
    ),
    "Java, public in the superclass": Shape(
        {
            SOURCE: None,
            JAVA_SOURCE: "package example.tern;\npublic class Main extends Base {}\n",
            JAVA_SOURCE.replace("Main", "Base"): JAVA.replace("Main", "Base").replace("protected", "public"),
        },
        holds={JAVA_SOURCE: ("    public void onCreate(Bundle",)},
    ),
    "the call is in the superclass": Shape(
        {
            SOURCE: "package example.tern\n\nclass Main : Base()\n",
            SOURCE.replace("Main", "Base"): KOTLIN.replace("class Main", "open class Base")
            .replace("        super", "        installSplashScreen()\n        super")
            .replace("import androidx", f"{IMPORT}import androidx"),
            GRADLE: GROOVY.replace("androidx.appcompat:appcompat:1.7.0", NEEDS),
        },
        holds={SOURCE: ("class Main : Base()\n",), GRADLE: (NEEDS,)},
    ),
    "the library's theme already": Shape(
        {
            STYLE_FILE: MODERN_STYLES.replace(
                "</resources>",
                '<style name="Start" parent="Theme.SplashScreen"><item name="postSplashScreenTheme">@style/Tern</item></style></resources>',
            ),
            MAIN: MANIFEST.replace('".Main"', '".Main" android:theme="@style/Start"'),
            SOURCE: INSTALLING,
            GRADLE: GROOVY.replace("androidx.appcompat:appcompat:1.7.0", NEEDS),
        },
        holds={SOURCE: ("        installSplashScreen()",), GRADLE: (NEEDS,)},
    ),
    "a launch theme that names no other": Shape(LAUNCH_ALONE, after="@style/Tern"),
    "a launch theme that names no other, on the application too": Shape(
        {**LAUNCH_ALONE, MAIN: MANIFEST.replace("@style/Tern", "@style/Tern.Launch")},
        way=None,
        says="@style/Tern.Launch is a launch theme that names none",
    ),
    "a launch theme that names no other, and a brief that does": Shape(
        {**LAUNCH_ALONE, MAIN: MANIFEST.replace("@style/Tern", "@style/Tern.Launch")},
        options='app_theme = "@style/Theme.AppCompat.Light"',
        after="@style/Theme.AppCompat.Light",
    ),
    "a launch theme that the app leaves in code": Shape(
        {
            STYLE_FILE: MODERN_STYLES.replace("</resources>", '<style name="Tern.Start"/></resources>'),
            MAIN: MANIFEST.replace('".Main"', '".Main" android:theme="@style/Tern.Start"'),
            SOURCE: KOTLIN.replace("        super", "        setTheme(R.style.Tern)\n        super"),
        },
        holds={SOURCE: ("onCreate\n        setTheme(R.style.Tern)\n        super",)},
    ),
    "support library": Shape(
        {GRADLE: GROOVY.replace("androidx.appcompat:appcompat:1.7.0", "com.android.support:appcompat-v7:28.0.0")},
        way="platform",
        says="does not use AndroidX",
        holds={SOURCE: (f"        setTheme(R.style.Tern) {MARKER}must stay first in onCreate\n        super",)},
    ),
    "compiled with an old SDK": Shape(
        {GRADLE: GROOVY.replace("compileSdk 35", "compileSdk 30")}, way="platform", says="compileSdk is 30", compiles=30
    ),
    "no source": Shape({SOURCE: None}, way="platform", says="was not found"),
    "unreadable source": Shape(
        {SOURCE: KOTLIN.replace("{\n        super", "{ ((( \n        super")}, way="platform", says="not understood"
    ),
    "not UTF-8": Shape({SOURCE: KOTLIN.encode() + b"// \xe9\n"}, way="platform", says="not UTF-8"),
    "broken build": Shape(
        {GRADLE: GROOVY.replace("minSdk 21\n", "minSdk 21 {\n")}, way="platform", says="never closed", compiles=30
    ),
    "no build": Shape({GRADLE: None, SOURCE: None}, way="platform", compiles=30),
    "sets its theme itself": Shape(
        {
            SOURCE: KOTLIN.replace("        super", "        setTheme(R.style.Tern)\n        super"),
            GRADLE: "// com.android.application",
        },
        way="platform",
        compiles=30,
        says="compileSdk is unknown",
        holds={SOURCE: ("setTheme(R.style.Tern)\n",)},
    ),
    "an engine's app that installs the library": Shape(
        {
            **FRAMEWORK,
            SOURCE: INSTALLING,
            GRADLE: GROOVY.replace("androidx.appcompat:appcompat:1.7.0", NEEDS).replace(
                "minSdk 21", "minSdk levels.lowest()"
            ),
        },
        says="the library is a dependency",
        after="@style/NormalTheme",
        holds={SOURCE: ("        installSplashScreen()",), GRADLE: (NEEDS,)},
    ),
    "the platform way where the library is installed": Shape(
        {SOURCE: INSTALLING}, way=None, options='way = "platform"', says="installs the compatibility library"
    ),
    "a library's theme, without its library": Shape(
        {MAIN: MANIFEST.replace("@style/Tern", "@style/Theme.AppCompat.Light")},
        way="platform",
        options='way = "platform"',
        after="@style/Theme.AppCompat.Light",
        holds={
            SOURCE: (f"        setTheme(R.style.rivelt_app) {MARKER}",),
            "app/src/main/res/values/rivelt_launch.xml": ('<style name="rivelt_app" parent="Theme.AppCompat.Light">',),
        },
    ),
    "a translucent theme": Shape(
        {STYLE_FILE: MODERN_STYLES.replace("</style>", '<item name="android:windowIsTranslucent">true</item></style>')},
        way="platform",
        options='way = "platform"',
        holds={
            f"app/src/main/res/{folder}/rivelt_launch.xml": ('<item name="android:windowIsTranslucent">false</item>',)
            for folder in ("values", "values-night", "values-v31", "values-night-v31")
        },
    ),
    "a theme from inside a library": Shape(
        {STYLE_FILE: MODERN_STYLES.replace("Theme.AppCompat.Light.NoActionBar", "Base.V7.Theme.AppCompat.Light")}
    ),
    "R of another package": Shape(
        {
            SOURCE: None,
            "app/src/main/java/example/tern/ui/Main.kt": KOTLIN.replace("example.tern", "example.tern.ui"),
            MAIN: MANIFEST.replace('".Main"', '".ui.Main"'),
            GRADLE: GROOVY.replace("compileSdk 35", "compileSdk 30"),
        },
        way="platform",
        compiles=30,
        holds={"app/src/main/java/example/tern/ui/Main.kt": ("setTheme(example.tern.R.style.Tern)",)},
    ),
    "a framework's activity": Shape(
        FRAMEWORK,
        way="platform",
        says="<meta-data>",
        unused=("app/src/main/res/drawable/launch_background.xml", "app/src/main/res/drawable/logo.png"),
        after="@style/NormalTheme",
        holds={
            STYLE_FILE: (
                '<item name="android:windowBackground">@drawable/rivelt_window</item>',
                ">#FFFFFF<",
                "<!-- Shown while",
            ),
            "app/src/main/res/values-v31/rivelt_launch.xml": (
                '<style name="LaunchTheme" parent="@android:style/Theme.Light.NoTitleBar">',
            ),
            "app/src/main/res/values-night-v31/rivelt_launch.xml": ('parent="@android:style/Theme.Black.NoTitleBar"',),
        },
    ),
    "no theme at all": Shape(
        {MAIN: MANIFEST.replace(' android:theme="@style/Tern"', "")},
        after="@android:style/Theme.DeviceDefault.Light.DarkActionBar",
    ),
    "a variant of the theme for tablets and API 29": Shape(
        {f"app/src/main/res/values-{name}/x.xml": MODERN_STYLES for name in ("sw600dp", "v29", "land", "night-v29")}
    ),
    "alias, switched off twin": Shape(
        {
            MAIN: MANIFEST.replace("LAUNCHER", "INFO").replace(
                "</application>",
                '<activity-alias android:name=".Old" android:targetActivity=".Gone" android:enabled="false">FILTER</activity-alias>'
                '<activity-alias android:name=".Door" android:targetActivity=".Main">FILTER</activity-alias></application>'.replace(
                    "FILTER",
                    re.search(r"<intent-filter>.*</intent-filter>", MANIFEST, re.DOTALL)[0],  # type: ignore[index]
                ),
            )
        },
        holds={MAIN: ('<activity android:name=".Main" android:theme="@style/rivelt_launch">',)},
    ),
    "the activity in every flavour": Shape(
        {
            SOURCE: None,
            "app/src/free/java/example/tern/Main.kt": KOTLIN,
            "app/src/paid/java/example/tern/Main.kt": KOTLIN,
        },
        holds={f"app/src/{name}/java/example/tern/Main.kt": (INSTALL,) for name in ("free", "paid")},
    ),
    "the activity in a library module": Shape(
        {
            SOURCE: None,
            "harbour/src/main/java/x/Main.kt": KOTLIN.replace("example.tern", "example.harbour"),
            "harbour/build.gradle": "apply plugin: 'com.android.library'\ndependencies {}\n",
            MAIN: MANIFEST.replace('".Main"', '"example.harbour.Main"'),
        },
        holds={
            "harbour/src/main/java/x/Main.kt": (INSTALL,),
            "harbour/build.gradle": (f"dependencies {{\n    implementation '{NEEDS}'\n}}",),
            GRADLE: (NEEDS,),
        },
    ),
    "Multiplatform": Shape(
        {
            GRADLE: GROOVY.partition("dependencies")[0].replace("minSdk 21", "minSdk = 21")
            + "kotlin {\n  sourceSets {\n    androidMain.dependencies {\n      implementation('androidx.activity:activity:1.9.0')\n    }\n  }\n}\n",
        },
        holds={GRADLE: (f"activity:1.9.0')\n      implementation('{NEEDS}')\n    }}",)},
    ),
    "an old project without Gradle": Shape(
        {
            GRADLE: None,
            SOURCE: None,
            JAVA_SOURCE: JAVA,
            MAIN: MANIFEST.replace("<application", '<uses-sdk android:minSdkVersion="23"/>\n    <application'),
        },
        way="platform",
        level=23,
        compiles=30,
        holds={JAVA_SOURCE: (f"        setTheme(R.style.Tern); {MARKER}",)},
    ),
    # Left alone, with the reason.
    "a version in a constraints block": Shape(
        {GRADLE: GROOVY.replace("dependencies {", f"dependencies {{\n    constraints {{ implementation '{NEEDS}' }}")},
        holds={GRADLE: (f"    implementation '{NEEDS}'\n    testImplementation",)},
    ),
    "a library of the tests alone": Shape(
        {
            GRADLE: GROOVY.replace(
                "    testImplementation", f"    androidTestImplementation '{NEEDS}'\n    testImplementation"
            )
        },
        holds={GRADLE: (f"1.7.0'\n    implementation '{NEEDS}'\n",)},
    ),
    "a library of the tests alone, on lines of its own": Shape(
        {
            GRADLE: GROOVY.replace(
                "    testImplementation",
                f"    androidTestImplementation(\n        '{NEEDS}'\n    )\n    testImplementation",
            )
        },
        holds={GRADLE: (f"1.7.0'\n    implementation '{NEEDS}'\n",)},
    ),
    "a dependencies block of constraints": Shape(
        {GRADLE: "constraints { dependencies { } }\n" + GROOVY},
        holds={GRADLE: ("constraints { dependencies { } }\n", f"    implementation '{NEEDS}'\n")},
    ),
    "no launcher and no build": Shape(
        {MAIN: MANIFEST.replace("LAUNCHER", "INFO"), GRADLE: None},
        way=None,
        says="no activity of this manifest is started",
    ),
    "no launcher": Shape(
        {MAIN: MANIFEST.replace("LAUNCHER", "INFO")}, way=None, says="no activity of this manifest is started"
    ),
    "manifest that is not XML": Shape({MAIN: "<manifest"}, way=None, says="not well-formed XML"),
    "theme that does not exist": Shape({STYLE_FILE: "<resources/>"}, way=None, says="@style/Tern is defined nowhere"),
    "theme that is misspelt": Shape(
        {
            MAIN: MANIFEST.replace("@style/Tern", "@style/Theme.Tern.Ferries"),
            STYLE_FILE: '<resources><style name="Theme.Tern.Ferrys" parent="@android:style/Theme"/></resources>',
        },
        way=None,
        says="is defined nowhere",
    ),
    "placeholder theme": Shape(
        {MAIN: MANIFEST.replace("@style/Tern", "${theme}")}, way=None, says="is not known before the build"
    ),
    "name taken": Shape(
        {"app/src/main/res/values/c.xml": '<resources><color name="rivelt_ground">#123</color></resources>'},
        way=None,
        says="color/rivelt_ground is taken",
    ),
    "two launchers": Shape(
        {MAIN: TWO_LAUNCHERS},
        way=None,
        says="the launcher starts several activities: .Main, .Two",
    ),
    "two modules": Shape(
        {"wharf/AndroidManifest.xml": MANIFEST, "wharf/build.gradle": GROOVY},
        way=None,
        says="there are several app modules: app, wharf",
    ),
    "compat asked for in vain": Shape(
        {SOURCE: None}, options='way = "compat"', way=None, says="the compatibility library cannot be used"
    ),
}


@pytest.mark.parametrize("shape", SHAPES.values(), ids=SHAPES)
def test_every_shape_ends_applied_and_compiling_or_untouched(
    tmp_path: Path, shape: Shape, stubs: tuple[Path, Path], attribute_levels: dict[str, int]
) -> None:
    root = write_tree(tmp_path / "tern", tree(shape))
    before = read_tree(root)
    if shape.way is None:
        with pytest.raises(RiveltError) as caught:
            opening.open_brief(root).changes()
        assert shape.says in str(caught.value)
        assert read_tree(root) == before
        return
    job = opening.open_brief(root)
    changes = job.changes()
    touched = {path for site in job.sites for path in site.touches}
    edited = {change.path for change in changes.files if change.action == "edit"}
    assert touched == edited or (shape is SHAPES["unreadable source"] and touched > edited), "as the survey has it"
    commit.apply(changes)
    after = read_tree(root)
    notes = " ".join(changes.notes)
    assert f"the {shape.way} way" in notes
    assert shape.says in notes
    assert changes.unused == shape.unused
    check_resources(
        root, shape, compile_app(root / "app/src/main/res", root / MAIN, tmp_path / "work", stubs, shape.level)
    )
    check_levels(before, after, shape, attribute_levels)
    for path, texts in shape.holds.items():
        for text in texts:
            assert after[path].decode().count(text) == 1, (path, text, after[path].decode())
    for path in before.keys() - {"rivelt.toml"}:
        if path.endswith((".kt", ".java")):
            check_code(path, before[path], after[path])
    assert (
        not opening.open(root).check(select=["AND"]).findings
    )  # the rules, which know nothing of the planner, agree with it
    assert not any(b"&#39;" in data for path, data in after.items() if path not in before)
    assert not opening.open_brief(root).changes().files  # a second apply has nothing to do
    history.undo(root)
    assert {path: data for path, data in read_tree(root).items() if not path.startswith(".rivelt/")} == before


def check_code(path: str, before: bytes, after: bytes) -> None:
    """The code parses as well as before, and is the same but for what was inserted."""
    language = languages()[Path(path).suffix]
    assert language(after, path).root.has_error <= language(before, path).root.has_error
    lines = iter(after.splitlines())
    kept = [
        line for line in before.splitlines() if line.strip() not in {b"class Main : Base()", b"class Main: Base() {}"}
    ]
    assert all(line in lines or b"{}" in line or b"{ ((( " in line for line in kept), after


def check_levels(before: Tree, after: Tree, shape: Shape, levels: Mapping[str, int]) -> None:
    """What is new in resources is known to all systems that read it, or says from which level on (Android's lint: NewApi)."""
    for path in after.keys() - {one for one, data in before.items() if after.get(one) == data}:
        if "/res/" not in path or not path.endswith(".xml"):
            continue
        version = re.search(r"-v(\d+)$", path.split("/")[-2])
        known = max(shape.level, int(version[1]) if version else 0)
        old = before.get(path, b"").decode()
        for element in re.finditer(r"<[\w-]+\b[^>]*>", after[path].decode()):
            if element[0] in old:
                continue
            target = re.search(r"targetApi=.(\d+)", element[0])
            for name in re.findall(r"""android:(\w+)["=]""", element[0]):
                assert levels[name] <= max(known, int(target[1]) if target else 0), (path, element[0])


def check_resources(root: Path, shape: Shape, table: Table) -> None:
    """Ground, icon, imprint and the theme after launch, on every level and in both looks, as the compiler has them."""
    style = re.search(r'"[\w.]*\.Main"[^>]*android:theme="@style/(\w+)"', (root / MAIN).read_text(encoding="utf-8-sig"))
    assert style is not None
    for version in (21, 23, 28, 30, 31, 33, 35):
        for night, ground in ((False, "#fff3ebdd"), (True, "#ff13212b")):
            items = table.style(style[1], night=night, version=version)
            is_new = version >= 31 and shape.compiles >= 31
            if shape.way == "compat":
                assert items["postSplashScreenTheme"].lower() == shape.after.lower() or shape.after.startswith(
                    "@android"
                )
                assert table.resolve(items["windowSplashScreenBackground"][1:], night=night, version=version) == ground
                assert items["windowSplashScreenAnimatedIcon"] == "@drawable/rivelt_mark"
            elif is_new:
                assert table.resolve(items[NUMBERS["Background"]][1:], night=night, version=version) == ground
                assert items[NUMBERS["AnimatedIcon"]] == "@drawable/rivelt_mark"
            else:
                assert items[SYSTEM_ATTRIBUTES["windowBackground"][0]] == "@drawable/rivelt_window"
            assert (items.get(NUMBERS["BrandingImage"]) == "@drawable/rivelt_imprint") == is_new
            assert (NUMBERS["Behavior"] in items) == (version >= 33 and shape.compiles >= 33)
            if version >= 23:
                assert (items[SYSTEM_ATTRIBUTES["windowLightStatusBar"][0]] != "false") != night
            for density in (160, 320, 640):
                mark = table.resolve("drawable/rivelt_mark", night=night, version=version, density=density)
                assert mark is not None
                assert mark.endswith(".xml") == ("anydpi" in mark)


NUMBERS = {
    name: SYSTEM_ATTRIBUTES[f"windowSplashScreen{name}"][0]
    for name in ("Background", "AnimatedIcon", "BrandingImage", "Behavior")
}
