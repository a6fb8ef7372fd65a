"""Pixels: the only place that renders or encodes."""
