"""The workspace: a plan onto disk, and off it again. The only place that writes to a project."""
