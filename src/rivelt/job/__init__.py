"""The use cases: survey, measure, plates, plan, apply, undo, proof.

They join the disk's edge and the pure parts, return values and print nothing; they are what `import rivelt` offers and the only door
that the command line goes through.
"""

from rivelt.job.art import context_of, measure, measure_backdrops, measure_files, plates, targets_of, write_chart
from rivelt.job.briefs import choose_targets, find_brief, load_brief, write_brief
from rivelt.job.checks import check, explain, line_at, rules
from rivelt.job.project import (
    Applied,
    Proposal,
    Survey,
    applied_project,
    applies,
    apply,
    changes_of,
    lay_out_demo,
    prepare,
    survey,
    targets_found,
    undo,
    unfinished,
    would_be,
)
from rivelt.job.proofs import check_proof_name, prove, write_proof
from rivelt.job.watch import wait_for_change

__all__ = [
    "Applied",
    "Proposal",
    "Survey",
    "applied_project",
    "applies",
    "apply",
    "changes_of",
    "check",
    "check_proof_name",
    "choose_targets",
    "context_of",
    "explain",
    "find_brief",
    "lay_out_demo",
    "line_at",
    "load_brief",
    "measure",
    "measure_backdrops",
    "measure_files",
    "plates",
    "prepare",
    "prove",
    "rules",
    "survey",
    "targets_found",
    "targets_of",
    "undo",
    "unfinished",
    "wait_for_change",
    "would_be",
    "write_brief",
    "write_chart",
    "write_proof",
]
