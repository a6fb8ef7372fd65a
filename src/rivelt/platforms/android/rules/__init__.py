"""The rules of Android; their words and severities are in `words.toml`."""

from rivelt.platforms.android.site import AndroidSite
from rivelt.rules.rulebook import Rulebook, Subject

BOOK: Rulebook[Subject[AndroidSite]] = Rulebook(
    __name__, ("android",), modules=("build", "code", "images", "theme", "variants")
)
