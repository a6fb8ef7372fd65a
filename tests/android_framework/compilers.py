"""The Kotlin and Java compilers, against the platform's own classes and stand-ins for libraries.

The stand-ins are as visible as the real classes: `onCreate` is public in many activities of libraries.
"""

from __future__ import annotations

import subprocess
from collections.abc import Mapping
from pathlib import Path

from android_framework.judge import COMPILED_AGAINST, JARS, java, write_tree

LIBRARIES = {
    "androidx/core/splashscreen/SplashScreen.kt": """package androidx.core.splashscreen
import android.app.Activity
class SplashScreen private constructor(private val activity: Activity) {
    companion object {
        @JvmStatic
        fun Activity.installSplashScreen(): SplashScreen = SplashScreen(this)
    }
    fun setKeepOnScreenCondition(condition: KeepOnScreenCondition) { condition.shouldKeepOnScreen() }
    fun interface KeepOnScreenCondition { fun shouldKeepOnScreen(): Boolean }
}
""",
    "androidx/activity/ComponentActivity.kt": """package androidx.activity
import android.os.Bundle
open class ComponentActivity : android.app.Activity() {
    override fun onCreate(savedInstanceState: Bundle?) { super.onCreate(savedInstanceState) }
}
fun ComponentActivity.enableEdgeToEdge() {}
""",
    "androidx/activity/compose/Content.kt": """package androidx.activity.compose
import androidx.activity.ComponentActivity
fun ComponentActivity.setContent(content: () -> Unit) { content() }
""",
    "androidx/appcompat/app/AppCompatActivity.kt": """package androidx.appcompat.app
open class AppCompatActivity : androidx.activity.ComponentActivity()
""",
    "example/engine/EngineActivity.kt": """package example.engine
import android.os.Bundle
open class EngineActivity : android.app.Activity() {
    public override fun onCreate(savedInstanceState: Bundle?) { super.onCreate(savedInstanceState) }
}
""",
}


class Compilers:
    """Both compilers; the stand-ins are compiled once."""

    def __init__(self, folder: Path) -> None:
        self._libraries = folder / "libraries"
        kit = java()
        assert kit is not None
        self._kit = kit
        write_tree(folder / "sources", LIBRARIES.items())
        problems = self.kotlin([folder / "sources" / name for name in LIBRARIES], self._libraries, has_libraries=False)
        assert not problems, problems

    @property
    def _path(self) -> str:
        platform = next((JARS / "levels").glob(f"android-all-{COMPILED_AGAINST}*.jar"))  # not instrumented
        jars = [platform, *sorted((JARS / "kotlin").glob("kotlin-stdlib-*.jar"))]
        return ":".join(str(jar) for jar in jars)

    def kotlin(self, files: list[Path], to: Path, *, has_libraries: bool = True) -> str:
        """Return what the Kotlin compiler has to say against the files, "" for nothing."""
        path = f"{self._path}:{self._libraries}" if has_libraries else self._path
        compiler = (
            "-cp",
            f"{JARS / 'kotlin'}/*",
            "org.jetbrains.kotlin.cli.jvm.K2JVMCompiler",
            "-no-stdlib",
            "-no-reflect",
        )
        return self._run("java", *compiler, "-nowarn", "-cp", path, "-d", str(to), *map(str, files))

    def java(self, files: list[Path], to: Path) -> str:
        """Return what the Java compiler has to say against the files, "" for nothing."""
        path = f"{self._path}:{self._libraries}"
        return self._run("javac", "-nowarn", "--release", "17", "-cp", path, "-d", str(to), *map(str, files))

    def _run(self, tool: str, *arguments: str) -> str:
        done = subprocess.run([self._kit(tool), *arguments], capture_output=True, text=True)
        said = (done.stdout + done.stderr).splitlines()
        return "" if done.returncode == 0 else "\n".join(line for line in said if not line.startswith("WARNING: "))

    def compiled(self, sources: Mapping[str, str], root: Path) -> str:
        """Return what both compilers have to say against sources, by their paths below a folder."""
        write_tree(root, sources.items())
        files = [root / name for name in sources]
        java_files = [file for file in files if file.suffix == ".java"]
        kotlin_files = [file for file in files if file.suffix == ".kt"]
        found = self.java(java_files, root / "java") if java_files else ""
        return found + (self.kotlin([*kotlin_files, *java_files], root / "kotlin") if kotlin_files else "")
