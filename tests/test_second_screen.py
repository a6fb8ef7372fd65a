"""A launch screen of the app's own after the system's: recognised in sources of many shapes, and told with the real names."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from aapt import compile_app
from conftest import MANIFEST, Command, read_tree, write_tree
from test_android_shapes import JAVA_SOURCE, MAIN, MODERN_STYLES, SOURCE, STYLE_FILE, Shape, tree

KOTLIN = """package example.tern

import android.os.Bundle

class Main : AppCompatActivity() {{
    {fields}
    override fun onCreate(savedInstanceState: Bundle?) {{
        super.onCreate(savedInstanceState)
        setContentView(R.layout.opening)
        {body}
    }}

    private fun go() {{
        startActivity(Intent(this, Home::class.java))
        finish()
    }}
    {members}
}}
"""
JAVA = """package example.tern;

public class Main extends Activity {{
    {fields}
    @Override
    protected void onCreate(Bundle state) {{
        super.onCreate(state);
        {body}
    }}

    private void go() {{
        Intent intent = new Intent(Main.this, Home.class);
        startActivity(intent);
        finish();
    }}
    {members}
}}
"""


def kotlin(body: str = "", fields: str = "", members: str = "") -> tuple[str, str]:
    return SOURCE, KOTLIN.format(body=body, fields=fields, members=members)


def java(body: str = "", fields: str = "", members: str = "") -> tuple[str, str]:
    return JAVA_SOURCE, JAVA.format(body=body, fields=fields, members=members)


CLICKED = "button.setOnClickListener { go() }"
# name: source, how long it is shown in milliseconds (None: not known).
SECOND: dict[str, tuple[tuple[str, str], int | None]] = {
    "posted": (kotlin("Handler(Looper.getMainLooper()).postDelayed({ go() }, 2000)"), 2000),
    "posted by reference": (kotlin("view.postDelayed(::go, WAIT)", members="companion object {\n private const val WAIT = 1_500L\n }"), 1500),
    "a coroutine": (kotlin("lifecycleScope.launch {\n delay(2.seconds)\n go()\n }"), 2000),
    "a coroutine in a function": (kotlin("begin()", members="private fun begin() = lifecycleScope.launch {\n delay(900)\n withContext(Main) { go() }\n }"), 900),
    "a variable": (kotlin("handler.postDelayed(next, 1200)", fields="private val next = Runnable { go() }"), 1200),
    "a timer": (kotlin("object : CountDownTimer(3000, 1000) {\n override fun onTick(left: Long) {}\n override fun onFinish() { go() }\n }.start()"), 3000),
    "an animation": (kotlin("logo.animate().alpha(1f).withEndAction { go() }.start()"), None),
    "an animator": (kotlin("animator.addListener(object : AnimatorListenerAdapter() {\n override fun onAnimationEnd(a: Animator) { go() }\n })"), None),
    "a film": (kotlin("video.setOnCompletionListener { go() }"), None),
    "in onResume": (kotlin(members="override fun onResume() {\n super.onResume()\n window.decorView.postDelayed({ go() }, 700)\n }"), 700),
    "a stream": (kotlin("Observable.timer(2, TimeUnit.SECONDS).subscribe { go() }"), 2000),
    "Java, posted": (java("new Handler().postDelayed(new Runnable() { @Override public void run() { go(); } }, WAIT);", fields="private static final int WAIT = 2500;"), 2500),
    "Java, a lambda": (java("new Handler().postDelayed(() -> { startActivity(new Intent(this, Home.class)); finish(); }, 800);"), 800),
    "Java, a thread": (java("new Thread() { public void run() { try { Thread.sleep(3000); } catch (InterruptedException e) {} finally { go(); } } }.start();"), 3000),
    "Java, by reference": (java("handler.postDelayed(this::go, 600);"), 600),
    "Java, a timer": (java("new Timer().schedule(new TimerTask() { @Override public void run() { go(); } }, 1000);"), 1000),
    "Java, an animation": (java("fade.setAnimationListener(new Animation.AnimationListener() { public void onAnimationEnd(Animation a) { go(); } });"), None),
}  # fmt: skip
ORDINARY = {
    "pauses elsewhere": kotlin(CLICKED, members="private fun hint() = lifecycleScope.launch {\n delay(500)\n show()\n }"),
    "a click": kotlin(CLICKED),
    "a click, and a delay": kotlin(f"{CLICKED}\n handler.postDelayed({{ hint() }}, 300)", members="private fun hint() {}"),
    "pressed twice to leave": kotlin("handler.postDelayed({ armed = false }, 2000)", members="override fun onBackPressed() { finish() }"),
    "a rating, asked late": kotlin("handler.postDelayed({ startActivity(Intent(this, Rate::class.java)) }, 60000)"),
    "continues at once": kotlin("go()"),
    "a logout": kotlin("menu.setOnMenuItemClickListener { lifecycleScope.launch { delay(1); go() }; true }"),
    "Java, a click": java("button.setOnClickListener(v -> new Handler().postDelayed(this::go, 200));"),
}  # fmt: skip
COMPOSE = """package example.tern

import androidx.activity.compose.setContent

class Main : ComponentActivity() {
    override fun onCreate(savedInstanceState: Bundle?) {
        super.onCreate(savedInstanceState)
        setContent { Ferries() }
    }
}
"""
HOST = """package example.tern

@Composable
fun Ferries(nav: NavHostController = rememberNavController()) {
    NavHost(navController = nav, startDestination = %s) {
        composable%s { %s }
        composable("home") { Home() }
    }
}
"""
OPENING = """package example.tern

@Composable
fun Opening(%s) {
    LaunchedEffect(Unit) {
        delay(2000)
        %s
    }
    Image(painterResource(R.drawable.logo), null)
}
"""
COMPOSED = {
    "navigates itself": ('"opening"', '("opening")', "Opening(nav)", "nav: NavHostController", 'nav.navigate("home")', True),
    "is given what navigates": ('"opening"', '("opening")', 'Opening(onDone = { nav.navigate("home") })', "onDone: () -> Unit", "onDone()", True),
    "a lambda behind": ("Routes.OPENING", "(Routes.OPENING)", 'Opening { nav.navigate("home") }', "onDone: () -> Unit", "onDone()", True),
    "by type": ("Opening", "<Opening>", 'Opening { nav.navigate("home") }', "onDone: () -> Unit", "onDone()", True),
    "waits, and stays": ('"opening"', '("opening")', "Opening(nav)", "nav: NavHostController", "hint = true", False),
    "is not the start": ('"home"', '("opening")', "Opening(nav)", "nav: NavHostController", 'nav.navigate("home")', False),
}  # fmt: skip


def second_of(root: Path, rivelt: Command) -> list[str]:
    told = json.loads(rivelt("check", "--select", "AND12", "--json", cwd=root).out)
    return [one["message"] for one in told["findings"] if one["verdict"] == "broken"]


@pytest.mark.parametrize("name", SECOND)
def test_an_activity_that_waits_and_goes_on(tmp_path: Path, rivelt: Command, name: str) -> None:
    (path, text), milliseconds = SECOND[name]
    root = write_tree(tmp_path / "tern", tree(Shape({SOURCE: None, path: text})))
    (message,) = second_of(root, rivelt)
    shown = f"for {milliseconds / 1000:g} s" if milliseconds else "for an unknown time"
    assert message == f"a second launch screen: Main is shown {shown}, then starts Home"


@pytest.mark.parametrize("name", ORDINARY)
def test_an_ordinary_activity_is_not_accused(tmp_path: Path, rivelt: Command, name: str) -> None:
    path, text = ORDINARY[name]
    root = write_tree(tmp_path / "tern", tree(Shape({SOURCE: None, path: text})))
    assert second_of(root, rivelt) == []


@pytest.mark.parametrize("name", COMPOSED)
def test_a_composable_that_waits_and_goes_on(tmp_path: Path, rivelt: Command, name: str) -> None:
    start, at, call, parameter, end, is_second = COMPOSED[name]
    folder = SOURCE.rpartition("/")[0]
    files = {
        SOURCE: COMPOSE,
        f"{folder}/Nav.kt": HOST % (start, at, call),
        f"{folder}/Opening.kt": OPENING % (parameter, end),
    }
    root = write_tree(tmp_path / "tern", tree(Shape(files)))
    message = f'a second launch screen: {start} is shown for 2 s, then navigates to "home"'
    assert second_of(root, rivelt) == ([message] if is_second else [])


def test_it_is_told_everywhere_with_the_real_names(tmp_path: Path, rivelt: Command) -> None:
    manifest = MANIFEST.replace(
        "</application>", '<activity android:name=".ui.Home" android:exported="false"/></application>'
    )
    (path, text), _ = SECOND["posted"]
    layout = "app/src/main/res/layout/opening.xml"
    root = write_tree(tmp_path / "tern", tree(Shape({MAIN: manifest, path: text, layout: "<FrameLayout/>"})))
    assert f"second launch screen   {path}:7:18: Main, for 2 s, then Home" in rivelt("survey", cwd=root).out
    shown = json.loads(rivelt("proof", "--json", cwd=root).out)["handoffs"][0]["steps"]
    assert shown[-1]["moment"] == "second launch screen, Main, for 2 s"
    steps = json.loads(rivelt("apply", "--dry-run", "--json", cwd=root).out)["manual_steps"]
    assert steps[0]["title"] == ".Main is a second launch screen, shown for 2 s: let the launcher start .ui.Home"
    assert steps[0]["lines"][0].startswith("@@ ")
    assert (
        '+    <activity android:name=".ui.Home" android:exported="true" android:theme="@style/rivelt_launch">'
        in steps[0]["lines"]
    )
    moved = [line for line in steps[0]["lines"] if "category.LAUNCHER" in line]
    assert sorted(line[0] for line in moved) == ["+", "-"]
    assert steps[1]["lines"] == [path, layout]


REPLACE = 'second_screen = "replace"'
TWO = MANIFEST.replace("</application>", '<activity android:name=".ui.Home" android:exported="false"/></application>')
HOME = "package example.tern.ui\n\nimport android.os.Bundle\nimport androidx.appcompat.app.AppCompatActivity\n\nclass Home : AppCompatActivity() {\n    override fun onCreate(savedInstanceState: Bundle?) {\n        super.onCreate(savedInstanceState)\n    }\n}\n"
HOME_PATH = "app/src/main/java/example/tern/ui/Home.kt"


def with_two(source: tuple[str, str], **more: str) -> dict[str, str | bytes | None]:
    layout = {"app/src/main/res/layout/opening.xml": "<FrameLayout/>"}
    return {MAIN: TWO, SOURCE: None, source[0]: source[1], HOME_PATH: HOME, **layout, **more}


def test_the_launcher_moves_to_what_it_leads_to(tmp_path: Path, rivelt: Command, stubs: tuple[Path, Path]) -> None:
    source = SECOND["posted"][0]
    files = with_two(source)
    files[MAIN] = TWO.replace('".Main"', '".Main" android:theme="@style/Tern.Opening"')
    files[STYLE_FILE] = MODERN_STYLES.replace("</resources>", '    <style name="Tern.Opening"/>\n</resources>')
    root = write_tree(tmp_path / "tern", tree(Shape(files, options=REPLACE)))
    before = read_tree(root)
    done = rivelt("apply", "--json", cwd=root)
    assert done.code == 0, done.err
    told = json.loads(done.out)
    assert told["unused"] == [source[0], "app/src/main/res/layout/opening.xml"]
    assert not told["manual_steps"]
    manifest = (root / MAIN).read_text()
    assert '".Main"' not in manifest
    assert '<activity android:name=".ui.Home" android:exported="true" android:theme="@style/rivelt_launch">' in manifest
    assert manifest.count("android.intent.category.LAUNCHER") == 1
    assert "installSplashScreen()" in (root / HOME_PATH).read_text()
    assert (root / source[0]).read_bytes() == before[source[0]]
    compile_app(root / "app/src/main/res", root / MAIN, tmp_path / "work", stubs)
    assert second_of(root, rivelt) == []
    again = rivelt("apply", cwd=root)
    assert "Nothing to do" in again.out
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before
    assert rivelt("apply", "--prune", cwd=root).code == 0
    assert not (root / source[0]).exists()
    assert (root / STYLE_FILE).read_text() == MODERN_STYLES
    assert rivelt("remove", cwd=root).code == 3  # what it began with is not there any more
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before
    assert rivelt("apply", cwd=root).code == 0
    assert rivelt("remove", cwd=root).code == 0
    assert (root / MAIN).read_bytes() == before[MAIN]


@pytest.mark.parametrize(
    ("change", "reason"),
    [
        (with_two(kotlin("migrate()\n handler.postDelayed({ go() }, 900)", members="private fun migrate() { Store.open() }")), "Main does more than wait: Store.open()"),
        (with_two(kotlin("Store.open()\n handler.postDelayed({ go() }, 900)")), "Main does more than wait: Store.open()"),
        (with_two(kotlin("handler.postDelayed({ if (Store.isNew) startActivity(Intent(this, Tour::class.java)) else go() }, 900)")), "Main leads to Tour, Home"),
        (with_two(SECOND["posted"][0], **{MAIN: TWO.replace(".ui.Home", ".Other")}), "Home is not declared in"),
        (with_two(SECOND["posted"][0], **{MAIN: TWO.replace("</intent-filter>", "</intent-filter><intent-filter><action android:name=\"x\"/></intent-filter>", 1)}), "started in other ways too"),
        (with_two(SECOND["posted"][0], **{HOME_PATH: HOME.replace("}\n}", "    startActivity(Intent(this, Main::class.java))\n    }\n}")}), "Main is named in app/src/main/java/example/tern/ui/Home.kt"),
    ],
)  # fmt: skip
def test_what_is_not_safe_is_left_with_the_reason(
    tmp_path: Path, rivelt: Command, change: dict[str, str | bytes | None], reason: str
) -> None:
    root = write_tree(tmp_path / "tern", tree(Shape(change, options=REPLACE)))
    told = json.loads(rivelt("apply", "--dry-run", "--json", cwd=root).out)
    assert reason in told["notes"][-1]
    assert "is a second launch screen" in told["manual_steps"][0]["title"]


def test_the_start_of_a_navigation_moves(tmp_path: Path, rivelt: Command) -> None:
    start, at, call, parameter, end, _ = COMPOSED["is given what navigates"]
    folder = SOURCE.rpartition("/")[0]
    nav = f"{folder}/Nav.kt"
    files = {SOURCE: COMPOSE, nav: HOST % (start, at, call), f"{folder}/Opening.kt": OPENING % (parameter, end)}
    root = write_tree(tmp_path / "tern", tree(Shape(files, options=REPLACE)))
    before = read_tree(root)
    assert rivelt("apply", cwd=root).code == 0
    assert (root / nav).read_text() == (HOST % (start, at, call)).replace(
        f"startDestination = {start}", 'startDestination = "home"'
    )
    assert second_of(root, rivelt) == []
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before
