"""Web app manifests and metadata that code makes: found, read, proved, and edited where they are written out."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from conftest import Command, read_tree
from test_other_scenes import png
from test_web import PAGE, PLAIN, app, package

NEXT = """import type { MetadataRoute } from 'next'

const SEA: string = '#102030'

export default function manifest(): MetadataRoute.Manifest {
  return {
    name: 'Tern',
    short_name: 'Tern',
    display: 'standalone',  // an app of its own
    background_color: SEA,
    icons: [
      { src: '/a.png', sizes: '192x192', type: 'image/png' },
    ],
  }
}
"""
LAYOUT = """export const metadata = {{ title: 'Tern', appleWebApp: {} }}
export default function Layout({{ children }}) {{ return <html><body>{{children}}</body></html> }}
"""
VITE = """import { VitePWA } from 'vite-plugin-pwa'
export default defineConfig({
  plugins: [VitePWA({ registerType: "autoUpdate", manifest: { name: "Tern", start_url: "/", display: "standalone" } })],
})
"""
TREE: dict[str, str | bytes] = {
    "package.json": package(next="14"),
    "app/layout.tsx": LAYOUT.format("{ capable: true }"),
    "public/a.png": png(192, 192),
}

# The tree; the manifest's file; what it holds after apply; what it does not.
SHAPES: dict[str, tuple[dict[str, str | bytes], str, tuple[str, ...], tuple[str, ...]]] = {
    "a function of a framework": (
        {**TREE, "app/manifest.ts": NEXT.replace("background_color: SEA", "background_color: '#000'")},
        "app/manifest.ts",
        (
            "background_color: '#F3EBDD',",
            "theme_color: '#F3EBDD',",
            "{ src: '/a.png', sizes: '192x192', type: 'image/png' },\n      { src: 'rivelt/icon-512.png', sizes: '512x512'",
            "display: 'standalone',  // an app of its own",
        ),
        ("icon-192",),
    ),
    "an object in a source folder": (
        {
            "package.json": package(next="14"),
            "src/app/manifest.js": "export default { name: 'Tern', display: 'standalone' }\n",
        },
        "src/app/manifest.js",
        ("display: 'standalone', background_color: '#F3EBDD', theme_color: '#F3EBDD', icons: [{ src:",),
        (),
    ),
    "the options of a plugin": (
        {
            "vite.config.ts": VITE,
            "index.html": "<!doctype html>\n<html>\n<head>\n  <title>Tern</title>\n</head>\n</html>\n",
            "package.json": package(vite="5"),
        },
        "vite.config.ts",
        (
            'display: "standalone", background_color: "#F3EBDD", theme_color: "#F3EBDD", icons: [{ src: "rivelt/icon-192.png"',
        ),
        (),
    ),
    "satisfies, and a trailing comma": (
        {
            "package.json": package(next="14"),
            "app/manifest.ts": 'export default (() => ({\n\tname: "T",\n\tdisplay: "standalone",\n}) satisfies M)\n',
        },
        "app/manifest.ts",
        ('\tdisplay: "standalone",\n\tbackground_color: "#F3EBDD",\n\ttheme_color: "#F3EBDD",\n\ticons: [',),
        (),
    ),
}


@pytest.mark.parametrize("shape", SHAPES)
def test_a_manifest_in_code_is_edited_where_it_is_written_out(tmp_path: Path, rivelt: Command, shape: str) -> None:
    files, path, holds, lacks = SHAPES[shape]
    root = app(tmp_path, files, PLAIN)
    before = read_tree(root)
    sites = rivelt("survey", "--json", cwd=root).json["sites"]
    assert [site["site"] for site in sites] == [path]
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    text = (root / path).read_text()
    for part in holds:
        assert part in text, text
    for part in lacks:
        assert part not in text
    assert (root / "public/rivelt/icon-512.png").exists()
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    scenes = rivelt("proof", "--now", "--json", "--screens", "Chromium", "--out", tmp_path / "p.png", cwd=root).json[
        "scenes"
    ]
    assert {scene["ground"] for scene in scenes} == {"#F3EBDD"}
    assert rivelt("check", "--select", "WEB07", cwd=root).code == 0
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


def test_what_code_works_out_is_a_manual_step_in_its_own_syntax(tmp_path: Path, rivelt: Command) -> None:
    text = NEXT.replace("background_color: SEA", "background_color: theme.sea()").replace(
        "    icons: [\n      { src: '/a.png', sizes: '192x192', type: 'image/png' },\n    ],", "    icons: icons(),"
    )
    root = app(tmp_path, {**TREE, "app/manifest.ts": text}, PLAIN)
    done = rivelt("apply", cwd=root)
    assert "Write these into the manifest, whose values code works out" in done.out
    assert 'background_color: "#F3EBDD",' in done.out
    assert "{ src: 'rivelt/icon-192.png', sizes: '192x192', type: 'image/png', purpose: 'any' }," in done.out
    after = (root / "app/manifest.ts").read_text()
    assert after == text.replace("    icons: icons(),", "    icons: icons(),\n    theme_color: '#F3EBDD',")
    scenes = rivelt("proof", "--now", "--json", "--screens", "Chromium", "--out", tmp_path / "p.png", cwd=root).json[
        "scenes"
    ]
    assert all("theme.sea(), which code works out" in " ".join(scene["unknown"]) for scene in scenes)


def test_constants_are_followed(tmp_path: Path, rivelt: Command) -> None:
    root = app(tmp_path, {**TREE, "app/manifest.ts": NEXT}, PLAIN)
    scenes = rivelt("proof", "--now", "--json", "--screens", "Chromium", "--out", tmp_path / "p.png", cwd=root).json[
        "scenes"
    ]
    assert {scene["ground"] for scene in scenes} == {"#102030"}


def test_startup_images_of_a_layout_are_read_and_written_as_lines(tmp_path: Path, rivelt: Command) -> None:
    root = app(tmp_path, {**TREE, "app/manifest.ts": NEXT}, PLAIN)
    assert not list(root.glob("public/rivelt/start-*"))
    (root / "rivelt.toml").write_text(PLAIN + "startup = true\n")
    done = rivelt("apply", cwd=root)
    assert "Name the startup images in the metadata" in done.out
    lines = [line.strip() for line in done.out.splitlines()]
    begin, end = lines.index("appleWebApp: {"), lines.index("},", lines.index("],"))
    assert (root / "app/layout.tsx").read_text() == LAYOUT.format("{ capable: true }")
    written = "\n".join(lines[begin + 1 : end])
    (root / "app/layout.tsx").write_text(LAYOUT.format("{ " + written + " }"))
    again = rivelt("apply", cwd=root)
    assert "Nothing to do" in again.out
    assert "Name the startup images" not in again.out
    scenes = rivelt("proof", "--now", "--json", "--screens", "iPhone 15", "--out", tmp_path / "p.png", cwd=root).json[
        "scenes"
    ]
    assert {scene["ground"] for scene in scenes} == {"#F3EBDD", "#13212B"}
    assert rivelt("check", "--select", "WEB05", cwd=root).code == 0


def test_templates_of_pages_are_named(tmp_path: Path, rivelt: Command) -> None:
    manifest = json.dumps({"name": "Tern", "display": "standalone", "start_url": "."})
    root = app(
        tmp_path,
        {
            "m.webmanifest": manifest,
            "views/head.ejs": PAGE.format("<%= base %>m.webmanifest"),
            "views/head.pug": 'link(rel="manifest" href="m.webmanifest")',
        },
        PLAIN,
    )
    (site,) = rivelt("survey", "--json", cwd=root).json["sites"]
    assert site["facts"]["templates of pages"] == "views/head.ejs, views/head.pug"
    done = rivelt("apply", cwd=root)
    assert "views/head.ejs" in done.out + done.err
