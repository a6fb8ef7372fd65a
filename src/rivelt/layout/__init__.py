"""Geometry: how large everything is drawn and where it lies, under masks, on canvases, on whole screens, in front of backdrops."""
