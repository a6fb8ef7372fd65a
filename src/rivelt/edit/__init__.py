"""Text-preserving edits, one module per language: located by a parser, written by splicing bytes.

Every byte outside the changed spot stays. Editing nothing gives the same bytes.
"""
