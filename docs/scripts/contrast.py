"""How well each mark can be seen, as a plot; the same lines work in a notebook: python contrast.py PLOT.png BRIEF...

In a notebook leave `use` and `savefig` out: the figure is shown below the cell.
"""

import sys

import matplotlib as mpl
from matplotlib import pyplot as plt

import rivelt

mpl.use("Agg")
plot, *briefs = sys.argv[1:]

rows = []
for path in briefs:
    job = rivelt.open(path)
    for art in job.measure().to_dict()["art"]:
        for look, contrast in art["contrast"].items():
            rows.append((f"{job.name}, {art['role']}, {look}", contrast["tenth"], contrast["median"]))

figure, axes = plt.subplots(figsize=(8, 1 + 0.4 * len(rows)), layout="constrained")
for line, (label, tenth, median) in enumerate(rows):
    axes.plot([tenth, median], [line, line], color="0.6", zorder=1)
    axes.scatter([median], [line], color="0.1", zorder=2)
    print(f"{label}: median {median:.1f}:1, a tenth of the outline below {tenth:.1f}:1")
axes.axvline(3, color="tab:red", linewidth=1)
axes.set(xscale="log", xlim=(1, 21), xticks=[1, 3, 7, 21], xticklabels=["1:1", "3:1", "7:1", "21:1"])
axes.set(
    yticks=range(len(rows)), yticklabels=[label for label, *_ in rows], xlabel="contrast of the outline to its ground"
)
axes.invert_yaxis()
figure.savefig(plot)
