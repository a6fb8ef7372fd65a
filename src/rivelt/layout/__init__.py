"""Geometry: how large everything is drawn and where it is, under masks, on canvases, on whole screens, in front of backdrops."""
