"""The rules that no platform owns, by what they are about."""

from rivelt.rules.rulebook import ArtSubject, BriefSubject, Rulebook, Subject
from rivelt.scene.site import Site

SITES: Rulebook[Subject[Site]] = Rulebook("rivelt.rules", modules=("sites", "pictures", "handoff"))
ART: Rulebook[ArtSubject] = Rulebook("rivelt.rules", modules=("art",))
DRIFT: Rulebook[BriefSubject] = Rulebook("rivelt.rules", modules=("drift",))
