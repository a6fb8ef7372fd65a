"""Findings in CI, grouped by the team that owns the folder: python findings.py PROJECT ios=ios-team android=android-team.

Exits with 1 where an error or something unknown is among them.
"""

import sys
from collections import defaultdict

import rivelt


def main(project: str, owners: dict[str, str]) -> int:
    """Print the findings by team, and return the exit code."""
    report = rivelt.open(project).check()
    by_team: dict[str, list[rivelt.Finding]] = defaultdict(list)
    for finding in (*report.findings, *report.unknown):
        folder = (finding.path or "").partition("/")[0]
        by_team[owners.get(folder, "everybody")].append(finding)
    for team, findings in sorted(by_team.items()):
        print(f"{team}: {len(findings)}")
        for finding in findings:
            what = "unknown" if finding.verdict == "unknown" else finding.severity
            print(f"  {finding.place or project}: {what}: {finding.message} [{finding.code}]")
    return 1 if report.unknown or any(one.severity == "error" for one in report.findings) else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1], dict(pair.split("=", 1) for pair in sys.argv[2:])))
