"""The rules of uploads; their words and severities are in `words.toml`."""

from rivelt.platforms.uploads.site import UploadsSite
from rivelt.rules.rulebook import Rulebook, Subject

BOOK: Rulebook[Subject[UploadsSite]] = Rulebook(__name__, ("uploads",), modules=("images",))
