"""Numbered rules over art and native files: what they are, running them, and what they said as data."""
