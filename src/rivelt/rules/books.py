"""The rules that no platform owns, by what they are about."""

from rivelt.rules.rulebook import ArtSubject, BriefSubject, Rulebook, Subject
from rivelt.scene.launch import Launch
from rivelt.scene.site import Site

SITES: Rulebook[Subject[Site]] = Rulebook("rivelt.rules", modules=("sites", "pictures", "handoff"))
ART: Rulebook[ArtSubject] = Rulebook("rivelt.rules", modules=("art",))
LAUNCHES: Rulebook[Launch] = Rulebook("rivelt.rules", modules=("launch",))
DRIFT: Rulebook[BriefSubject] = Rulebook("rivelt.rules", modules=("drift",))
