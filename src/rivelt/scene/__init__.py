"""Scenes: what one device shows at launch in one look, and the screens they are worked out for."""
