"""What `survey`, `brief` and `demo` print."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from rivelt.documents.base import Count, Document, Edition, Part, Problem, RelativePath, Root, SiteName, Target


class OwnerItem(Part, frozen=True, kw_only=True):
    """A brief, or an edition of one, that a site is of."""

    brief: RelativePath
    edition: Edition


class SiteItem(Part, frozen=True, kw_only=True):
    """A native project, as the variants of the app see it that show the same."""

    target: Target
    site: SiteName
    owners: list[OwnerItem]
    variants: Annotated[list[str], Meta(description="empty where all show the same")]
    today: Annotated[str, Meta(description="its launch screen now, in words")]
    facts: Annotated[dict[str, str], Meta(description="what was found, by what it is called in the text; for people")]
    touches: Annotated[
        list[RelativePath],
        Meta(
            description="the files that apply would edit, as far as known without planning; apply --dry-run lists them all"
        ),
    ]
    blocked: Annotated[Problem, Meta(description="why it is left alone")] | None


class UnreadItem(Part, frozen=True, kw_only=True):
    """A file or folder that is unknown because it was not read."""

    path: RelativePath
    reason: str


class SurveySummary(Part, frozen=True, kw_only=True):
    """How much there is."""

    sites: Count
    left_alone: Count
    unread: Count
    problems: Count


class SurveyDocument(Document, frozen=True, kw_only=True):
    """What `rivelt survey` prints: what is there."""

    schema: Literal["rivelt.survey/1"] = "rivelt.survey/1"
    root: Root
    summary: SurveySummary
    sites: list[SiteItem]
    unread: list[UnreadItem]
    problems: Annotated[list[Problem], Meta(description="of briefs that cannot be used")]


class BriefSummary(Part, frozen=True, kw_only=True):
    """What the brief is for."""

    targets: list[Target]
    editions: list[str]


class BriefDocument(Document, frozen=True, kw_only=True):
    """What `rivelt brief` prints once it has written the brief."""

    schema: Literal["rivelt.brief/1"] = "rivelt.brief/1"
    root: Root
    summary: BriefSummary
    brief: RelativePath


class DemoStep(Part, frozen=True, kw_only=True):
    """A step of the demo."""

    title: str
    command: Annotated[list[str], Meta(description="its words, as a shell would give them")]
    result: Annotated[str, Meta(description="a line for people")]
    exit_code: int


class DemoSummary(Part, frozen=True, kw_only=True):
    """How many steps were done."""

    steps: Count


class DemoDocument(Document, frozen=True, kw_only=True):
    """What `rivelt demo` prints. Its root is the folder of the sample app."""

    schema: Literal["rivelt.demo/1"] = "rivelt.demo/1"
    root: Root
    summary: DemoSummary
    steps: list[DemoStep]
    sheet: RelativePath
    page: RelativePath
