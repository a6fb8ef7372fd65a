"""What would be done to an Android app module: the platform's own way, without a library."""

from __future__ import annotations

from rivelt.errors import BadInput, Place
from rivelt.plan.context import PlanContext
from rivelt.plan.model import EditFile, HandStep, Plan, Plate, WriteFile
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.manifest import read_manifest
from rivelt.platforms.android.plates import plates
from rivelt.platforms.android.resources import Resources
from rivelt.platforms.android.site import LAUNCH_THEME, PREFIX, VALUES_FILE, AndroidSite
from rivelt.platforms.site import Site
from rivelt.project.snapshot import Snapshot, join
from rivelt.templating import Templates

_TEMPLATES = Templates("rivelt.platforms.android")
_NAMES = (
    ("drawable", "mark"),
    ("drawable", "imprint"),
    ("drawable", "window"),
    ("color", "ground"),
    ("style", "launch"),
)


def plan(context: PlanContext, snapshot: Snapshot, site: Site) -> Plan:
    """All that would be done to an app module.

    Raises:
        BadInput: a name that would be generated is taken by the app.
    """
    assert isinstance(site, AndroidSite)
    made_plates = tuple(Plate(join(site.res, plate.path), plate.look, plate.recipe) for plate in plates(context))
    files = _files(context, site)
    made = Plan("android", site.name, plates=made_plates, files=files)
    _refuse_taken_names(snapshot, site, set(made.generated_paths()))
    facts = android_facts()
    notes = [note for look in context.looks("mark") if (note := context.mark_note(look, facts.icon.mask))]
    return Plan(
        "android",
        site.name,
        plates=made_plates,
        files=files,
        edits=_edits(snapshot, site),
        hand_steps=_hand_steps(snapshot, site),
        notes=tuple(notes),
    )


def _files(context: PlanContext, site: AndroidSite) -> tuple[WriteFile, ...]:
    has_imprint = context.has("imprint")
    values = {"prefix": PREFIX, "parent": site.app_theme, "has_imprint": has_imprint}
    window = _TEMPLATES.render("window.xml.j2", **values, foot=f"{android_facts().imprint.foot:g}")
    made = [(f"drawable/{PREFIX}window.xml", window, "the window's background up to Android 11")]
    for look in context.brief.shown_looks:
        night = "-night" if look == "dark" else ""
        ground = context.brief.looks[look].ground.android
        older = _TEMPLATES.render("values.xml.j2", **values, ground=ground)
        newer = _TEMPLATES.render("values-v31.xml.j2", **values)
        made.append((f"values{night}/{VALUES_FILE}", older, f"ground and launch theme, {look}"))
        made.append((f"values{night}-v31/{VALUES_FILE}", newer, f"launch theme from Android 12, {look}"))
    return tuple(WriteFile(join(site.res, path), text.encode(), summary) for path, text, summary in made)


def _edits(snapshot: Snapshot, site: AndroidSite) -> tuple[EditFile, ...]:
    before = snapshot.read(site.manifest)
    after = read_manifest(before, site.manifest).with_theme(f"@style/{LAUNCH_THEME}")
    if after == before:
        return ()
    return (EditFile(site.manifest, before, after, f"{site.activity} starts with @style/{LAUNCH_THEME}"),)


def _hand_steps(snapshot: Snapshot, site: AndroidSite) -> tuple[HandStep, ...]:
    package, _, style = site.app_theme.removeprefix("@").partition("style/")
    owner = "android." if package == "android:" else ""
    call = f"setTheme({owner}R.style.{style.replace('.', '_')})"
    if site.source is not None and call in snapshot.read(site.source).decode("utf-8", "replace"):
        return ()
    semicolon = ";" if site.language == "Java" else ""
    title = (
        f"In {site.activity}, give the app its own theme back: the first line of onCreate, before super.onCreate(...)"
    )
    return (HandStep(title, site.source, (call + semicolon,)),)


def _refuse_taken_names(snapshot: Snapshot, site: AndroidSite, own: set[str]) -> None:
    resources = Resources.of_folder(snapshot, site.res)
    for kind, name in _NAMES:
        for entry in resources.defined(kind, PREFIX + name):
            # A folder that only an earlier brief asked for is ours too: its files bear our names.
            is_ours = entry.path in own or entry.path.rpartition("/")[2] in {VALUES_FILE, f"{PREFIX}{name}.png"}
            if not is_ours:
                at = Place(entry.path, entry.node.line if entry.node else None)
                hint = "Rename the app's own resource; Rivelt's names begin with " + PREFIX
                raise BadInput(f"the name {kind}/{PREFIX}{name} is taken by the app", place=at, hint=hint)
