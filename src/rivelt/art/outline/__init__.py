"""Outlines: an SVG as plain filled and stroked paths, every transform, reference, class and unit resolved."""
