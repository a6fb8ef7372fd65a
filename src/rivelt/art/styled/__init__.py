"""Style that a browser understands and the renderer does not: custom properties, newer colours, transforms and units, resolved by us."""
